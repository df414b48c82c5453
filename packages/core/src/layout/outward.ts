import { driveOf } from '../hardware/drive.ts';
import { cablesOfLink, type FabricIntent, type OutsideLink } from '../intent/intent.ts';
import { groupBy } from '../numbers/order.ts';
import { expandPorts } from '../numbers/ports.ts';
import type { OutwardLink } from './links.ts';
import { sideOf, type Seat, type Tier } from './seats.ts';

/** The seat of a rack that a cable leaves from. */
function seatOf(seats: readonly Seat[], { rack, side }: OutsideLink): Seat | undefined {
  return seats.find((s) => s.rack === rack && sideOf(s) === side);
}

/** Cables to outside systems and to gateways of other sites. */
const outside = (intent: FabricIntent, seats: readonly Seat[]): OutwardLink[] =>
  intent.outside.flatMap((o): OutwardLink[] => {
    const seat = seatOf(seats, o);
    return seat
      ? cablesOfLink(o).map(({ port, farPort }) => ({
          id: `${seat.id}:${port}`,
          kind: o.to === 'site' ? 'site' : 'outside',
          a: { seat: seat.id, port },
          far: { name: o.system, port: farPort },
          driven: { ...(o.shut ? { shut: true } : {}), ...driveOf(o) },
          ...(o.lag ? { lag: o.port } : {}),
        }))
      : [];
  });

const SHORT: Readonly<Record<Tier, string>> = { leaf: 'lf', spine: 'sp', 'super-spine': 'ss' };
const two = (n: number): string => String(n).padStart(2, '0');

/**
 * The management network: a row of management switches for the racks (of each pod), and one for each group above them. A
 * switch of a rack has the port of its position, one above the racks that of its number in its group: so growing and
 * shrinking moves no cable.
 */
function management(intent: FabricIntent, seats: readonly Seat[]): OutwardLink[] {
  const plan = intent.management;
  const ports = plan ? (expandPorts(plan.ports) ?? []) : [];
  if (!plan || ports.length === 0) return [];
  const slots = new Map(intent.racks.map((r) => [r.number, r.slot]));
  const groups = groupBy(seats, (s) => `${SHORT[s.tier]}${(s.tier === 'super-spine' ? s.plane : s.pod) ?? ''}`);
  return [...groups].flatMap(([group, members]) =>
    members.map((seat, i): OutwardLink => {
      const at = seat.rack === undefined ? i : slots.get(seat.rack)! - 1 + (seat.side === 'b' ? 1 : 0);
      return {
        id: `${seat.id}:management`,
        kind: 'management',
        a: { seat: seat.id, port: plan.port },
        far: {
          name: `${intent.namePrefix}-mg-${group}-${two(Math.floor(at / ports.length) + 1)}`,
          port: ports[at % ports.length]!,
        },
        driven: {},
      };
    }),
  );
}

/** Cables from seats to what has no seat in the fabric. */
export const outwardOf = (intent: FabricIntent, seats: readonly Seat[]): OutwardLink[] => [
  ...outside(intent, seats),
  ...management(intent, seats),
];
