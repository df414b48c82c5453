import { parseIpv4 } from '../numbers/ipv4.ts';
import type { EffectivePeer, EffectivePolicy } from './bgp.ts';
import type { BgpEdge, BgpRouter } from './bgpRoutes.ts';
import type { OspfNetwork } from './ospf.ts';
import type { PathEdge } from './pathVector.ts';
import type { ReadSwitch } from './readSwitch.ts';
import { LOCAL_PREFERENCE } from './routes.ts';
import type { Session } from './sessions.ts';
import type { SwitchView } from './switchView.ts';

export type Family = 'ipv4' | 'evpn';

/** What paths follow from. */
export interface Routed {
  readonly switches: readonly ReadSwitch[];
  readonly views: ReadonlyMap<string, SwitchView>;
  readonly index: ReadonlyMap<string, number>;
  /** Routes that OSPF makes; null = no switch runs it. */
  readonly ospf: OspfNetwork | null;
}

export const DEFAULT_MAXIMUM_PATHS = 64;

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
export function plainEdges(sessions: readonly Session[], { views, index }: Routed, family: Family): PathEdge[] {
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
      tellsDefault: told.defaultOriginate,
      overRoutes: e.s.port === null,
      favoured: favoured.has(e.s) || (back !== undefined && favoured.has(back.s)),
    };
  });
  return { routers, edges, sessions: ends.map((e) => e.s) };
}
