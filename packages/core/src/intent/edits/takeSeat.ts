import { problem } from '../../finding.ts';
import { seating } from '../collections/racks.ts';
import type { SeatId } from '../intent.ts';
import { seatSchema, serialText } from '../schemas/objects.ts';
import { seatIds } from '../seatIds.ts';
import { done, editFields, missing, refuse, type EditKindOf } from './edit.ts';

/** Puts a switch in a seat; one that sits there leaves it. */
export interface TakeSeat {
  readonly kind: 'takeSeat';
  readonly seat: SeatId;
  readonly serial: string;
}

export const takeSeat: EditKindOf<TakeSeat> = {
  kind: 'takeSeat',
  schema: editFields('takeSeat', { seat: seatSchema, serial: serialText }),
  apply: (intent, { seat, serial }) => {
    if (!seatIds(intent).includes(seat)) return refuse(intent, missing('seat', seat));
    const other = Object.entries(intent.seating).find(([at, sits]) => sits === serial && at !== seat);
    if (!other) return done(seating.put(intent, seat, serial));
    return refuse(
      intent,
      problem(
        'serial-taken',
        '/serial',
        `${serial} sits in ${other[0]} already.`,
        'Leave that seat empty first, or choose another switch.',
      ),
    );
  },
  sentence: ({ seat, serial }, before) => {
    const was = before?.seating[seat];
    return was === undefined || was === serial
      ? `Seat ${serial} as ${seat}`
      : `Switch in seat ${seat} ${was} → ${serial}`;
  },
  subjects: ({ seat }) => [`seat:${seat}`],
  makes: { of: 'seat', add: (serial, seat) => ({ kind: 'takeSeat', seat, serial }) },
};
