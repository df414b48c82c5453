import { contains, formatPrefix, parseCidr, parseIpv4, prefixOf, type Cidr, type Prefix } from '../numbers/ipv4.ts';
import type { EffectivePeer, EffectivePolicy } from './bgp.ts';
import { LOCAL_PREFERENCE } from './bgp.ts';
import { settleRoutes, type BgpEdge, type BgpRouter, type Settled } from './bgpRoutes.ts';
import type { ReadSwitch } from './readSwitch.ts';
import { settlePaths, type PathCounts, type PathEdge } from './pathVector.ts';
import { prefixQuestions } from './policy.ts';
import { OWN_WEIGHT, type Attributes } from './routes.ts';
import type { Session } from './sessions.ts';
import type { SwitchView } from './switchView.ts';

export type Family = 'ipv4' | 'evpn';

/** Why the paths of a router to an address are not certain; 0 = they are. */
export const CERTAIN = 0;
/** The routes never come to rest, or in more than one way. */
export const RESTLESS = 1;
/** They were handed on by iBGP, with a next hop that may not be known there. */
export const HANDED_ON = 2;
/** They came over a session that was favoured. */
export const FAVOURED = 4;

/** Equal paths to one thing that is announced, by router, and how sure they are. */
export interface PathRow {
  readonly counts: Uint16Array;
  readonly unsure: Uint8Array;
}

/** Paths of a family: to what each switch announces, origin × size + router. */
export interface FamilyPaths extends PathCounts {
  /** Where policies come in: by address; `counts` then has the least of what a switch announces. */
  readonly byAddress?: ReadonlyMap<string, PathRow>;
  /** As `counts`; absent = all is certain. */
  readonly unsure?: Uint8Array;
}

/** What paths follow from. */
export interface Routed {
  readonly switches: readonly ReadSwitch[];
  readonly views: ReadonlyMap<string, SwitchView>;
  readonly index: ReadonlyMap<string, number>;
}

const DEFAULT_MAXIMUM_PATHS = 64;

const policyOf = (peer: EffectivePeer, family: Family): EffectivePolicy =>
  family === 'ipv4' ? peer.ipv4Policy : peer.evpnPolicy;
/** The AS number a switch shows a neighbour. */
const shownAs = (view: SwitchView, peer: EffectivePeer): number => peer.localAs ?? view.config.bgp!.asn;

/** Sessions of a family that are up, with the statements at both ends. */
function* upIn(sessions: readonly Session[], { views, index }: Routed, family: Family) {
  for (const s of sessions) {
    if (!s.up || !s[family] || s.farHost === null || s.farPeer === null) continue;
    const [here, there] = [views.get(s.host)!, views.get(s.farHost)!];
    const [sender, receiver] = [here.peerByName.get(s.peer)!, there.peerByName.get(s.farPeer)!];
    const internal = shownAs(here, sender) === there.config.bgp!.asn;
    const [told, taken] = [policyOf(sender, family), policyOf(receiver, family)];
    // A router that wants a policy and has none neither sends nor takes (RFC 8212).
    const closed =
      !internal &&
      ((here.config.bgp!.policyRequired && told.out === null) ||
        (there.config.bgp!.policyRequired && taken.in === null));
    yield { s, from: index.get(s.host)!, to: index.get(s.farHost)!, here, there, sender, receiver, internal, closed };
  }
}

/** As `upIn`, with nothing made but the edges: plain fabrics are large. */
function plainEdges(sessions: readonly Session[], { views, index }: Routed, family: Family): PathEdge[] {
  const edges: PathEdge[] = [];
  let host = '';
  let [from, wants]: [number, boolean] = [0, false];
  let peers: SwitchView['peerByName'] | undefined;
  for (const s of sessions) {
    if (!s.up || !s[family] || s.farHost === null || s.farPeer === null) continue;
    if (s.host !== host) {
      const view = views.get(s.host)!;
      host = s.host;
      from = index.get(host)!;
      wants = view.config.bgp!.policyRequired;
      peers = view.peerByName;
    }
    const there = views.get(s.farHost)!;
    const receiver = there.peerByName.get(s.farPeer)!;
    if (wants || there.config.bgp!.policyRequired) {
      const asn = peers!.get(s.peer)!.localAs ?? s.localAs;
      if (asn !== there.config.bgp!.asn) continue;
    }
    edges.push({
      from,
      to: index.get(s.farHost)!,
      ownAsAllowed: family === 'ipv4' ? receiver.ipv4OwnAs : receiver.evpnOwnAs,
    });
  }
  return edges;
}

const sameEdges = (a: readonly PathEdge[], b: readonly PathEdge[]): boolean =>
  a.length === b.length &&
  a.every((e, i) => e.from === b[i]!.from && e.to === b[i]!.to && e.ownAsAllowed === b[i]!.ownAsAllowed);

/** A network as route selection sees it. */
export interface RoutedFamily {
  readonly routers: readonly BgpRouter[];
  readonly edges: readonly BgpEdge[];
  /** The session of each edge: the sender’s end. */
  readonly sessions: readonly Session[];
}

/** Every router and every direction of every session of a family. */
export function routedFamily(
  sessions: readonly Session[],
  routed: Routed,
  family: Family,
  favoured: ReadonlySet<Session> = new Set(),
): RoutedFamily {
  const routers = routed.switches.map((s): BgpRouter => {
    const { bgp } = s.config;
    const maximumPaths = bgp?.ipv4.maximumPaths ?? DEFAULT_MAXIMUM_PATHS;
    return {
      asn: bgp?.asn ?? 0,
      routerId: parseIpv4(bgp?.routerId ?? '') ?? 0,
      maximumPaths,
      maximumPathsInternal: bgp?.ipv4.maximumPathsInternal ?? DEFAULT_MAXIMUM_PATHS,
      multipathRelax: bgp?.multipathRelax ?? false,
      asPathIgnored: bgp?.asPathIgnored ?? false,
      medAlways: bgp?.medAlways ?? false,
      localPreference: bgp?.localPreference ?? LOCAL_PREFERENCE,
      gracefulShutdown: bgp?.gracefulShutdown ?? false,
    };
  });
  const ends = [...upIn(sessions, routed, family)];
  const at = new Map(ends.map(({ s }, i) => [`${s.host} ${s.peer}`, i]));
  const backs = ends.map(({ s }) => at.get(`${s.farHost} ${s.farPeer}`) ?? -1);
  const edges = ends.map((e, i): BgpEdge => {
    const { sender, receiver, here, there } = e;
    const [told, taken] = [policyOf(sender, family), policyOf(receiver, family)];
    const own = here.config.bgp!.asn;
    const back = ends[backs[i]!];
    return {
      from: e.from,
      to: e.to,
      back: backs[i]!,
      internal: e.internal,
      sentAs: sender.localAs === undefined ? [own] : [own, sender.localAs],
      heardAs: receiver.localAs ?? null,
      ownAsAllowed: family === 'ipv4' ? receiver.ipv4OwnAs : receiver.evpnOwnAs,
      out: told.out,
      in: taken.in,
      closed: e.closed,
      weight: taken.weight,
      overridden: told.asOverride ? shownAs(there, receiver) : null,
      toClient: told.client,
      fromClient: taken.client,
      overRoutes: e.s.port === null,
      favoured: favoured.has(e.s) || (back !== undefined && favoured.has(back.s)),
    };
  });
  return { routers, edges, sessions: ends.map((e) => e.s) };
}

/** What aggregates of a switch say of a prefix: that others are not told of it. */
const isSuppressed = (view: SwitchView, prefix: Prefix): boolean =>
  (view.config.bgp?.ipv4.aggregates ?? []).some((a) => {
    const around = parseCidr(a.prefix);
    return a.summaryOnly === true && around !== null && around.length < prefix.length && contains(around, prefix);
  });

/** Settles one prefix of the underlay, announced by those that announce it. */
export function settlePrefix(
  { switches, views, index }: Routed,
  { routers, edges }: RoutedFamily,
  prefix: Prefix,
  only?: string,
): Settled {
  const own = new Map<number, Attributes>();
  const text = formatPrefix(prefix);
  for (const { host } of switches) {
    const route = only === undefined || only === host ? views.get(host)!.ownRoutes.get(text) : undefined;
    if (route) own.set(index.get(host)!, route.attributes);
  }
  return settleRoutes(routers, edges, prefix, own, (r) => !isSuppressed(views.get(switches[r]!.host)!, prefix));
}

function rowOf({ held, rests }: Settled, size: number): PathRow {
  const counts = new Uint16Array(size);
  const unsure = new Uint8Array(size);
  held.forEach((routes, r) => {
    counts[r] = routes.length;
    if (!rests) unsure[r] = RESTLESS;
    for (const h of routes)
      unsure[r] = unsure[r]! | (h.handedOn ? HANDED_ON : CERTAIN) | (h.favoured ? FAVOURED : CERTAIN);
  });
  return { counts, unsure };
}

/** What policies of a fabric can tell a prefix by: two that answer alike settle alike, where the same switch announces them. */
function tellerApart({ switches }: Routed): (prefix: Prefix) => string {
  const questions = new Map(switches.flatMap((s) => [...prefixQuestions(s.config)]));
  const aggregates = [...new Set(switches.flatMap((s) => (s.config.bgp?.ipv4.aggregates ?? []).map((a) => a.prefix)))];
  const around = aggregates.flatMap((a) => parseCidr(a) ?? []);
  return (prefix) =>
    [...questions.values()].map((q) => (q(prefix) ? '1' : '0')).join('') +
    around.map((a) => (a.length < prefix.length && contains(a, prefix) ? '1' : '0')).join('');
}

/** IPv4 with policies: a class of addresses that nothing tells apart is settled once. */
function settleByAddress(routed: Routed, family: RoutedFamily): FamilyPaths {
  const { switches, views, index } = routed;
  const size = switches.length;
  const counts = new Uint16Array(size * size);
  const unsure = new Uint8Array(size * size);
  const byAddress = new Map<string, PathRow>();
  const apart = tellerApart(routed);
  for (const { host } of switches) {
    const view = views.get(host)!;
    const classes = new Map<string, PathRow>();
    const row = index.get(host)! * size;
    let first = true;
    for (const address of view.announced) {
      const prefix = loopbackPrefix(view, address);
      const key = `${apart(prefix)} ${JSON.stringify(view.ownRoutes.get(formatPrefix(prefix))!.attributes)}`;
      let paths = classes.get(key);
      // Each switch by itself: an address that two have is uncertain anyway.
      if (!paths) classes.set(key, (paths = rowOf(settlePrefix(routed, family, prefix, host), size)));
      byAddress.set(address, paths);
      for (let r = 0; r < size; r++) {
        counts[row + r] = first ? paths.counts[r]! : Math.min(counts[row + r]!, paths.counts[r]!);
        unsure[row + r] = unsure[row + r]! | paths.unsure[r]!;
      }
      first = false;
    }
    if (first) counts[row + index.get(host)!] = 1;
  }
  return { size, counts, unsure, byAddress };
}
const loopbackPrefix = (view: SwitchView, address: string): Prefix =>
  prefixOf(parseCidr(view.config.loopbacks.find((l: Cidr) => l.startsWith(`${address}/`))!)!);

/** What EVPN routes look like to policies: of their prefixes these do not ask. */
const ANY_PREFIX: Prefix = { address: 0, length: 0 };
const EVPN_ROUTE: Attributes = {
  path: null,
  communities: '',
  localPreference: LOCAL_PREFERENCE,
  med: 0,
  weight: OWN_WEIGHT,
  origin: 'igp',
  tag: 0,
  port: null,
};
function settleByOrigin({ switches, views }: Routed, { routers, edges }: RoutedFamily): FamilyPaths {
  const size = switches.length;
  const counts = new Uint16Array(size * size);
  const unsure = new Uint8Array(size * size);
  switches.forEach(({ host }, o) => {
    const localPreference = views.get(host)!.config.bgp?.localPreference ?? LOCAL_PREFERENCE;
    const row = rowOf(
      settleRoutes(routers, edges, ANY_PREFIX, new Map([[o, { ...EVPN_ROUTE, localPreference }]])),
      size,
    );
    counts.set(row.counts, o * size);
    // Its next hop is a VTEP, which the underlay leads to.
    unsure.set(
      row.unsure.map((u) => u & ~HANDED_ON),
      o * size,
    );
  });
  return { size, counts, unsure };
}

/**
 * Paths of both families over some sessions. Where no policy comes in, shortest paths say all there is to say; else every
 * prefix that policies can tell apart is settled by itself.
 */
export function settleFamilies(
  routed: Routed,
  sessions: readonly Session[],
  favoured?: ReadonlySet<Session>,
): { readonly underlay: FamilyPaths; readonly evpn: FamilyPaths } {
  const views = [...routed.views.values()];
  // Next hops that are not next door are resolved by other routes.
  const overRoutes = sessions.some((s) => s.port === null && s.up && s.ipv4);
  const plain = (family: Family): boolean =>
    favoured === undefined && views.every((v) => v.plain[family]) && !(family === 'ipv4' && overRoutes);
  const routers = routed.switches.map((s) => ({
    asn: s.config.bgp?.asn ?? 0,
    routerId: parseIpv4(s.config.bgp?.routerId ?? '') ?? 0,
    maximumPaths: s.config.bgp?.ipv4.maximumPaths ?? DEFAULT_MAXIMUM_PATHS,
    multipathRelax: s.config.bgp?.multipathRelax ?? false,
  }));
  const [ipv4Plain, evpnPlain] = [plain('ipv4'), plain('evpn')];
  const edges = (family: Family): PathEdge[] => plainEdges(sessions, routed, family);
  const ipv4Edges = ipv4Plain ? edges('ipv4') : null;
  const underlay: FamilyPaths = ipv4Edges
    ? settlePaths(routers, ipv4Edges)
    : settleByAddress(routed, routedFamily(sessions, routed, 'ipv4', favoured));
  if (!evpnPlain) return { underlay, evpn: settleByOrigin(routed, routedFamily(sessions, routed, 'evpn', favoured)) };
  const evpnEdges = edges('evpn');
  const same = ipv4Edges !== null && sameEdges(ipv4Edges, evpnEdges);
  return { underlay, evpn: same ? underlay : settlePaths(routers, evpnEdges) };
}

/** Equal paths of a router to an address of a switch, by the underlay’s rows. */
export function pathsIn(paths: FamilyPaths, origin: number, router: number, address?: string): number {
  const row = address === undefined ? undefined : paths.byAddress?.get(address);
  return row ? row.counts[router]! : paths.counts[origin * paths.size + router]!;
}
/** How sure that is. */
export function unsureIn(paths: FamilyPaths, origin: number, router: number, address?: string): number {
  const row = address === undefined ? undefined : paths.byAddress?.get(address);
  return row ? row.unsure[router]! : (paths.unsure?.[origin * paths.size + router] ?? CERTAIN);
}
