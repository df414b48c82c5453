import type { Problem } from '@anthemion/contract';
import type { Trouble, TroubleKind } from '../trouble.ts';

const STATUS: Readonly<Record<TroubleKind, readonly [status: number, title: string]>> = {
  unreadable: [400, 'The request cannot be read'],
  'not signed in': [401, 'Not signed in'],
  'not allowed': [403, 'Not allowed'],
  'not there': [404, 'Not there'],
  'not now': [409, 'Not now'],
  overtaken: [412, 'Somebody was faster'],
  'too large': [413, 'Too large'],
  refused: [422, 'Something is wrong with the input'],
  'version unsaid': [428, 'The version is missing'],
  'too many': [429, 'Too many tries'],
  'wrong host': [421, 'Not this server'],
  'no room': [507, 'Nothing can be written'],
  damaged: [503, 'The data is damaged'],
  'no answer': [502, 'No answer from outside'],
};

/** Problem details (RFC 9457) of a no. */
export function problemOf(trouble: Trouble): Problem {
  const [status, title] = STATUS[trouble.kind];
  return { type: 'about:blank', title, status, detail: trouble.message, findings: trouble.findings };
}

export const FAULT: Problem = {
  type: 'about:blank',
  title: 'A fault of ours',
  status: 500,
  detail: 'The server made a mistake; nothing was changed.',
  findings: [],
};
