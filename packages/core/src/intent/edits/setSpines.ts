import { whole } from '../schemas/words.ts';
import type { FabricIntent } from '../intent.ts';
import { upperSeats } from '../seatIds.ts';
import { done, editFields, type EditKindOf } from './edit.ts';

/** How many spines there are; the switches of spines that go leave their seats. */
export interface SetSpines {
  readonly kind: 'setSpines';
  readonly count: number;
}

/** Seats above the racks that would be no more. */
function seatsLost(intent: FabricIntent, count: number): string[] {
  const kept = new Set(upperSeats({ ...intent, spines: { ...intent.spines, count } }));
  const now = upperSeats(intent).filter((seat) => !kept.has(seat));
  return now.filter((seat) => intent.seating[seat] !== undefined);
}

export const setSpines: EditKindOf<SetSpines> = {
  kind: 'setSpines',
  schema: editFields('setSpines', { count: whole('The number of spines', 1, 64).required() }),
  apply: (intent, { count }) => {
    const lost = new Set(seatsLost(intent, count));
    const seating = Object.fromEntries(Object.entries(intent.seating).filter(([seat]) => !lost.has(seat)));
    return done({ ...intent, spines: { ...intent.spines, count }, seating });
  },
  sentence: ({ count }, before) => {
    if (before === null) return `Have ${count} ${count === 1 ? 'spine' : 'spines'}`;
    const lost = seatsLost(before, count).length;
    const along = lost === 0 ? '' : `; ${lost} ${lost === 1 ? 'switch leaves its seat' : 'switches leave their seats'}`;
    return `Spines ${before.spines.count} → ${count}${along}`;
  },
  subjects: () => ['spines'],
};
