import type { BgpVrf, UnicastFamily } from '../config/bgp.ts';
import { filterTableKey } from '../config/filters.ts';
import { familyOf, hostPrefix } from '../numbers/prefix.ts';
import { onceFor } from '../onceFor.ts';
import { everybodyOf } from './bgp.ts';
import { doubtsOf, type Doubt, type SwitchDoubts } from './doubts.ts';
import { hopAddressMaps, hopMaps, hopSettingMaps } from './hops.ts';
import type { NetworkModel, ReadSwitch } from './networkModel.ts';
import type { Adjacency } from './ospf.ts';
import type { Session } from './sessions.ts';
import type { SwitchView } from './switchView.ts';

const NO_DOUBTS: SwitchDoubts = {
  routing: undefined,
  ipv6: undefined,
  bridging: undefined,
  peers: new Map(),
  ports: new Map(),
  vlans: new Map(),
  vnis: new Map(),
  vrfs: new Map(),
  filters: undefined,
  filterRules: new Map(),
};

/** Neighbours whose maps ask for next hops, or set them, where these are not computed, and why. */
function* hopDoubts(view: SwitchView, vrf: string | undefined): Iterable<readonly [peer: string, words: string]> {
  const { config } = view;
  const asking = hopMaps(config);
  const router = asking.size === 0 ? null : view.router(vrf);
  for (const peer of router ? everybodyOf(router) : []) {
    const { name, remoteAs, ipv4Policy, ipv6Policy, evpnPolicy } = peer;
    const first = (maps: readonly string[], of = asking): string | undefined => maps.find((m) => of.has(m));
    const map = first(ipv4Policy.maps);
    const inside = remoteAs === 'internal' || remoteAs === router!.speaker.asn;
    const hop = hostPrefix(name);
    // A port with an address may tell that, or that of its link.
    const unlike = hop ? familyOf(hop) === 6 : (view.portByName.get(name)?.addresses.length ?? 0) > 0;
    if (map !== undefined && (inside || unlike))
      yield [name, `which next hops map ${map} meets over ${name} is not computed`];
    const other = first(evpnPolicy.maps) ?? first(ipv6Policy.maps, hopAddressMaps(config));
    if (other !== undefined) yield [name, `what map ${other} makes of next hops of ${name} is not computed`];
  }
}
/** A map that sets next hops of what a router tells of its own: who is told then, and what, is not computed. Undefined = none. */
const setsOwnHops = ({ config }: SwitchView, said: UnicastFamily | undefined): string | undefined =>
  [said?.connected?.routeMap, said?.static?.routeMap, ...Object.values(said?.networkMaps ?? {})].find(
    (m) => m !== undefined && hopSettingMaps(config).has(m),
  );
/** Why next hops of a tenant are not computed; null = they are. */
function hopsOfVrf(view: SwitchView, { vrf, ipv4, ipv6, advertiseIpv4Map, advertiseIpv6Map }: BgpVrf): string | null {
  const asking = hopMaps(view.config);
  const map =
    [ipv4.importMap, ipv6?.importMap, advertiseIpv4Map, advertiseIpv6Map].find((m) => m && asking.has(m)) ??
    setsOwnHops(view, ipv4);
  if (map !== undefined) return `what map ${map} makes of next hops of ${vrf} is not computed`;
  for (const [, words] of hopDoubts(view, vrf)) return words;
  return null;
}

/** Policies of neighbours of which it is not computed what comes of them. */
function policyDoubts(model: NetworkModel, host: string): ReadonlyMap<string, Doubt> {
  const view = model.views.get(host)!;
  const out = new Map<string, Doubt>();
  if (view.plain.ipv4 && view.plain.evpn) return out;
  for (const [name, words] of hopDoubts(view, undefined))
    out.set(name, { host, words: `${host}: ${words}`, alters: true });
  const prefixes = new Set(model.switches.flatMap((s) => [...model.views.get(s.host)!.ownRoutes.keys()])).size;
  for (const { name, ipv4Policy, evpnPolicy } of everybodyOf(view)) {
    const most = ipv4Policy.maximumPrefix ?? evpnPolicy.maximumPrefix;
    if (most !== undefined && (evpnPolicy.maximumPrefix !== undefined || most < prefixes))
      out.set(name, { host, words: `${host}: more than ${most} prefixes from ${name} end the session`, alters: false });
    const asks = evpnPolicy.maps.find((m) =>
      view.config.routeMaps.some((r) => r.name === m && r.entries.some((e) => e.matchPrefixList !== undefined)),
    );
    if (asks !== undefined)
      out.set(name, { host, words: `${host}: what map ${asks} says of EVPN’s prefixes is not computed`, alters: true });
  }
  return out;
}

/** Why next hops outside of VRFs are not computed; undefined = they are. */
function ownHopsDoubt({ views }: NetworkModel, { host, config }: ReadSwitch): string | undefined {
  const map = hopSettingMaps(config).size === 0 ? undefined : setsOwnHops(views.get(host)!, config.bgp?.ipv4);
  return map && `${host}: what map ${map} makes of next hops of its own routes is not computed`;
}

/** Why the underlay may have routes of tenants: the VNI of a default VRF brings them, and it tells them on (FRR 8.4.4). */
function leakDoubt({ l3Carriers }: NetworkModel, { host, config }: ReadSwitch): string | undefined {
  const vni = config.outsideL3Vni;
  return vni !== undefined && l3Carriers.get(vni)?.some((c) => c.host !== host)
    ? `${host}: VNI ${vni} of the default VRF brings routes of tenants into it, and what comes of them is not computed`
    : undefined;
}
/** Why there may be routes outside of VRFs where none is known; null = there are none. */
export const absenceDoubt = onceFor(
  (model: NetworkModel): string | null => model.switches.flatMap((s) => leakDoubt(model, s) ?? [])[0] ?? null,
);

function vrfDoubts(model: NetworkModel, { host, config }: ReadSwitch): ReadonlyMap<string, Doubt> {
  const out = new Map<string, Doubt>();
  if (hopMaps(config).size === 0) return out;
  for (const v of config.bgp?.vrfs ?? []) {
    const words = hopsOfVrf(model.views.get(host)!, v);
    if (words !== null) out.set(v.vrf, { host, words: `${host}: ${words}`, alters: true });
  }
  return out;
}

/** What is doubted on each switch that has a doubt. */
export const doubtsIn = onceFor(
  (model: NetworkModel): ReadonlyMap<string, SwitchDoubts> =>
    new Map(
      model.switches.flatMap((s) => {
        const doubts = doubtsOf(s);
        const peers = policyDoubts(model, s.host);
        const words = leakDoubt(model, s) ?? ownHopsDoubt(model, s) ?? model.ospf?.doubts.get(s.host);
        const vrfs = vrfDoubts(model, s);
        if (peers.size === 0 && vrfs.size === 0 && words === undefined)
          return doubts ? [[s.host, doubts] as const] : [];
        const base = doubts ?? NO_DOUBTS;
        const routing = base.routing ?? (words === undefined ? undefined : { host: s.host, words, alters: true });
        return [
          [
            s.host,
            { ...base, routing, peers: new Map([...peers, ...base.peers]), vrfs: new Map([...vrfs, ...base.vrfs]) },
          ] as const,
        ];
      }),
    ),
);

/** A line of filters because of which a switch may not hear its neighbours, or they not it. */
function filterDoubt(model: NetworkModel, host: string): Doubt | undefined {
  const doubts = doubtsIn(model).get(host);
  if (!doubts) return undefined;
  const { filters = [] } = model.views.get(host)?.config ?? {};
  // What goes through is not for the switch itself, and frames of a bridge are not.
  const isAsked = (place: string): boolean => {
    const [, key, , name] = place.split('\n');
    const table = filters.find((t) => filterTableKey(t) === key);
    return table?.layer !== 'bridge' && table?.chains.find((c) => c.name === name)?.base?.hook !== 'forward';
  };
  return doubts.filters ?? [...doubts.filterRules].find(([place]) => isAsked(place))?.[1];
}

/** What of one end may change a session. */
function doubtAtEnd(
  model: NetworkModel,
  host: string,
  vrf: string | undefined,
  peer: string | null,
  port: string | null,
): Doubt | undefined {
  const doubts = doubtsIn(model).get(host);
  if (!doubts) return undefined;
  const heard = filterDoubt(model, host);
  if (heard) return heard;
  if (vrf !== undefined) return doubts.vrfs.get(vrf) ?? (port === null ? undefined : doubts.ports.get(port));
  const group = peer === null ? undefined : model.views.get(host)?.peer(peer)?.group;
  return (
    doubts.routing ??
    (peer === null ? undefined : doubts.peers.get(peer)) ??
    (group === undefined ? undefined : doubts.peers.get(group)) ??
    (port === null ? undefined : doubts.ports.get(port))
  );
}

/** The line because of which it is uncertain whether a session is up; null = none. What has no cable is down for certain. */
export function doubtOfSession(model: NetworkModel, s: Session): Doubt | null {
  if (s.unsure !== undefined) return { host: s.host, words: `${s.host}: ${s.unsure}`, alters: true };
  const far = s.port === null ? undefined : model.plan.end(s.host, s.port);
  if (s.port !== null && far === undefined) return null;
  return (
    doubtAtEnd(model, s.host, s.vrf, s.peer, s.port) ??
    (far === undefined ? undefined : doubtAtEnd(model, far.host, s.farVrf, s.farPeer ?? far.port, far.port)) ??
    (s.port === null && s.farHost !== null ? doubtAtEnd(model, s.farHost, s.farVrf, s.farPeer, null) : undefined) ??
    null
  );
}

/** Why it is uncertain whether a session is up; null = it is not. */
export const sessionDoubt = (model: NetworkModel, s: Session): string | null => inWords(doubtOfSession(model, s));

const inWords = (doubt: Doubt | null): string | null => doubt && doubt.words;

/** The line because of which it is uncertain whether two routers are neighbours by OSPF, of IPv6 where it says so; null = none. */
export function doubtOfAdjacency(model: NetworkModel, a: Adjacency, ofIpv6 = false): Doubt | null {
  const at = (host: string | null, port: string | null): Doubt | undefined => {
    const doubts = host === null ? undefined : doubtsIn(model).get(host);
    return (
      doubts?.routing ??
      (ofIpv6 ? doubts?.ipv6 : undefined) ??
      (host === null ? undefined : filterDoubt(model, host)) ??
      (port === null ? undefined : doubts?.ports.get(port))
    );
  };
  return at(a.host, a.port) ?? at(a.farHost, a.farPort) ?? null;
}
/** Why it is uncertain whether two routers are neighbours by OSPF; null = it is not. */
export const adjacencyDoubt = (model: NetworkModel, a: Adjacency, ofIpv6 = false): string | null =>
  inWords(doubtOfAdjacency(model, a, ofIpv6));
