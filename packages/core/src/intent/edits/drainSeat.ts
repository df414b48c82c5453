import { problem } from '../../finding.ts';
import { layOut } from '../../layout/layout.ts';
import { isRouted } from '../../patterns/patterns.ts';
import { drained } from '../collections/drained.ts';
import { objectOf } from '../collections/index.ts';
import type { FabricIntent, SeatId } from '../intent.ts';
import { seatSchema } from '../schemas/objects.ts';
import { done, editFields, refuse, unless, type EditKindOf } from './edit.ts';

/**
 * Has others go round a switch before it is worked on: its routes are the last that are taken (RFC 8326), its links the last
 * that OSPF takes (RFC 6987), and of the LAGs it shares with its other half its own ports are shut.
 */
export interface DrainSeat {
  readonly kind: 'drainSeat';
  readonly seat: SeatId;
}
/** Has it carry again what it carried. */
export interface BringBack {
  readonly kind: 'bringBack';
  readonly seat: SeatId;
}

const hostOf = (intent: FabricIntent | null, seat: SeatId): string =>
  (intent && layOut(intent).seatById.get(seat)?.host) ?? `seat ${seat}`;

export const drainSeat: EditKindOf<DrainSeat> = {
  kind: 'drainSeat',
  schema: editFields('drainSeat', { seat: seatSchema }),
  apply: (intent, { seat }) =>
    unless(
      [
        ...(layOut(intent).seatById.has(seat)
          ? []
          : [problem('seat-known', '/seat', `There is no seat ${seat}.`, 'Choose one of its seats.')]),
        ...(isRouted(intent)
          ? []
          : [
              problem(
                'drain-routed',
                '/seat',
                'Nothing is routed in this fabric, so nobody can be asked to go round a switch.',
                'Shut its links one by one.',
              ),
            ]),
        ...(objectOf(intent, 'drain', seat)
          ? [
              problem(
                'object-new',
                '/seat',
                `${hostOf(intent, seat)} is drained already.`,
                'Bring it back, or leave it.',
              ),
            ]
          : []),
      ],
      intent,
      () => drained.put(intent, seat, { seat }),
    ),
  sentence: ({ seat }, before) => `Drain ${hostOf(before, seat)}`,
  subjects: ({ seat }) => [`drain:${seat}`],
  makes: { of: 'drain', add: ({ seat }) => ({ kind: 'drainSeat', seat }) },
};

export const bringBack: EditKindOf<BringBack> = {
  kind: 'bringBack',
  schema: editFields('bringBack', { seat: seatSchema }),
  apply: (intent, { seat }) =>
    objectOf(intent, 'drain', seat)
      ? done(drained.take(intent, seat))
      : refuse(
          intent,
          problem('object-known', '/seat', `${hostOf(intent, seat)} is not drained.`, 'Nothing is to be done.'),
        ),
  sentence: ({ seat }, before) => `Bring ${hostOf(before, seat)} back`,
  subjects: ({ seat }) => [`drain:${seat}`],
  makes: { of: 'drain', remove: (seat) => ({ kind: 'bringBack', seat }) },
};
