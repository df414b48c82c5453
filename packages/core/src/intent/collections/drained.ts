import type { DrainedSeat } from '../intent.ts';
import { drainedSchema } from '../schemas/objects.ts';
import { rackOfSeat } from '../seatIds.ts';
import { listOf, words } from './collection.ts';

/** Seats whose switches are drained on purpose. */
export const drained = listOf('drained', (d) => d.seat, {
  kind: 'drain',
  word: 'drained switch',
  schema: drainedSchema,
  lately: true,
  named: (key) => `drained seat ${key}`,
  freeing: 'Bring its switches back first.',
  fields: [words<DrainedSeat, 'seat'>('seat', 'seat')],
  refers: ({ seat }) => {
    const rack = rackOfSeat(seat);
    return rack === null ? [] : [{ to: `rack:${rack}`, ends: 'goes' } as const];
  },
});
