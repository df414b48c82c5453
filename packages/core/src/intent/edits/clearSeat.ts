import { problem } from '../../finding.ts';
import { seating } from '../collections/racks.ts';
import type { SeatId } from '../intent.ts';
import { seatSchema } from '../schemas/objects.ts';
import { done, editFields, refuse, type EditKindOf } from './edit.ts';

export interface ClearSeat {
  readonly kind: 'clearSeat';
  readonly seat: SeatId;
}

export const clearSeat: EditKindOf<ClearSeat> = {
  kind: 'clearSeat',
  schema: editFields('clearSeat', { seat: seatSchema }),
  apply: (intent, { seat }) =>
    intent.seating[seat] === undefined
      ? refuse(intent, problem('seat-empty', '/seat', `Seat ${seat} is empty already.`, 'Nothing is to be done.'))
      : done(seating.take(intent, seat)),
  sentence: ({ seat }, before) => {
    const was = before?.seating[seat];
    return was === undefined ? `Leave seat ${seat} empty` : `Switch in seat ${seat} ${was} → none`;
  },
  subjects: ({ seat }) => [`seat:${seat}`],
  makes: { of: 'seat', remove: (seat) => ({ kind: 'clearSeat', seat }) },
};
