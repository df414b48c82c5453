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

export const words = (error: unknown): string => (error instanceof Error ? error.message : String(error));

/** Did the database refuse a second holder? Its constraints and triggers all say UNIQUE. */
export const isTaken = (error: unknown): boolean => error instanceof Error && /UNIQUE/.test(error.message);
