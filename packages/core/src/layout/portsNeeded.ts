import type { FabricIntent } from '../intent/intent.ts';
import { groupBy } from '../numbers/order.ts';
import { expandPorts } from '../numbers/ports.ts';
import type { Layout } from './links.ts';
import { portsOfSeats } from './seatPorts.ts';
import { TIER_WORDS, type Seat } from './seats.ts';

/** Seats of one kind that have fewer ports than their links need, so that some of these are not there. */
export interface ShortOfPorts {
  /** The first of them. */
  readonly host: string;
  /** How many more there are, with what they are called together: `9 more leaves`; empty = none. */
  readonly others: string;
  /** Their rack pattern, or above the racks their model. */
  readonly kind: string;
  readonly ofRacks: boolean;
  /** Switches that each is joined to. */
  readonly joined: number;
  readonly need: number;
  readonly have: number;
}

/** How many switches a seat is joined to, by what they are. */
function joinedTo({ seats }: Layout): (seat: Seat) => number {
  const leaves = groupBy(
    seats.filter((s) => s.tier === 'leaf'),
    (s) => s.pod,
  );
  const spines = groupBy(
    seats.filter((s) => s.tier === 'spine'),
    (s) => s.pod,
  );
  const planes = groupBy(
    seats.filter((s) => s.tier === 'super-spine'),
    (s) => s.plane,
  );
  const count = <K>(of: ReadonlyMap<K, readonly Seat[]>, key: K): number => of.get(key)?.length ?? 0;
  return ({ tier, pod, plane }) => {
    if (tier === 'leaf') return spines.size === 0 ? count(leaves, pod) - 1 : count(spines, pod);
    if (tier === 'spine') return count(leaves, pod) + count(planes, plane);
    return [...spines.values()].filter((of) => of.some((s) => s.plane === plane)).length;
  };
}

/** Ports a seat has for the links to them. */
function portsFor(intent: FabricIntent): (seat: Seat) => number {
  const uplinks = new Map(intent.rackPatterns.map((p) => [p.name, expandPorts(p.uplinkPorts)?.length ?? 0]));
  const ofRack = new Map(intent.racks.map((r) => [r.number, uplinks.get(r.pattern) ?? 0]));
  const ports = portsOfSeats(intent);
  return (seat) => (seat.rack === undefined ? ports(seat).ports.size : (ofRack.get(seat.rack) ?? 0));
}

/** Who is short of ports for its links: links = switches it is joined to × parallel ones. */
export function shortOfPorts(intent: FabricIntent, layout: Layout): ShortOfPorts[] {
  const [joined, fitted] = [joinedTo(layout), portsFor(intent)];
  const patternOf = new Map(intent.racks.map((r) => [r.number, r.pattern]));
  const kindOf = ({ rack, model }: Seat): string => (rack === undefined ? model : patternOf.get(rack)!);
  const short = layout.seats.flatMap((seat) => {
    const [need, have] = [joined(seat) * intent.parallel, fitted(seat)];
    return need > have ? [{ seat, need, have }] : [];
  });
  return [...groupBy(short, ({ seat, need }) => `${seat.tier} ${kindOf(seat)} ${need}`).values()].map((alike) => {
    const { seat, need, have } = alike[0]!;
    return {
      host: seat.host,
      others: alike.length === 1 ? '' : `${alike.length - 1} more ${TIER_WORDS[seat.tier]}`,
      kind: kindOf(seat),
      ofRacks: seat.rack !== undefined,
      joined: joined(seat),
      need,
      have,
    };
  });
}
