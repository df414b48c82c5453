import { routersIn } from '../config/bgp.ts';
import type { Place, SwitchConfig } from '../config/switchConfig.ts';
import { sameContent } from '../numbers/content.ts';
import { familiesOver, pathsIn, settleFamilies } from './families.ts';
import type { FamilyPaths } from './familyRows.ts';
import { ospfNetwork, type OspfNetwork } from './ospf.ts';
import { sameOuterMaps } from './outerMaps.ts';
import type { Routed } from './routedFamily.ts';
import type { ReadSwitch } from './readSwitch.ts';
import { targetsMeet, type CarriedVni, type EffectiveTargets } from './overlay.ts';
import { endKey, litCables, type Cable, type CablePlan } from './cablePlan.ts';
import { planOver } from './spokenCables.ts';
import type { Reaches, Reaches6 } from './farEnd.ts';
import { matchSessions, type Session } from './sessions.ts';
import { viewOf, type SwitchView } from './switchView.ts';
import type { Trouble } from './trouble.ts';
import type { CarriedVrf } from './vrfs.ts';
import { trunksBetween, type Trunk } from './trunks.ts';

export type { ReadSwitch } from './readSwitch.ts';

/** A server on a port of a switch, and a network that it is there for. */
export interface Leg {
  readonly host: string;
  readonly switch: string;
  readonly port: string;
  readonly vlan: number;
  /** Empty = its network is bridged only. */
  readonly gateway: string;
  /** VRF its gateway is meant to be in; absent = not known. */
  readonly vrf?: string;
}
/** A server on a port with its address, for questions of reach. */
export interface HostPort extends Leg {
  readonly ip: string;
  /** Of its subnet, as the server has it; absent = as its gateway has it. */
  readonly length?: number;
}

/** Why one VTEP of a VNI is not heard by another. */
export interface Unheard {
  readonly vni: number;
  readonly listener: string;
  readonly speaker: string;
  readonly reason: string;
}

/** The network the switches would make together, computed from their text and the cables. */
export interface NetworkModel {
  readonly switches: readonly ReadSwitch[];
  readonly views: ReadonlyMap<string, SwitchView>;
  readonly index: ReadonlyMap<string, number>;
  readonly cables: readonly Cable[];
  readonly plan: CablePlan;
  readonly sessions: readonly Session[];
  /** Null = no switch runs it. */
  readonly ospf: OspfNetwork | null;
  /** Where bridges of switches are joined. */
  readonly trunks: readonly Trunk[];
  /** Equal paths in the underlay, origin × size + router. */
  readonly underlay: FamilyPaths;
  /** The same for EVPN routes. */
  readonly evpn: FamilyPaths;
  /** Switches that announce each loopback address: more than one is a mistake. */
  readonly holders: ReadonlyMap<string, readonly string[]>;
  /** Hosts that carry each L2 VNI. */
  readonly carriers: ReadonlyMap<number, readonly string[]>;
  readonly unheard: readonly Unheard[];
  /** L3 VNI → VRFs on switches, by host. */
  readonly l3Carriers: ReadonlyMap<number, readonly { readonly host: string; readonly vrf: string }[]>;
  readonly hosts: readonly HostPort[];
  /** What servers are connected for. */
  readonly legs: readonly Leg[];
}

/** Equal underlay paths from `router` to an address of `origin`; 0 when there is no route or it is not announced. */
export function pathsTo(
  model: Pick<NetworkModel, 'index' | 'views' | 'underlay'>,
  router: string,
  origin: string,
  address: string,
): number {
  if (!model.views.get(origin)!.announced.has(address)) return 0;
  return pathsIn(model.underlay, model.index.get(origin)!, model.index.get(router)!, address);
}

/** One end of EVPN routes of a VNI or a VRF. */
export interface EvpnEnd {
  readonly host: string;
  readonly targets: EffectiveTargets;
  readonly vtep: string | undefined;
  /** What is said of it in BGP, and the interface that has its VTEP. */
  readonly configPlace: Place;
}

/** Why EVPN routes of `speaker` do not work at `listener`, or null. */
export function whyUnheard(
  model: Pick<NetworkModel, 'index' | 'views' | 'underlay' | 'evpn'>,
  listener: EvpnEnd,
  speaker: EvpnEnd,
): Trouble | null {
  const [here, there] = [listener.host, speaker.host];
  const at = (host: string, configPlace: Place, words: string): Trouble => ({ words, host, configPlace });
  const [exports, imports] = [speaker.targets.exports, listener.targets.imports];
  if (!targetsMeet(exports, imports))
    return at(
      here,
      [...listener.configPlace, 'imports'] as readonly string[] as Place,
      `route targets do not meet: ${there} exports ${exports.join(' ') || 'none'}, ${here} imports ${imports.join(' ') || 'none'}`,
    );
  if (model.evpn.counts[model.index.get(there)! * model.evpn.size + model.index.get(here)!] === 0)
    return at(here, ['bgp', 'evpn'], `no EVPN route of ${there} arrives at ${here}`);
  const { vtep } = speaker;
  if (vtep === undefined) return at(there, ['vxlans'], `${there} has no VTEP address`);
  // RFC 4271 §5.1.3: a route to oneself is not taken.
  if (model.views.get(here)!.announced.has(vtep))
    return at(here, ['loopbacks'], `${here} has VTEP ${vtep} of ${there} itself`);
  if (pathsTo(model, here, there, vtep) > 0) return null;
  return model.views.get(there)!.announced.has(vtep)
    ? at(here, ['bgp', 'ipv4'], `${here} has no route to VTEP ${vtep} of ${there}`)
    : at(there, ['bgp', 'ipv4', 'connected'], `${there} does not announce its VTEP ${vtep} in the underlay`);
}

/** A VNI of a switch as an end of EVPN routes. */
export const vniEnd = (host: string, vni: number, carried: CarriedVni): EvpnEnd => ({
  host,
  targets: carried,
  vtep: carried.vxlan.localAddress,
  configPlace: ['bgp', 'evpn', 'vnis', String(vni)],
});
/** A VRF of a switch as one. */
export const vrfEnd = (host: string, vrf: CarriedVrf): EvpnEnd => ({
  host,
  targets: vrf,
  vtep: vrf.vtep,
  configPlace: ['bgp', 'vrfs', vrf.name],
});

function findUnheard(model: Omit<NetworkModel, 'unheard' | 'l3Carriers' | 'hosts' | 'legs'>): Unheard[] {
  const out: Unheard[] = [];
  const { size, counts: evpn } = model.evpn;
  /** Sets of carriers with their VTEPs that all hear one another, whatever the VNI, where it has one target. */
  const sound = new Set<string>();
  for (const [vni, hosts] of model.carriers) {
    const members = hosts.map((host) => {
      const view = model.views.get(host)!;
      const carried = view.l2Vnis.get(vni)!;
      const vtep = carried.vxlan.localAddress;
      return {
        host,
        carried,
        at: model.index.get(host)!,
        paths: vtep === undefined ? null : pathsToOwn(model, host, vtep),
      };
    });
    const first = members[0]!.carried;
    const oneTarget =
      members.every(
        (m) => m.carried.exports.join() === first.exports.join() && m.carried.imports.join() === first.imports.join(),
      ) && targetsMeet(first.exports, first.imports);
    const alike = oneTarget && members.every((m) => m.paths !== null) ? likeness(members) : null;
    if (alike !== null && sound.has(alike)) continue;
    const before = out.length;
    for (const s of members) {
      const row = s.at * size;
      for (const l of members) {
        if (l === s || (oneTarget && s.paths !== null && evpn[row + l.at]! > 0 && s.paths[l.at]! > 0)) continue;
        const trouble = whyUnheard(model, vniEnd(l.host, vni, l.carried), vniEnd(s.host, vni, s.carried));
        if (trouble) out.push({ vni, listener: l.host, speaker: s.host, reason: trouble.words });
      }
    }
    if (alike !== null && out.length === before) sound.add(alike);
  }
  return out;
}
/** Equal paths of every switch to an address that its switch alone announces; null = it does not, or others do too. */
function pathsToOwn(
  { holders, underlay, index }: Pick<NetworkModel, 'holders' | 'underlay' | 'index'>,
  host: string,
  address: string,
): Uint16Array | null {
  const [holder, other] = holders.get(address) ?? [];
  if (holder !== host || other !== undefined) return null;
  const from = index.get(host)! * underlay.size;
  return underlay.byAddress?.get(address)?.counts ?? underlay.counts.subarray(from, from + underlay.size);
}
/** What carriers of two VNIs have alike that hear one another in the same way: who they are, and their VTEPs. */
function likeness(members: readonly { readonly at: number; readonly carried: CarriedVni }[]): string {
  let out = '';
  for (const { at, carried } of members) out += `${at} ${carried.vxlan.localAddress} `;
  return out;
}

/** Parts of a configuration that routing goes by. */
const OF_ROUTING = [
  'bgp',
  'loopbacks',
  'prefixLists',
  'communityLists',
  'largeCommunityLists',
  'extendedCommunityLists',
  'asPathLists',
  'staticRoutes',
  'ospf',
  'ospfPorts',
  'filters',
  'ipv6Loopbacks',
  'ipv6PrefixLists',
  'accessLists',
  'ipv6AccessLists',
  'ospf6',
  'ospf6Ports',
] as const satisfies readonly (keyof SwitchConfig)[];
/** What sessions and underlay routes follow from on one switch. */
const sameRouting = (a: SwitchView, b: SwitchView, plan: CablePlan, host: string): boolean =>
  a === b ||
  (OF_ROUTING.every((part) => sameContent(a.config[part], b.config[part])) &&
    sameOuterMaps(a.config, b.config) &&
    sameContent([...a.announced], [...b.announced]) &&
    sameContent(cabledPorts(a, plan, host), cabledPorts(b, plan, host)) &&
    sameContent(sessionVlans(a), sessionVlans(b)));
const isCabled = ({ end, dark }: CablePlan, host: string, port: string): boolean =>
  end(host, port) !== undefined || dark.has(endKey(host, port));
function cabledPorts(view: SwitchView, plan: CablePlan, host: string): unknown[] {
  const vlans = new Set([...view.vlansOfPort.values()].flat());
  return view.config.ports
    .filter(
      (p) =>
        p.addresses.length > 0 || p.ipv6Addresses || p.members || vlans.has(p.name) || isCabled(plan, host, p.name),
    )
    .map((p) => [p.name, p.addresses, p.ipv6Addresses, p.shut, p.vrf, view.ospf && p.mtu, p.speed, p.fec, p.members]);
}
/** Interfaces of VLANs over which sessions may lead, with what is bridged to them; null = there are none. */
function sessionVlans({ config }: SwitchView): unknown {
  const speaking = routersIn(config).filter(
    ({ speaker }) => speaker.listens ?? speaker.peers.some((p) => p.kind === 'address'),
  );
  const vrfs = new Set(speaking.map((r) => r.vrf));
  const svis = vrfs.size === 0 ? [] : config.svis.filter((s) => vrfs.has(s.vrf));
  if (svis.length === 0) return null;
  return [
    svis.map((s) => [s.vlan, s.vrf, s.addresses, s.ipv6Addresses, s.virtual]),
    config.ports.map((p) => [p.name, p.bridging]),
    config.bridge,
  ];
}
/** What EVPN lists follow from on one switch. */
const sameOverlay = (a: SwitchView, b: SwitchView): boolean =>
  a === b || (sameContent([...a.l2Vnis], [...b.l2Vnis]) && sameContent([...a.vrfs], [...b.vrfs]));

/** May sessions, routes and lists of an earlier model be taken over: same switches, cables, routing and overlay? */
function takesOver(
  last: NetworkModel,
  switches: readonly ReadSwitch[],
  views: ReadonlyMap<string, SwitchView>,
  cables: readonly Cable[],
): boolean {
  if (last.switches.length !== switches.length || !sameContent(last.cables, cables)) return false;
  return switches.every((s, i) => {
    const then = last.views.get(s.host);
    const now = views.get(s.host)!;
    return (
      last.switches[i]!.host === s.host &&
      then !== undefined &&
      sameRouting(then, now, last.plan, s.host) &&
      sameOverlay(then, now)
    );
  });
}

/** Sessions over cables first; then those over the routes that these bring. */
function settleSessions(
  routed: Routed,
  plan: CablePlan,
  reaches6: Reaches6 | undefined,
): Pick<NetworkModel, 'sessions' | 'underlay' | 'evpn'> {
  const direct = matchSessions(routed.views, plan, undefined, reaches6);
  const { underlay, evpn } = familiesOver(routed, direct);
  const overRoutes = direct.some((s) => s.port === null && s.farHost !== null);
  if (!overRoutes) return { sessions: direct, underlay, evpn: evpn() };
  const owners = new Map<string, string>();
  for (const [host, { announced }] of routed.views) for (const a of announced) owners.set(a, host);
  const led = { ...routed, underlay };
  const reaches: Reaches = (host, address) => {
    const owner = owners.get(address);
    return owner !== undefined && pathsTo(led, host, owner, address) > 0;
  };
  const sessions = matchSessions(routed.views, plan, reaches, reaches6);
  return { sessions, ...settleFamilies(routed, sessions) };
}

/** What a network is computed from. */
export interface ModelInputs {
  readonly switches: readonly ReadSwitch[];
  readonly cables: readonly Cable[];
  readonly hosts: readonly HostPort[];
  readonly legs: readonly Leg[];
  /** One that was computed before, to be taken over where it is the same. */
  readonly last: NetworkModel | null;
}
/** The network but for sessions between addresses of IPv6 over routes, unless it is said which addresses are reached. */
export function modelOver({ switches, cables, hosts, legs, last }: ModelInputs, reaches6?: Reaches6): NetworkModel {
  const views = new Map(switches.map((s) => [s.host, viewOf(s.config)]));
  const lit = litCables(views, cables);
  const trunks = trunksBetween(views, lit);
  if (last && takesOver(last, switches, views, cables)) return { ...last, switches, views, trunks, hosts, legs };
  const index = new Map(switches.map((s, i) => [s.host, i]));
  const plan = planOver(views, cables);
  const ospf = ospfNetwork(views, index, plan);
  const { sessions, underlay, evpn } = settleSessions({ switches, views, index, ospf }, plan, reaches6);
  const holders = new Map<string, string[]>();
  for (const [host, view] of views)
    for (const address of view.announced) {
      const list = holders.get(address);
      if (list) list.push(host);
      else holders.set(address, [host]);
    }
  const carriers = new Map<number, string[]>();
  const l3Carriers = new Map<number, { host: string; vrf: string }[]>();
  for (const [host, view] of views) {
    for (const vni of view.l2Vnis.keys()) {
      const list = carriers.get(vni);
      if (list) list.push(host);
      else carriers.set(vni, [host]);
    }
    for (const vrf of view.vrfs.values()) {
      if (vrf.l3Vni === undefined) continue;
      const list = l3Carriers.get(vrf.l3Vni);
      const entry = { host, vrf: vrf.name };
      if (list) list.push(entry);
      else l3Carriers.set(vrf.l3Vni, [entry]);
    }
  }
  const partial = { switches, views, index, cables, plan, ospf, trunks, sessions, underlay, evpn, holders, carriers };
  return { ...partial, unheard: findUnheard(partial), l3Carriers, hosts, legs };
}

/** VTEP addresses a switch floods a VNI to: those whose inclusive multicast route (RFC 7432 §11.2) it uses. */
export function vtepsHeard(model: NetworkModel, host: string, vni: number): string[] {
  const here = model.views.get(host)?.l2Vnis.get(vni);
  if (!here) return [];
  const heard = (model.carriers.get(vni) ?? [])
    .filter((h) => h !== host)
    .flatMap((speaker) => {
      const there = model.views.get(speaker)!.l2Vnis.get(vni)!;
      return whyUnheard(model, vniEnd(host, vni, here), vniEnd(speaker, vni, there)) === null
        ? [there.vxlan.localAddress!]
        : [];
    });
  return [...new Set(heard)];
}
