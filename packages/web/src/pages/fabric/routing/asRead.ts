import type { LiveAnswer } from '@anthemion/contract';
import type { NeighbourRow } from '@anthemion/core';
import type { Mood } from '../../../parts/StateMark.tsx';

/** How a session is by what its switches say; null = nobody reads it. */
export interface AsRead {
  readonly words: string;
  readonly mood: Mood;
}

/** How every session and every neighbour by OSPF is by what was read last. Only those are read that the model has up. */
export function asReadIn({ sessions, adjacencies, seats }: LiveAnswer): (row: NeighbourRow) => AsRead | null {
  // A session over a port is known by it, any other by its ends.
  const keyOf = (by: string, host: string, port: string | null, far: string): string =>
    `${by} ${port === null ? `${host} to ${far}` : `${host} ${port}`}`;
  const down = new Map(
    [...sessions.down, ...adjacencies.down].map((d) => [keyOf(d.by ?? 'BGP', d.host, d.port, d.farHost), d.word]),
  );
  const health = new Map(seats.map((s) => [s.host, s]));
  return ({ kind, stand, a, b }) => {
    const ends = [a, b].flatMap((end) => health.get(end?.host ?? '') ?? []);
    if (stand !== 'up' || b === null || ends.length === 0) return null;
    const word = down.get(keyOf(kind, a.host, a.port, b.host)) ?? down.get(keyOf(kind, b.host, b.port, a.host));
    if (word !== undefined) return { words: word, mood: 'fallen' };
    if (ends.some((s) => s.health === 'out of service')) return { words: 'out of service', mood: 'folded' };
    return ends.every((s) => s.readAt === null || s.health === 'unread')
      ? { words: 'unread', mood: 'bud' }
      : { words: 'up', mood: 'bloom' };
  };
}
