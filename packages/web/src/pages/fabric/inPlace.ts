import type { Problem } from '@anthemion/contract';
import { makingOf, sameContent, type Edit, type Finding, type MadeKind } from '@anthemion/core';
import { notMade, type Made } from '../../app/useEdits.ts';

/** An object of an intent, and what it is known by. */
export interface Keyed {
  readonly key: string;
  readonly item: unknown;
}

/** What a form says that is sent as it was: a second click on what added it comes here too. */
export const UNCHANGED: Pick<Problem, 'findings' | 'detail'> = { findings: [], detail: 'Nothing is changed yet.' };

/** The edit that takes an object away. */
export const removal = (kind: MadeKind, { key, item }: Keyed): Edit => makingOf(kind).remove(key, item);

/** An object that is put, as its form has it. */
export interface Put<T> {
  readonly kind: MadeKind;
  readonly edit: Edit;
  readonly item: T;
  readonly keyOf: (item: T) => string;
  /** What it was, where it is there; undefined = it is new. */
  readonly known: T | undefined;
  /** All of its kind. */
  readonly all: readonly T[];
  /** What is said where another has its key: put, that one would be changed unseen. */
  readonly taken: (twin: T) => Finding;
}

/**
 * Makes an edit that puts an object; where it was known otherwise, it comes in the place of what it was. What is refused of it
 * stands at the fields of its form, which knows of one edit. Null = it was made, or waits for a change to be opened.
 */
export async function putInPlace<T>(
  makeEdits: (edits: readonly Edit[], quiet: boolean) => Promise<Made>,
  { kind, edit, item, keyOf, known, all, taken }: Put<T>,
): Promise<Pick<Problem, 'findings' | 'detail'> | null> {
  const key = keyOf(item);
  const was = known && { key: keyOf(known), item: known };
  if (was?.key === key) return sameContent(item, known) ? UNCHANGED : notMade(await makeEdits([edit], true));
  const twin = all.find((other) => keyOf(other) === key);
  if (twin !== undefined) {
    const finding = taken(twin);
    return { findings: [finding], detail: finding.message };
  }
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
