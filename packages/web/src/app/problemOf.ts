import type { Problem } from '@anthemion/contract';
import type { FetchBaseQueryError } from '@reduxjs/toolkit/query/react';

/** The problem behind a failed call, for people and fields. */
export function problemOf(error: unknown): Problem {
  const e = error as FetchBaseQueryError & { data?: Problem };
  if (e && typeof e === 'object' && 'data' in e && e.data && typeof e.data === 'object' && 'findings' in e.data)
    return e.data;
  return {
    type: 'about:blank',
    title: 'No answer',
    status: 0,
    detail: 'The server does not answer. What you typed is still here; try again.',
    findings: [],
  };
}

/** What a form is told of a call: null = it was taken. */
export const notTaken = (result: { readonly error?: unknown }): Pick<Problem, 'findings' | 'detail'> | null =>
  result.error === undefined ? null : problemOf(result.error);

/** Was it not begun because switches have to be sent to together, which has to be asked for? */
export const asksTogether = (result: { readonly error?: unknown }): boolean =>
  result.error !== undefined && problemOf(result.error).findings.some((f) => f.rule === 'together');
