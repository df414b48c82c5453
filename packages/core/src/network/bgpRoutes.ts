import { type AnyPrefix } from '../numbers/prefix.ts';
import { onceFor } from '../onceFor.ts';
import { hopTaken, hopTold, type HopsOver } from './hops.ts';
import { select, type BgpRouter, type HeldRoute } from './bestRoute.ts';
import {
  communitiesOf,
  communityWords,
  countIn,
  hasCommunity,
  prepended,
  replaced,
  sameAttributes,
  OWN_ATTRIBUTES,
  withAttributes,
  type AsPath,
  type Attributes,
  type Policy,
} from './routes.ts';

/** One direction of a session in a family. */
export interface BgpEdge {
  readonly from: number;
  readonly to: number;
  /** Index of the other direction, or −1. */
  readonly back: number;
  readonly internal: boolean;
  /** Numbers the sender puts before a path, the last foremost. */
  readonly sentAs: readonly number[];
  /** A number that the receiver puts before what it hears, as the sender takes it for that; null = none. */
  readonly heardAs: number | null;
  /** How often the receiver’s own AS number may stand in the path. */
  readonly ownAsAllowed: number;
  readonly out: Policy | null;
  readonly in: Policy | null;
  /** Nothing goes over it, as a policy is wanted and missing (RFC 8212). */
  readonly closed: boolean;
  /** The receiver’s, of what comes over it. */
  readonly weight: number;
  /** The sender puts its own number in the place of this one. */
  readonly overridden: number | null;
  /** The sender says that it is the next hop: of what it has from outside, or of all it tells. */
  readonly nextHopSelf: 'outside' | 'all' | null;
  /** Is the receiver a client of the sender (RFC 4456)? */
  readonly toClient: boolean;
  /** Is the sender a client of the receiver? */
  readonly fromClient: boolean;
  /** The sender tells a default route over it, whether it has one or not. */
  readonly tellsDefault: boolean;
  /** Its ends are not next door: next hops are resolved by other routes. */
  readonly overRoutes: boolean;
  /** What comes over it is taken before all else: asked where it may be so. */
  readonly favoured: boolean;
  /** It is no session: another network carries the route, and says how it arrives; null = it does not. */
  readonly carry: ((best: HeldRoute, over: number) => HeldRoute | null) | null;
  /** What becomes of next hops over it; null = no map asks for any. */
  readonly hops: HopsOver | null;
  /** It leads from one table of a switch to another: all that the first has is there as well, not its best alone. */
  readonly leak: LeakEdge | null;
}
/** What comes into a table over one edge, or is its own, as it is in another table of its switch. */
export interface LeakEdge {
  /** The edge; −1 = what is its own. */
  readonly of: number;
  readonly change: (had: HeldRoute, over: number) => HeldRoute | null;
}

/** An edge of which nothing is said. */
export const PLAIN_EDGE = {
  back: -1,
  internal: false,
  sentAs: [],
  heardAs: null,
  ownAsAllowed: 0,
  out: null,
  in: null,
  closed: false,
  weight: 0,
  overridden: null,
  nextHopSelf: null,
  toClient: false,
  fromClient: false,
  tellsDefault: false,
  overRoutes: false,
  favoured: false,
  carry: null,
  hops: null,
  leak: null,
} satisfies Omit<BgpEdge, 'from' | 'to'>;

/** What routers settle to for one prefix, by index. */
export interface Settled {
  /** Routes in use, the best first; empty = none. */
  readonly held: readonly (readonly HeldRoute[])[];
  /** False: they never come to rest, or to rest in more than one way. */
  readonly rests: boolean;
}

const GRACEFUL_SHUTDOWN = 'graceful-shutdown';
const sameHeld = (a: HeldRoute | undefined, b: HeldRoute | undefined): boolean =>
  a === b ||
  (a !== undefined &&
    b !== undefined &&
    a.over === b.over &&
    a.internal === b.internal &&
    a.favoured === b.favoured &&
    a.handedOn === b.handedOn &&
    a.labelled === b.labelled &&
    a.clusters === b.clusters &&
    a.chances?.length === b.chances?.length &&
    a.via === b.via &&
    a.teller === b.teller &&
    sameAttributes(a.attributes, b.attributes));

/** What `default-originate` tells. */
const DEFAULT_ROUTE: Attributes = { ...OWN_ATTRIBUTES, origin: 'igp' };

/** Would the path a receiver is told hold its own AS number too often? */
function isLoop(e: BgpEdge, receiver: BgpRouter, path: AsPath | null): boolean {
  let own = countIn(path, receiver.asn);
  if (!e.internal) for (const as of e.sentAs) if (as === receiver.asn) own++;
  return own > e.ownAsAllowed;
}

/** What the best route of a router becomes on its way over an edge; null = it does not get there. */
function told(
  routers: readonly BgpRouter[],
  edges: readonly BgpEdge[],
  over: number,
  best: HeldRoute,
  prefix: AnyPrefix,
) {
  const e = edges[over]!;
  const [sender, receiver] = [routers[e.from]!, routers[e.to]!];
  // Not back to whom it was heard from.
  if (e.closed || (best.over >= 0 && best.over === e.back)) return null;
  const reflected = best.internal && e.internal;
  if (reflected && !e.toClient && !edges[best.over]!.fromClient) return null;
  const { attributes: had } = best;
  // Mostly that is the end of it, before anything is made; policies may change the path, so with them it is looked at later.
  if (!e.out && !e.in && e.overridden === null && isLoop(e, receiver, had.path)) return null;
  if (had.communities !== '') {
    if (hasCommunity(had.communities, 'no-advertise')) return null;
    if (!e.internal && (hasCommunity(had.communities, 'no-export') || hasCommunity(had.communities, 'local-AS')))
      return null;
  }
  const own = best.over < 0;
  let a = withAttributes(had, {
    weight: 0,
    port: null,
    tag: 0,
    hopBy: had.hopBy === 'unchanged' ? 'unchanged' : null,
    med: e.internal || own ? had.med : 0,
    localPreference: e.internal ? had.localPreference : sender.localPreference,
    path: e.overridden === null ? had.path : replaced(had.path, e.overridden, sender.asn),
  });
  // A default route that is told in any case goes by no policy of the sender (seen on FRR 8.4.4).
  const sent = e.out && had !== DEFAULT_ROUTE ? e.out(a, prefix) : a;
  if (!sent) return null;
  a = sent;
  if (sender.gracefulShutdown)
    a = e.internal
      ? withAttributes(a, { localPreference: 0 })
      : withAttributes(a, { communities: communityWords([...communitiesOf(a.communities), GRACEFUL_SHUTDOWN]) });
  const kept = e.internal && !own && keepsNextHop(e, best);
  if (e.hops) a = withAttributes(a, { nextHop: hopTold(e.hops, a, kept), hopBy: null });
  if (!e.internal) {
    let { path } = a;
    for (const as of e.sentAs) path = prepended(as, path);
    a = withAttributes(a, { path, localPreference: receiver.localPreference });
  }
  if (countIn(a.path, receiver.asn) > e.ownAsAllowed) return null;
  if (e.heardAs !== null && countIn(a.path, e.heardAs) > e.ownAsAllowed) return null;
  const teller = reflected ? best.teller : sender.routerId;
  const clusters = reflected ? prepended(sender.routerId, best.clusters ?? null) : null;
  // Neither who brought it in nor a reflector takes back what comes round to him (RFC 4456 §8).
  if (reflected && (teller === receiver.routerId || countIn(clusters, receiver.routerId) > 0)) return null;
  if (e.heardAs !== null) a = withAttributes(a, { path: prepended(e.heardAs, a.path) });
  a = withAttributes(a, { weight: e.weight });
  const taken = e.in ? e.in(a, prefix) : a;
  if (!taken) return null;
  const hop = e.hops ? hopTaken(e.hops, taken) : undefined;
  if (hop === null) return null;
  const said = hop?.attributes ?? taken;
  const shut = !e.internal && (receiver.gracefulShutdown || hasCommunity(said.communities, GRACEFUL_SHUTDOWN));
  const held: HeldRoute = {
    attributes: shut ? withAttributes(said, { localPreference: 0 }) : said,
    over,
    internal: e.internal,
    teller,
    favoured: best.favoured || e.favoured,
    ...(clusters ? { clusters } : {}),
    ...(hop?.via === undefined ? {} : { via: hop.via }),
    // What may not be known to who tells it may not be told.
    handedOn: e.overRoutes || best.handedOn || kept || hop?.unknown === true,
  };
  return held;
}

/** Does what iBGP tells on keep a next hop that need not be next door to who hears it? */
const keepsNextHop = ({ nextHopSelf }: BgpEdge, best: HeldRoute): boolean =>
  best.internal ? nextHopSelf !== 'all' : nextHopSelf === null;

/** What a router has of its own. */
export const ownRoute = ({ routerId }: BgpRouter, attributes: Attributes): HeldRoute => ({
  attributes,
  over: -1,
  internal: false,
  teller: routerId,
  favoured: false,
  handedOn: false,
});
/** Edges by router, kept for one list of edges; those that leak by what they take: an edge, or what a router has of its own. */
const adjacent = onceFor((edges: readonly BgpEdge[]) => {
  const size = edges.reduce((most, e) => Math.max(most, e.from + 1, e.to + 1), 0);
  const out: number[][] = Array.from({ length: size }, () => []);
  const into: number[][] = Array.from({ length: size }, () => []);
  const leaks = new Map<number, number[]>();
  const ownLeaks = new Map<number, number[]>();
  edges.forEach((e, i) => {
    into[e.to]!.push(i);
    if (!e.leak) {
      out[e.from]!.push(i);
      return;
    }
    const [by, key] = e.leak.of < 0 ? [ownLeaks, e.from] : [leaks, e.leak.of];
    by.set(key, [...(by.get(key) ?? []), i]);
  });
  return { out, into, leaks, ownLeaks };
});
const NONE: readonly number[] = [];
/** More rounds than any path is long: what still moves then goes round in circles. */
const roundsOf = (routers: number): number => 2 * routers + 16;

/**
 * What routers settle to for one prefix: all tell their neighbours at once what they use, until nothing changes any more.
 * Where that never ends, or only by chance, `rests` is false.
 * @param own what each router announces of the prefix by itself
 * @param passes whether a router tells its neighbours of it at all (what an aggregate stands for is not told)
 */
export function settleRoutes(
  routers: readonly BgpRouter[],
  edges: readonly BgpEdge[],
  prefix: AnyPrefix,
  own: ReadonlyMap<number, Attributes>,
  passes: (router: number) => boolean = () => true,
): Settled {
  const { out, into, leaks, ownLeaks } = adjacent(edges);
  const heard = new Map<number, HeldRoute>();
  let touched = new Set<number>();
  /** Puts what one table has into another of its switch. */
  const leak = (over: readonly number[] | undefined, had: HeldRoute | null): void => {
    for (const l of over ?? NONE) {
      const route = had && edges[l]!.leak!.change(had, l);
      if (route) heard.set(l, route);
      else heard.delete(l);
      touched.add(edges[l]!.to);
    }
  };
  const defaults = prefix.length === 0 ? edges.flatMap((e, i) => (e.tellsDefault ? [i] : [])) : [];
  const held: (readonly HeldRoute[])[] = routers.map(() => []);
  const mine = new Map<number, HeldRoute>();
  let moved: number[] = [];
  for (const [router, attributes] of own) {
    const route = ownRoute(routers[router]!, attributes);
    mine.set(router, route);
    held[router] = [route];
    moved.push(router);
    leak(ownLeaks.get(router), route);
  }
  for (const over of defaults) moved.push(edges[over]!.from);
  for (let round = 0; moved.length > 0; round++) {
    if (round > roundsOf(routers.length)) return { held, rests: false };
    for (const u of moved) {
      const best = held[u]![0];
      const speaks = best !== undefined && passes(u);
      for (const over of out[u] ?? NONE) {
        const { carry, tellsDefault } = edges[over]!;
        // What an aggregate stands for is not told to neighbours, but by EVPN it is (seen on FRR 8.4.4).
        const route = carry
          ? best === undefined
            ? null
            : carry(best, over)
          : tellsDefault && prefix.length === 0
            ? told(routers, edges, over, ownRoute(routers[u]!, DEFAULT_ROUTE), prefix)
            : speaks
              ? told(routers, edges, over, best, prefix)
              : null;
        const was = heard.get(over);
        if (route === null ? was === undefined : sameHeld(was, route)) continue;
        if (route) heard.set(over, route);
        else heard.delete(over);
        touched.add(edges[over]!.to);
        leak(leaks.get(over), route);
      }
    }
    moved = [];
    const changed = touched;
    touched = new Set();
    for (const v of changed) {
      const candidates: HeldRoute[] = [];
      const route = mine.get(v);
      if (route) candidates.push(route);
      for (const over of into[v]!) {
        const h = heard.get(over);
        if (h) candidates.push(h);
      }
      const now = select(routers[v]!, candidates);
      const before = held[v]!;
      held[v] = now;
      if (!sameHeld(before[0], now[0])) moved.push(v);
    }
  }
  return { held, rests: true };
}
