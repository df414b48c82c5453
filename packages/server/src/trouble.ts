import type { Finding } from '@anthemion/core';

/** Kinds of no, whoever asks: what they become in an HTTP answer is decided in http/problem.ts. */
export type TroubleKind =
  | 'unreadable'
  | 'not signed in'
  | 'not allowed'
  | 'not there'
  | 'not now'
  | 'overtaken'
  | 'version unsaid'
  | 'refused'
  | 'too large'
  | 'too many'
  | 'wrong host'
  | 'no room'
  | 'damaged'
  | 'no answer';

/** Why something was not done, in words for people. Nothing was changed when one of these is thrown. */
export class Trouble extends Error {
  readonly kind: TroubleKind;
  readonly findings: readonly Finding[];
  constructor(kind: TroubleKind, words: string, findings: readonly Finding[] = []) {
    super(words);
    this.kind = kind;
    this.findings = findings;
  }
}

/** The input is wrong; the first finding speaks for all. */
export const refused = (findings: readonly Finding[]): Trouble =>
  new Trouble(
    'refused',
    findings.map((f) => (f.cure ? `${f.message} ${f.cure}` : f.message))[0] ?? 'The input was refused.',
    findings,
  );
export const notThere = (what: string): Trouble => new Trouble('not there', `There is no ${what}.`);
export const notNow = (words: string, findings: readonly Finding[] = []): Trouble =>
  new Trouble('not now', words, findings);
export const notAllowed = (words: string): Trouble => new Trouble('not allowed', words);

/** Why the server cannot start or a command cannot be done, in one line with what to do. */
export class StartTrouble extends Error {}

/** What the disk or the database file has to say, as a no; null = it is something else. */
export function storageTrouble(error: unknown): Trouble | null {
  const code = String((error as { code?: unknown } | null)?.code ?? '');
  if (/^SQLITE_FULL|^ENOSPC|^EDQUOT/.test(code))
    return new Trouble(
      'no room',
      'The disk of the server is full: nothing was changed. What is there can be read; make room, then try again.',
    );
  if (/^SQLITE_READONLY|^EROFS|^EACCES|^EPERM|^SQLITE_CANTOPEN/.test(code))
    return new Trouble(
      'no room',
      'The data folder of the server cannot be written: nothing was changed. Let its owner write there, then try again.',
    );
  if (/^SQLITE_CORRUPT|^SQLITE_NOTADB|^SQLITE_IOERR/.test(code))
    return new Trouble(
      'damaged',
      'The database file is damaged or its disk fails. Stop the server, look at the disk, and restore the newest back-up.',
    );
  return null;
}

export const words = (error: unknown): string => (error instanceof Error ? error.message : String(error));

/** Did the database refuse a second holder? Its constraints and triggers all say UNIQUE. */
export const isTaken = (error: unknown): boolean => error instanceof Error && /UNIQUE/.test(error.message);
