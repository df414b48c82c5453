import { parseIpv4 } from '../numbers/ipv4.ts';
import type { BgpSpeaker } from '../config/bgp.ts';
import type { EffectivePeer, EffectivePolicy, RouterView } from './bgp.ts';
import type { BgpRouter } from './bestRoute.ts';
import type { BgpEdge } from './bgpRoutes.ts';
import { hopMaps, hopsOver, type HopsOver } from './hops.ts';
import type { OspfNetwork } from './ospf.ts';
import type { PathEdge } from './pathVector.ts';
import type { ReadSwitch } from './readSwitch.ts';
import { LOCAL_PREFERENCE, type Family } from './routes.ts';
import { carriesAcross, isTenants, type Session } from './sessions.ts';
import type { SwitchView } from './switchView.ts';

/** What paths follow from. */
export interface Routed {
  readonly switches: readonly ReadSwitch[];
  readonly views: ReadonlyMap<string, SwitchView>;
  readonly index: ReadonlyMap<string, number>;
  /** Routes that OSPF makes; null = no switch runs it. */
  readonly ospf: OspfNetwork | null;
}

export const DEFAULT_MAXIMUM_PATHS = 64;

const policyOf = (peer: EffectivePeer, family: Family): EffectivePolicy => peer[`${family}Policy`];
/** The AS number a router shows a neighbour. */
const shownAs = ({ speaker }: RouterView, peer: EffectivePeer): number => peer.localAs ?? speaker.asn;

/** Sessions of a family that are up, with the statements at both ends. */
function* upIn(sessions: readonly Session[], views: Routed['views'], indexOf: IndexOf, family: Family) {
  for (const s of sessions) {
    if (!s.up || !s[family] || s.farHost === null || s.farPeer === null) continue;
    const [from, to] = [indexOf(s.host, s.vrf), indexOf(s.farHost, s.farVrf)];
    if (from === undefined || to === undefined) continue;
    const [here, there] = [views.get(s.host)!.router(s.vrf)!, views.get(s.farHost)!.router(s.farVrf)!];
    const [sender, receiver] = [here.peer(s.peer)!, there.peer(s.farPeer)!];
    const internal = shownAs(here, sender) === there.speaker.asn;
    const [told, taken] = [policyOf(sender, family), policyOf(receiver, family)];
    // A router that wants a policy and has none neither sends nor takes (RFC 8212).
    const closed =
      !internal &&
      ((here.speaker.policyRequired && told.out === null) || (there.speaker.policyRequired && taken.in === null));
    yield { s, from, to, here, there, sender, receiver, internal, closed };
  }
}
/** Which router BGP of a switch in a VRF is; undefined = none of those that are asked about. */
export type IndexOf = (host: string, vrf: string | undefined) => number | undefined;

/** As `upIn`, with nothing made but the edges: plain fabrics are large. */
export function plainEdges(sessions: readonly Session[], { views, index }: Routed, family: Family): PathEdge[] {
  const edges: PathEdge[] = [];
  let host = '';
  let [from, wants]: [number, boolean] = [0, false];
  let peers: SwitchView['peer'] | undefined;
  for (const s of sessions) {
    if (!s.up || !s[family] || s.farHost === null || s.farPeer === null || isTenants(s)) continue;
    if (s.host !== host) {
      const view = views.get(s.host)!;
      host = s.host;
      from = index.get(host)!;
      wants = view.config.bgp!.policyRequired;
      peers = view.peer;
    }
    const there = views.get(s.farHost)!;
    const receiver = there.peer(s.farPeer)!;
    if (wants || there.config.bgp!.policyRequired) {
      const asn = peers!(s.peer)!.localAs ?? s.localAs;
      if (asn !== there.config.bgp!.asn) continue;
    }
    edges.push({
      from,
      to: index.get(s.farHost)!,
      ownAsAllowed: receiver[`${family}OwnAs`],
    });
  }
  return edges;
}

/** A network as route selection sees it. */
export interface RoutedFamily {
  readonly routers: readonly BgpRouter[];
  readonly edges: readonly BgpEdge[];
  /** The session of each edge: the sender’s end. */
  readonly sessions: readonly Session[];
}

/** BGP of a VRF as route selection sees it; null = it runs none. */
export function bgpRouter(speaker: BgpSpeaker | null | undefined, family: 'ipv4' | 'ipv6' = 'ipv4'): BgpRouter {
  const { maximumPaths, maximumPathsInternal } = speaker?.[family] ?? {};
  return {
    asn: speaker?.asn ?? 0,
    routerId: parseIpv4(speaker?.routerId ?? '') ?? 0,
    maximumPaths: maximumPaths ?? DEFAULT_MAXIMUM_PATHS,
    maximumPathsInternal: maximumPathsInternal ?? DEFAULT_MAXIMUM_PATHS,
    multipathRelax: speaker?.multipathRelax ?? false,
    asPathIgnored: speaker?.asPathIgnored ?? false,
    medAlways: speaker?.medAlways ?? false,
    localPreference: speaker?.localPreference ?? LOCAL_PREFERENCE,
    gracefulShutdown: speaker?.gracefulShutdown ?? false,
  };
}

/** Every router of the underlay and every direction of every session of a family there. */
export function routedFamily(
  sessions: readonly Session[],
  { switches, views, index }: Routed,
  family: Family,
  favoured: ReadonlySet<Session> = new Set(),
): RoutedFamily {
  const indexOf: IndexOf = (host, vrf) => (vrf === undefined ? index.get(host) : undefined);
  const routers = switches.map((s) => bgpRouter(s.config.bgp));
  return { routers, ...edgesOver(sessions, views, indexOf, family, favoured) };
}

/** Does a map of its sender speak of next hops? Each end is a sender. */
const speaksOfHops = (views: Routed['views'], { host, vrf, peer }: Session): boolean => {
  const view = views.get(host)!;
  return view
    .router(vrf)!
    .peer(peer)!
    .ipv4Policy.maps.some((m) => hopMaps(view.config).has(m));
};
const hopsOf = (views: Routed['views'], s: Session, receiver: EffectivePeer, internal: boolean): HopsOver =>
  hopsOver(
    { config: views.get(s.host)!.config, vrf: s.vrf, peer: s.peer },
    { config: views.get(s.farHost!)!.config, vrf: s.farVrf, peer: s.farPeer! },
    !internal && (receiver.multihop ?? 1) === 1,
  );

/** Every direction of those sessions of a family that are up between routers that are asked about. */
export function edgesOver(
  sessions: readonly Session[],
  views: Routed['views'],
  indexOf: IndexOf,
  family: Family,
  favoured: ReadonlySet<Session> = new Set(),
): Pick<RoutedFamily, 'edges' | 'sessions'> {
  const ends = [...upIn(sessions, views, indexOf, family)];
  const endOf = (host: string, vrf: string | undefined, peer: string): string => `${host}\n${vrf ?? ''}\n${peer}`;
  const at = new Map(ends.map(({ s }, i) => [endOf(s.host, s.vrf, s.peer), i]));
  const backs = ends.map(({ s }) => at.get(endOf(s.farHost!, s.farVrf, s.farPeer!)) ?? -1);
  const asksHops = family === 'ipv4' && ends.some((e) => speaksOfHops(views, e.s));
  const edges = ends.map((e, i): BgpEdge => {
    const { sender, receiver, here, there } = e;
    const [told, taken] = [policyOf(sender, family), policyOf(receiver, family)];
    const own = here.speaker.asn;
    const back = ends[backs[i]!];
    return {
      from: e.from,
      to: e.to,
      back: backs[i]!,
      internal: e.internal,
      sentAs: sender.localAs === undefined ? [own] : [own, sender.localAs],
      heardAs: receiver.localAs ?? null,
      ownAsAllowed: receiver[`${family}OwnAs`],
      out: told.out,
      in: taken.in,
      closed: e.closed,
      weight: taken.weight,
      overridden: told.asOverride ? shownAs(there, receiver) : null,
      nextHopSelf: told.nextHopSelf,
      toClient: told.client,
      fromClient: taken.client,
      tellsDefault: told.defaultOriginate,
      overRoutes: e.s.port === null || (family === 'ipv4' && carriesAcross(e.s)),
      favoured: favoured.has(e.s) || (back !== undefined && favoured.has(back.s)),
      carry: null,
      hops: asksHops ? hopsOf(views, e.s, receiver, e.internal) : null,
      leak: null,
    };
  });
  return { edges, sessions: ends.map((e) => e.s) };
}
