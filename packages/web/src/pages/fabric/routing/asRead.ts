import type { LiveAnswer } from '@anthemion/contract';
import type { NeighbourRow } from '@anthemion/core';
import type { Mood } from '../../../parts/StateMark.tsx';

/** How a session is by what its switches say; null = nobody reads it. */
export interface AsRead {
  readonly words: string;
  readonly mood: Mood;
}

/** How every session is by what was read last. Only those are read that the model has up; OSPF is not read. */
export function asReadIn({ sessions, seats }: LiveAnswer): (row: NeighbourRow) => AsRead | null {
  // A session over a port is known by it, any other by its ends.
  const keyOf = (host: string, port: string | null, far: string): string =>
    port === null ? `${host} to ${far}` : `${host} ${port}`;
  const down = new Map(sessions.down.map((d) => [keyOf(d.host, d.port, d.farHost), d.word]));
  const health = new Map(seats.map((s) => [s.host, s]));
  return ({ kind, stand, a, b }) => {
    const ends = [a, b].flatMap((end) => health.get(end?.host ?? '') ?? []);
    if (kind !== 'BGP' || stand !== 'up' || b === null || ends.length === 0) return null;
    const word = down.get(keyOf(a.host, a.port, b.host)) ?? down.get(keyOf(b.host, b.port, a.host));
    if (word !== undefined) return { words: word, mood: 'fallen' };
    if (ends.some((s) => s.health === 'out of service')) return { words: 'out of service', mood: 'folded' };
    return ends.every((s) => s.readAt === null || s.health === 'unread')
      ? { words: 'unread', mood: 'bud' }
      : { words: 'up', mood: 'bloom' };
  };
}
