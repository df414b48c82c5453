import type { CauseAnswer } from '@anthemion/contract';
import { isOnlyUnread } from '@anthemion/core';
import type { Mood } from '../../parts/StateMark.tsx';

/** Something that is down is fallen; what is only not known is dewed. */
export const causeMood = (c: Pick<CauseAnswer, 'kind' | 'links'>): Mood => (isOnlyUnread(c) ? 'dewed' : 'fallen');

const count = (n: number, one: string, many = `${one}s`): { readonly n: number; readonly words: string } => ({
  n,
  words: n === 1 ? one : many,
});

/** What hangs on a cause, each with its count; what is a figure of the model says so. */
export function hangs(c: CauseAnswer): { readonly n: number; readonly words: string }[] {
  return [
    ...(c.kind !== 'cable' && c.links.length > 0 ? [count(c.links.length, 'link')] : []),
    ...(c.sessions.length > 0 ? [count(c.sessions.length, 'session')] : []),
    ...(c.routes && c.routes.fewer > 0
      ? [count(c.routes.fewer, 'route with fewer paths, computed', 'routes with fewer paths, computed')]
      : []),
    ...(c.routes && c.routes.gone > 0 ? [count(c.routes.gone, 'route gone, computed', 'routes gone, computed')] : []),
    ...(c.serversHalf.length > 0 ? [count(c.serversHalf.length, 'server on one leg', 'servers on one leg')] : []),
    ...(isOnlyUnread(c) ? [] : [count(c.serversCut.length, 'server cut off', 'servers cut off')]),
  ];
}

/** Where one looks at it: the picture with the link or switch selected, the cables, or the text. */
export function placeOf(c: CauseAnswer): string {
  const base = `/fabrics/${c.fabric}`;
  if (c.hosts.length > 1 && c.kind === 'unread') return `${base}/seats`;
  const host = c.hosts[0] ?? '';
  if (c.kind === 'edited') return `${base}/text?host=${host}`;
  if (c.kind === 'miscabled') return `${base}/cables`;
  return `${base}?host=${host}`;
}
