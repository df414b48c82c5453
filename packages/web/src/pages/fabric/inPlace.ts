import type { Problem } from '@anthemion/contract';
import { makingOf, type Edit, type Finding, type MadeKind } from '@anthemion/core';
import { notMade, type Made } from '../../app/useEdits.ts';

/** An object of an intent, and what it is known by. */
export interface Keyed {
  readonly key: string;
  readonly item: unknown;
}

/** The edit that takes an object away. */
export const removal = (kind: MadeKind, { key, item }: Keyed): Edit => makingOf(kind).remove(key, item);

/** An object that is put, as its form has it. */
export interface Put {
  readonly kind: MadeKind;
  readonly edit: Edit;
  readonly key: string;
  /** What it was, where it is there; undefined = it is new. */
  readonly was: Keyed | undefined;
  /** What is said where another has that key: put, it would be changed unseen. */
  readonly taken: Finding | undefined;
}

/**
 * Makes an edit that puts an object; where it was known otherwise, it comes in the place of what it was. What is refused of it
 * stands at the fields of its form, which knows of one edit. Null = it was made, or waits for a change to be opened.
 */
export async function putInPlace(
  makeEdits: (edits: readonly Edit[], quiet: boolean) => Promise<Made>,
  { kind, edit, key, was, taken }: Put,
): Promise<Pick<Problem, 'findings' | 'detail'> | null> {
  if (was?.key === key) return notMade(await makeEdits([edit], true));
  if (taken) return { findings: [taken], detail: taken.message };
  if (!was) return notMade(await makeEdits([edit], true));
  const refused = notMade(await makeEdits([removal(kind, was), edit], true));
  return (
    refused && {
      ...refused,
      findings: refused.findings.map((f) =>
        f.path === undefined ? f : { ...f, path: f.path.replace('/edits/1/', '/edits/0/') },
      ),
    }
  );
}
