import type { Finding } from '../../finding.ts';
import type { FabricIntent } from '../../intent/intent.ts';
import type { Layout } from '../../layout/links.ts';
import { serverSeats } from '../../layout/serverSeats.ts';
import { hasServers, sideOf, TIER_WORDS, type Seat } from '../../layout/seats.ts';
import { groupBy } from '../../numbers/order.ts';
import { plural } from '../../plural.ts';
import { found, type FabricRule } from '../rule.ts';

/** What is drained of a fabric, as its proof sees it. */
interface Drained {
  readonly intent: FabricIntent;
  readonly layout: Layout;
  readonly seats: readonly Seat[];
  readonly isDrained: (seat: Seat) => boolean;
}
function drainedOf(intent: FabricIntent, layout: Layout): Drained {
  const ids = new Set(intent.drained.map((d) => d.seat));
  return { intent, layout, seats: layout.seats.filter((s) => ids.has(s.id)), isDrained: (s) => ids.has(s.id) };
}

export const drainedHalves: FabricRule = {
  id: 'drained-halves',
  title: 'Of a pair one half at most is drained',
  severity: 'error',
  source: 'each half shuts its ports of the LAGs that both have',
  scope: 'layout',
  judge: ({ intent, compiled: { layout } }) => {
    if (intent.drained.length === 0) return [];
    const { seats, isDrained } = drainedOf(intent, layout);
    return seats.flatMap((seat) => {
      const other = seat.peer === undefined ? undefined : layout.seatById.get(seat.peer);
      const shared = intent.ports.filter((p) => p.rack === seat.rack && p.side === 'both' && !p.shut).length;
      if (!other || seat.side === 'b' || shared === 0 || !isDrained(other)) return [];
      return [
        found(
          drainedHalves,
          { host: seat.host, subjects: [`drain:${seat.id}`, `drain:${other.id}`] },
          `${seat.host} and ${other.host} are both drained: ${plural(shared, 'server')} on both ${shared === 1 ? 'has' : 'have'} no open port left.`,
          `Bring one of them back before the other is drained.`,
        ),
      ];
    });
  },
};

const MOST_NAMED = 4;
const named = (names: readonly string[]): string =>
  names.length <= MOST_NAMED
    ? names.join(', ')
    : `${names.slice(0, MOST_NAMED).join(', ')} and ${names.length - MOST_NAMED} more`;

/** Floors of which none is left that is not drained: then nobody can go round. */
function nobodyLeft({ layout, seats, isDrained }: Drained): Finding[] {
  const floorWords = ({ tier, pod }: Seat): string => `${TIER_WORDS[tier]}${pod === undefined ? '' : ` of pod ${pod}`}`;
  const above = new Set(seats.filter((s) => !hasServers(s)).map(floorWords));
  return [...above].flatMap((words) => {
    const all = layout.seats.filter((s) => !hasServers(s) && floorWords(s) === words);
    if (!all.every(isDrained)) return [];
    return [
      found(
        drainedCarried,
        { host: all[0]!.host, subjects: all.map((s) => `drain:${s.id}` as const) },
        `All ${words} are drained (${named(all.map((s) => s.host))}): nobody can go round them, so they carry all as before.`,
        'Bring one of them back, or have the fabric stand still while they are down.',
      ),
    ];
  });
}

/** Servers that have an open port on drained switches alone. */
function serversAlone({ intent, layout, seats, isDrained }: Drained): Finding[] {
  const racks = new Set(seats.map((s) => s.rack));
  const suspects = new Set(intent.ports.flatMap((p) => (racks.has(p.rack) && !p.shut ? p.server : [])));
  const legs = groupBy(
    intent.ports.filter((p) => suspects.has(p.server) && !p.shut),
    (p) => p.server,
  );
  const alone = [...legs].flatMap(([server, ports]) => {
    const on = ports.flatMap((p) => serverSeats(layout, p));
    return on.every(isDrained) ? [{ server, seat: on[0]!, both: ports.some((p) => p.side === 'both') }] : [];
  });
  // Of both halves of a pair it is an error, and said as that.
  return [
    ...groupBy(
      alone.filter((a) => !a.both),
      (a) => a.seat,
    ),
  ].map(([seat, all]) =>
    found(
      drainedCarried,
      { host: seat.host, subjects: [`drain:${seat.id}`] },
      `${seat.host} is drained, and ${plural(all.length, 'server')} ${all.length === 1 ? 'is' : 'are'} on it alone: ${named(all.map((a) => a.server))}. ${all.length === 1 ? 'It is served as before, and' : 'They are served as before, and'} cut off once ${seat.host} is down.`,
      'Join them to another switch as well, or tell who has them before it is taken down.',
    ),
  );
}

/** Tenants that speak to routers outside on drained switches alone. */
function outsideAlone({ intent, seats, isDrained, layout }: Drained): Finding[] {
  const seatOf = (rack: number, side: 'a' | 'b'): Seat | undefined =>
    layout.seats.find((s) => s.rack === rack && sideOf(s) === side);
  const racks = new Set(seats.map((s) => s.rack));
  const vrfs = new Set(intent.neighbours.flatMap((n) => (racks.has(n.rack) && !n.closed ? n.vrf : [])));
  return [...vrfs].flatMap((vrf) => {
    const on = intent.neighbours.flatMap((n) => (n.vrf === vrf && !n.closed ? (seatOf(n.rack, n.side) ?? []) : []));
    const first = on[0];
    if (!first || !on.every(isDrained)) return [];
    const all = [...new Set(on)];
    return [
      found(
        drainedCarried,
        { host: first.host, subjects: [...all.map((s) => `drain:${s.id}` as const), `vrf:${vrf}`] },
        `VRF ${vrf} speaks to routers outside on ${all.map((s) => s.host).join(' and ')} alone, and ${all.length === 1 ? 'it is' : 'they are'} drained: what leaves it still goes there, and nowhere once ${all.length === 1 ? 'it is' : 'they are'} down.`,
        `Have ${vrf} speak to a router outside on another switch as well.`,
      ),
    ];
  });
}

export const drainedCarried: FabricRule = {
  id: 'drained-carried',
  title: 'What drained switches carry is carried by others',
  severity: 'warning',
  source: 'RFC 8326 asks others to go round; who has no other way does not',
  scope: 'layout',
  judge: ({ intent, compiled: { layout } }) => {
    if (intent.drained.length === 0) return [];
    const drained = drainedOf(intent, layout);
    return [
      ...nobodyLeft(drained),
      ...(drained.seats.some(hasServers) ? [...serversAlone(drained), ...outsideAlone(drained)] : []),
    ];
  },
};
