import { describeEdits, editsBetween, problem, readIntentFile, type Edit, type Finding } from '@anthemion/core';
import type { Db } from '../../store/database.ts';
import { liveState, snapshot } from './state.ts';

/** The edits that lead from what is live to what an intent file says. */
export interface TakeFileTask {
  readonly do: 'take file';
  readonly fabric: string;
  readonly text: string;
}
export type TakenFile =
  | { readonly edits: readonly Edit[]; readonly sentences: readonly string[] }
  /** Why it cannot be taken, with the lines of the file; paths lead into the request. */
  | { readonly findings: readonly Finding[] };

/** Where a finding about a line of the file stands in the request, and what it says. */
const inText = (finding: Finding & { readonly line?: number }): Finding => {
  const { line, message, ...rest } = finding;
  return line === undefined
    ? { ...rest, message, path: '/text' }
    : { ...rest, message: `Line ${line}: ${message}`, path: `/text/${line}` };
};

export const takeFileTask = (db: Db, { fabric, text }: TakeFileTask): Promise<TakenFile> =>
  snapshot(db, async (tx) => {
    const read = readIntentFile(text);
    if ('findings' in read) return { findings: read.findings.map(inText) };
    const { fabric: said } = read.file;
    const { intent } = await liveState(tx, fabric);
    if (said.name !== intent.name || said.namePrefix !== intent.namePrefix)
      return {
        findings: [
          problem(
            'file-fabric',
            '/text',
            `The file is of ${said.name} with switches named ${said.namePrefix}-…; this is ${intent.name} with ${intent.namePrefix}-….`,
            'Take the file of this fabric, or write its name and prefix into it.',
          ),
        ],
      };
    const edits = editsBetween(intent, said);
    if (edits.length === 0)
      return {
        findings: [
          problem('file-same', '/text', 'The file says what is live: nothing would change.', 'Change it first.'),
        ],
      };
    return { edits, sentences: describeEdits(edits, intent) };
  });
