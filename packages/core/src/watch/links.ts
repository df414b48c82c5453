import type { SwitchConfig } from '../config/switchConfig.ts';
import { naturally } from '../numbers/order.ts';
import type { PlannedLink, PortEnd, WatchedSwitch } from './seen.ts';

/**
 * How a cable of the plan stands, by what both ends say: `up` (an end sees the other, neither sees anybody else),
 * `no signal`, `not seen` (signal, but nobody announces himself), `miscabled`, `shut` (an end runs it closed), `at rest` (it is meant to be shut, and is), `unread` (no
 * end was read), `out` (an end is out of service, or no switch sits there).
 */
export type LinkStand = 'up' | 'no signal' | 'not seen' | 'miscabled' | 'shut' | 'at rest' | 'unread' | 'out';

export interface LinkState extends PlannedLink {
  readonly stand: LinkStand;
  /** Who each end sees; null = nobody, or it was not read. */
  readonly aSees: PortEnd | null;
  readonly bSees: PortEnd | null;
}

const sameEnd = (x: PortEnd, y: PortEnd): boolean => x.host === y.host && x.port === y.port;
const isShut = (config: SwitchConfig | null | undefined, port: string): boolean =>
  config?.ports.some((p) => p.name === port && p.shut === true) ?? false;

/** Every cable of the plan beside what its two ends say. */
export function linkStates(links: readonly PlannedLink[], switches: ReadonlyMap<string, WatchedSwitch>): LinkState[] {
  return links.map((link): LinkState => {
    const { a, b } = link;
    const [sa, sb] = [switches.get(a.host), switches.get(b.host)];
    const aSees = sa?.seen?.neighbours.get(a.port) ?? null;
    const bSees = sb?.seen?.neighbours.get(b.port) ?? null;
    const said = { ...link, aSees, bSees };
    if (!sa?.placed || !sb?.placed || sa.out || sb.out) return { ...said, stand: 'out' };
    if (!sa.seen && !sb.seen) return { ...said, stand: 'unread' };
    if ((aSees && !sameEnd(aSees, b)) || (bSees && !sameEnd(bSees, a))) return { ...said, stand: 'miscabled' };
    if (aSees || bSees) return { ...said, stand: 'up' };
    const rests = isShut(sa.meant, a.port) && isShut(sb.meant, b.port);
    if (isShut(sa.runs, a.port) || isShut(sb.runs, b.port)) return { ...said, stand: rests ? 'at rest' : 'shut' };
    const dark = sa.seen?.signal.get(a.port) === false || sb.seen?.signal.get(b.port) === false;
    return { ...said, stand: dark ? 'no signal' : 'not seen' };
  });
}

/** A plug to be taken out of one port and put into another of the same or another switch. */
export interface Move {
  readonly from: PortEnd;
  readonly to: PortEnd;
  /** The far end of the cable, which stays where it is. */
  readonly stays: PortEnd;
}

const key = (e: PortEnd): string => `${e.host} ${e.port}`;

/** Links that are wrong together: mending one takes the other. */
export interface Tangle {
  readonly links: readonly LinkState[];
  /** The smallest set of plugs to move; on the fewest switches. */
  readonly moves: readonly Move[];
}

/**
 * Sorts miscabled links into tangles: chains of ports in which planned and real cables alternate. One end of each real
 * cable stays, the other is moved to where the plan has the staying end's far end; of the two ways to choose, the one with
 * fewer switches to walk to is taken.
 */
export function tanglesOf(states: readonly LinkState[]): Tangle[] {
  const wrong = states.filter((s) => s.stand === 'miscabled');
  const mate = new Map(states.flatMap((s) => [[key(s.a), s.b] as const, [key(s.b), s.a] as const]));
  const linkAt = new Map(states.flatMap((s) => [[key(s.a), s] as const, [key(s.b), s] as const]));
  const real = new Map<string, { readonly end: PortEnd; readonly far: PortEnd }>();
  for (const s of wrong)
    for (const [end, far] of [
      [s.a, s.aSees],
      [s.b, s.bSees],
    ] as const)
      if (far && mate.get(key(end)) && !sameEnd(mate.get(key(end))!, far)) {
        real.set(key(end), { end, far });
        real.set(key(far), { end: far, far: end });
      }
  const done = new Set<string>();
  const out: Tangle[] = [];
  for (const s of wrong) {
    if (done.has(s.id)) continue;
    // Everything that hangs together over planned and real cables.
    const links = new Map<string, LinkState>();
    const queue: PortEnd[] = [s.a];
    const ports = new Map<string, PortEnd>();
    for (let end = queue.pop(); end; end = queue.pop()) {
      if (ports.has(key(end))) continue;
      ports.set(key(end), end);
      const link = linkAt.get(key(end));
      if (link && link.stand !== 'up') links.set(link.id, link);
      const [planned, seen] = [mate.get(key(end)), real.get(key(end))?.far];
      if (planned) queue.push(planned);
      if (seen) queue.push(seen);
    }
    for (const id of links.keys()) done.add(id);
    out.push({ links: [...links.values()], moves: fewestMoves([...ports.values()], mate, real) });
  }
  return out;
}

function fewestMoves(
  ports: readonly PortEnd[],
  mate: ReadonlyMap<string, PortEnd>,
  real: ReadonlyMap<string, { readonly end: PortEnd; readonly far: PortEnd }>,
): Move[] {
  const side = new Map<string, 0 | 1>();
  /** Colours a chain so that the two ends of each cable, planned or real, have different colours. */
  const walk = (start: PortEnd): void => {
    const queue: (readonly [PortEnd, 0 | 1])[] = [[start, 0]];
    for (let next = queue.pop(); next; next = queue.pop()) {
      const [end, colour] = next;
      if (side.has(key(end))) continue;
      side.set(key(end), colour);
      const other = colour === 0 ? 1 : 0;
      const [planned, seen] = [mate.get(key(end)), real.get(key(end))?.far];
      if (planned) queue.push([planned, other]);
      if (seen) queue.push([seen, other]);
    }
  };
  for (const p of ports) walk(p);
  const ways = ([0, 1] as const).map((stays) =>
    ports.flatMap((end): Move[] => {
      const plug = real.get(key(end));
      const to = mate.get(key(end));
      return side.get(key(end)) === stays && plug && to && !sameEnd(plug.far, to)
        ? [{ from: plug.far, to, stays: end }]
        : [];
    }),
  );
  const places = (moves: readonly Move[]): number => new Set(moves.flatMap((m) => [m.from.host, m.to.host])).size;
  const [x = [], y = []] = ways;
  const order = (moves: readonly Move[]): Move[] => [...moves].sort((m, n) => naturally(key(m.from), key(n.from)));
  if (x.length === 0 || y.length === 0) return order(x.length > 0 ? x : y);
  return order(y.length < x.length || (y.length === x.length && places(y) < places(x)) ? y : x);
}
