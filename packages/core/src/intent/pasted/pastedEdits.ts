import type { Finding } from '../../finding.ts';
import { applyEdit, describeEdit, schemaOfEdit, type Edit } from '../edits/index.ts';
import type { FabricIntent } from '../intent.ts';
import { validate } from '../schemas/validate.ts';

/** What one line that was pasted asks for, or why it cannot be. */
export interface PastedLine {
  /** As a spreadsheet counts, its heading included. */
  readonly line: number;
  /** Empty = it is so already, or it cannot be. */
  readonly edits: readonly Edit[];
  readonly sentence: string;
  readonly findings: readonly Finding[];
}
export interface PastedEdits {
  readonly lines: readonly PastedLine[];
  /** Headings that mean nothing here; their columns are left aside. */
  readonly unknown: readonly string[];
}

/** A column of a pasted table: where its values go, and what its heading may be called. */
export interface PastedColumn<K extends string> {
  readonly key: K;
  readonly called: readonly string[];
}
export type PastedRow<K extends string> = Readonly<Partial<Record<K, string>>>;

/**
 * Cells of a spreadsheet as edits, line by line, each judged as if those above it were made. The first line is a heading
 * where its first cell is the name of the first column; without one, columns stand in the order given. An empty cell says
 * nothing. `make` answers the edits, none where it is so already, or a sentence with what to do instead.
 */
export function pastedEdits<K extends string>(
  before: FabricIntent,
  cells: readonly (readonly string[])[],
  columns: readonly PastedColumn<K>[],
  make: (row: PastedRow<K>, intent: FabricIntent) => readonly Edit[] | string,
): PastedEdits {
  const isCalled = (c: PastedColumn<K>, word: string): boolean => c.called.includes(word.trim().toLowerCase());
  const headed = isCalled(columns[0]!, cells[0]?.[0] ?? '');
  const order = headed ? cells[0]!.map((word) => columns.find((c) => isCalled(c, word))) : columns;
  let intent = before;
  const lines = cells.slice(headed ? 1 : 0).map((row, i): PastedLine => {
    const values: Partial<Record<K, string>> = {};
    row.forEach((cell, at) => {
      const key = order[at]?.key;
      if (key !== undefined && cell.trim() !== '') values[key] = cell.trim();
    });
    const line = i + (headed ? 2 : 1);
    const made = make(values, intent);
    const asPasted = row.filter((c) => c.trim() !== '').join(', ');
    const refused = (findings: readonly Finding[]): PastedLine => ({ line, edits: [], sentence: asPasted, findings });
    if (typeof made === 'string')
      return refused([{ rule: 'pasted', severity: 'error', path: `/${line}`, message: made }]);
    let next = intent;
    for (const edit of made) {
      const sound = validate<Edit>(schemaOfEdit(edit.kind), edit);
      if ('findings' in sound) return refused(sound.findings);
      const applied = applyEdit(next, edit);
      if (applied.findings.length > 0) return refused(applied.findings);
      next = applied.intent;
    }
    intent = next;
    const last = made.at(-1);
    return { line, edits: made, sentence: last ? describeEdit(last) : `${asPasted}: is so already`, findings: [] };
  });
  const unknown = headed ? cells[0]!.filter((word, at) => word.trim() !== '' && !order[at]) : [];
  return { lines, unknown };
}
