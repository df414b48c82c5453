import {
  sortPeers,
  type Aggregate,
  type BgpConfig,
  type BgpFamily,
  type BgpPeer,
  type BgpSpeaker,
  type BgpVrf,
  type EvpnVni,
  type PeerPolicy,
  type Redistribution,
} from '../../config/bgp.ts';
import type { BridgeConfig } from '../../config/bridging.ts';
import { lagKey, sviKey } from '../../config/interfaces.ts';
import { vxlanKey } from '../../config/overlay.ts';
import type {
  AccessListEntry,
  AsPathList,
  CommunityList,
  PrefixListEntry,
  RouteMapEntry,
} from '../../config/policy.ts';
import { staticKey, type StaticRoute } from '../../config/static.ts';
import type { Ospf6Router, OspfNetwork, OspfPort, OspfRouter } from '../../config/ospf.ts';
import { blankConfig } from '../../config/sections.ts';
import type { Place, SwitchConfig } from '../../config/switchConfig.ts';
import type { VrfConfig } from '../../config/vrfs.ts';
import { naturally } from '../../numbers/order.ts';
import { lagName, vxlanName } from './names.ts';

/** Writable twin of a readonly type, for building. */
export type Draft<T> = { -readonly [K in keyof T]: T[K] };
type Lists<T> = { -readonly [K in keyof T]: T[K] extends readonly (infer I)[] ? I[] : T[K] };

export interface BridgeDraft {
  called?: string;
  /** Names of devices, as written. */
  members: string[];
  vlans: number[];
  mtu?: number;
  /** Does it take part in a spanning tree? */
  stp?: boolean;
  priority?: number;
}
export interface FamilyDraft extends Omit<Lists<BgpFamily>, 'ownAsAllowed' | 'inactive' | 'policies'> {
  inactive?: string[];
  ownAsAllowed: Record<string, number>;
  policies?: Draft<PeerPolicy>[];
}
export interface UnicastDraft extends FamilyDraft {
  connected?: Draft<Redistribution>;
  static?: Draft<Redistribution>;
  networks?: string[];
  networkMaps?: Record<string, string>;
  aggregates?: Draft<Aggregate>[];
  importsFrom?: string[];
  importMap?: string;
  maximumPaths?: number;
  maximumPathsInternal?: number;
}
export type VniDraft = Lists<EvpnVni>;
/** Of a neighbour: another AS, the own one, or nothing said. */
export type PeerSort = 'external' | 'internal' | 'unsaid';
/** The router of any VRF while it is read. */
export interface SpeakerDraft extends Draft<
  Omit<BgpSpeaker, 'peers' | 'listens' | 'ipv4' | 'ipv6' | 'policyRequired'>
> {
  /** Where it stands: `['bgp']`, or `['bgp', 'vrfs', 'red']`. */
  readonly place: readonly string[];
  /** Whether policy is asked for, where the text says so itself. */
  policySaid: boolean | null;
  peers: Map<string, Draft<BgpPeer>>;
  /** Groups of those who may call, by range. */
  listens?: Map<string, string>;
  ipv4: UnicastDraft;
  /** Undefined until something is said of it. */
  ipv6?: UnicastDraft;
  /** Of EVPN only the router of the switch itself has neighbours. */
  evpn?: FamilyDraft;
  /** Addresses of the switch itself in that VRF: no neighbours. */
  readonly own: () => ReadonlySet<string>;
  /** The first member of each group: FRR refuses later ones of another sort. */
  firstMembers?: Map<string, string>;
}
/** Families of routes, and that of EVPN. */
export type UnicastName = 'ipv4' | 'ipv6';
export type FamilyName = UnicastName | 'evpn';
/** What is said of a family of routes: of IPv6 something, once it is asked for. */
export const unicastOf = (b: SpeakerDraft, which: UnicastName): UnicastDraft =>
  which === 'ipv4' ? b.ipv4 : (b.ipv6 ??= { active: [], ownAsAllowed: {} });
export const familyIn = (b: SpeakerDraft, which: FamilyName): FamilyDraft =>
  which === 'evpn' ? b.evpn! : unicastOf(b, which);

/** A place in the router of a VRF. */
export const placeIn = ({ place }: SpeakerDraft, ...path: readonly string[]): Place =>
  [...place, ...path] as readonly string[] as Place;

export interface BgpVrfDraft extends SpeakerDraft, Lists<Pick<BgpVrf, 'rd' | 'imports' | 'exports'>> {
  readonly vrf: string;
  advertiseIpv4: boolean;
  advertiseIpv6?: boolean;
  advertiseIpv4Map?: string;
  advertiseIpv6Map?: string;
  defaultRoute?: boolean;
  defaultIpv6Route?: boolean;
}
export interface BgpDraft extends SpeakerDraft {
  evpn: FamilyDraft & { advertiseAllVni: boolean; vnis: Map<number, VniDraft> };
  vrfs: BgpVrfDraft[];
}

export interface OspfDraft extends Draft<Omit<OspfRouter, 'networks' | 'provenAreas'>> {
  networks: OspfNetwork[];
  provenAreas?: string[];
}
export type Ospf6Draft = Draft<Ospf6Router>;
export interface OspfPortDraft extends Draft<Omit<OspfPort, 'keys'>> {
  keys?: { readonly id: number; readonly key: string }[];
}

/** An entry of a list with its number, which says its place and nothing else. */
type ListDraft<L extends { readonly entries: readonly object[] }> = L['entries'][number] & { readonly seq: number };
/** Parts that are read as what they are: lists that grow. */
type ReadPlainly = Omit<
  { -readonly [K in keyof SwitchConfig]: SwitchConfig[K] extends readonly (infer I)[] ? Draft<I>[] : SwitchConfig[K] },
  | 'bridge'
  | 'prefixLists'
  | 'ipv6PrefixLists'
  | 'routeMaps'
  | 'communityLists'
  | 'largeCommunityLists'
  | 'extendedCommunityLists'
  | 'asPathLists'
  | 'accessLists'
  | 'ipv6AccessLists'
  | 'staticRoutes'
  | 'ospf'
  | 'ospfPorts'
  | 'ospf6'
  | 'ospf6Ports'
  | 'bgp'
>;
/**
 * A SwitchConfig while its documents are read: lists in the order of the text, names as they stand there. Only parts
 * that look otherwise while they are read are named here.
 */
export interface ConfigDraft extends ReadPlainly {
  bridge: BridgeDraft | null;
  /** The VRF zebra still stands in while `frr.conf` is read, closed or not. */
  openVrf: Draft<VrfConfig> | null;
  prefixLists: Map<string, PrefixListEntry[]>;
  ipv6PrefixLists: Map<string, PrefixListEntry[]>;
  routeMaps: Map<string, Draft<RouteMapEntry>[]>;
  communityLists: Map<string, ListDraft<CommunityList>[]>;
  largeCommunityLists: Map<string, ListDraft<CommunityList>[]>;
  extendedCommunityLists: Map<string, ListDraft<CommunityList>[]>;
  asPathLists: Map<string, ListDraft<AsPathList>[]>;
  accessLists: Map<string, AccessListEntry[]>;
  ipv6AccessLists: Map<string, AccessListEntry[]>;
  staticRoutes: StaticRoute[];
  ospf: OspfDraft | null;
  ospfPorts: Map<string, OspfPortDraft>;
  ospf6: Ospf6Draft | null;
  ospf6Ports: Map<string, OspfPortDraft>;
  /** What the profile of the daemon says about eBGP without a policy (RFC 8212). */
  policyDefault: boolean;
  bgp: BgpDraft | null;
  /** A line led out of the configuration before its end: BGP waits for that. */
  unended: boolean;
}

/** A blank configuration whose lists are its own. */
function blankParts(): ReadPlainly {
  const blank: Record<string, unknown> = { ...blankConfig('') };
  for (const part in blank) if (Array.isArray(blank[part])) blank[part] = [];
  return blank as unknown as ReadPlainly;
}

export const emptyDraft = (): ConfigDraft => ({
  ...blankParts(),
  bridge: null,
  openVrf: null,
  prefixLists: new Map(),
  ipv6PrefixLists: new Map(),
  accessLists: new Map(),
  ipv6AccessLists: new Map(),
  routeMaps: new Map(),
  communityLists: new Map(),
  largeCommunityLists: new Map(),
  extendedCommunityLists: new Map(),
  asPathLists: new Map(),
  staticRoutes: [],
  ospf: null,
  ospfPorts: new Map(),
  ospf6: null,
  ospf6Ports: new Map(),
  policyDefault: true,
  bgp: null,
  unended: false,
});

/** A draft of what is read so far, to go on with twice: parts that what is read later changes in place are its own. */
export function copyDraft(draft: ConfigDraft): ConfigDraft {
  const out: Record<string, unknown> = { ...draft };
  for (const [part, of] of Object.entries(draft)) {
    if (of instanceof Map) out[part] = new Map(of as Map<string, unknown>);
    else if (Array.isArray(of)) out[part] = CHANGED_LATER.has(part) ? of.map((x: object) => ({ ...x })) : [...of];
  }
  return out as unknown as ConfigDraft;
}
/** Routing shuts ports, gives them addresses, and says of LAGs and VRFs what stands in no other document. */
const CHANGED_LATER: ReadonlySet<string> = new Set(['ports', 'lags', 'vrfs'] satisfies (keyof ConfigDraft)[]);

const byNumber = (a: string, b: string): number => Number(a) - Number(b) || naturally(a, b);
/** Sorts in place, unless it is in order already: texts mostly are. */
function inOrder<T>(items: T[], compare: (a: T, b: T) => number): T[] {
  for (let i = 1; i < items.length; i++) if (compare(items[i - 1]!, items[i]!) > 0) return items.sort(compare);
  return items;
}

/** Members of a bridge by the key of what they name; what names no LAG and no VXLAN counts as a port. */
function finishBridge({ members, stp, priority, ...rest }: BridgeDraft, draft: ConfigDraft): BridgeConfig {
  const lags = new Map(draft.lags.map((l) => [lagName(l), lagKey(l)]));
  const vxlans = new Map(draft.vxlans.map((v) => [vxlanName(v), vxlanKey(v)]));
  const out = { ports: [] as string[], lags: [] as string[], vxlans: [] as string[] };
  for (const name of members) {
    const [lag, vxlan] = [lags.get(name), vxlans.get(name)];
    if (lag !== undefined) out.lags.push(lag);
    else if (vxlan !== undefined) out.vxlans.push(vxlan);
    else out.ports.push(name);
  }
  inOrder(out.ports, naturally);
  inOrder(out.lags, naturally);
  inOrder(out.vxlans, byNumber);
  const spanningTree = priority === undefined ? {} : { priority };
  return { ...rest, ...out, ...(stp ? { spanningTree } : {}) };
}

/** Puts what is said in a family in order, in place: drafts are used up, and large fabrics have many. */
function finishFamily<T extends FamilyDraft>(family: T): T {
  family.policies?.sort((a, b) => naturally(a.peer, b.peer));
  return family;
}
function finishUnicast(family: UnicastDraft): UnicastDraft {
  family.networks?.sort(naturally);
  family.importsFrom?.sort(naturally);
  if (family.aggregates) inOrder(family.aggregates, (a, b) => naturally(a.prefix, b.prefix));
  return finishFamily(family);
}
/** Is nothing said of a family, or only what was taken back? */
const saysNothing = (family: UnicastDraft | undefined): family is undefined =>
  family === undefined ||
  (family.active.length === 0 &&
    Object.entries(family).every(
      ([key, value]) => key === 'active' || (key === 'ownAsAllowed' && Object.keys(value as object).length === 0),
    ));
const NO_PEERS: readonly BgpPeer[] = [];
function finishSpeaker(draft: SpeakerDraft, policyDefault: boolean): BgpSpeaker {
  const { asn, defaultIpv4, policySaid, multipathRelax, peers, ipv4, ipv6 } = draft;
  // Words that are not said of every router.
  const { routerId, defaultIpv6, asPathIgnored, medAlways, localPreference, gracefulShutdown } = draft;
  const { restart, restartTime, keepsForwarding, listenLimit } = draft;
  const out: Draft<BgpSpeaker> = {
    asn,
    defaultIpv4,
    policyRequired: policySaid ?? policyDefault,
    multipathRelax,
    peers: peers.size === 0 ? NO_PEERS : sortPeers([...peers.values()]),
    ipv4: finishUnicast(ipv4),
    ...(saysNothing(ipv6) ? {} : { ipv6: finishUnicast(ipv6) }),
  };
  if (draft.listens && draft.listens.size > 0)
    out.listens = [...draft.listens]
      .map(([prefix, group]) => ({ prefix, group }))
      .sort((a, b) => naturally(a.prefix, b.prefix));
  if (routerId !== undefined) out.routerId = routerId;
  if (defaultIpv6 !== undefined) out.defaultIpv6 = defaultIpv6;
  if (asPathIgnored !== undefined) out.asPathIgnored = asPathIgnored;
  if (medAlways !== undefined) out.medAlways = medAlways;
  if (localPreference !== undefined) out.localPreference = localPreference;
  if (gracefulShutdown !== undefined) out.gracefulShutdown = gracefulShutdown;
  if (restart !== undefined) out.restart = restart;
  if (restartTime !== undefined) out.restartTime = restartTime;
  if (keepsForwarding !== undefined) out.keepsForwarding = keepsForwarding;
  if (listenLimit !== undefined) out.listenLimit = listenLimit;
  return out;
}

const finishTenant = (draft: BgpVrfDraft, policyDefault: boolean): BgpVrf => {
  const { vrf, advertiseIpv4, advertiseIpv6, defaultRoute, defaultIpv6Route, rd, imports, exports } = draft;
  const said = { vrf, advertiseIpv4, imports, exports, ...(rd === undefined ? {} : { rd }) };
  return Object.assign(
    finishSpeaker(draft, policyDefault),
    said,
    advertiseIpv6 ? { advertiseIpv6 } : {},
    draft.advertiseIpv4Map === undefined ? {} : { advertiseIpv4Map: draft.advertiseIpv4Map },
    draft.advertiseIpv6Map === undefined ? {} : { advertiseIpv6Map: draft.advertiseIpv6Map },
    defaultRoute ? { defaultRoute } : {},
    defaultIpv6Route ? { defaultIpv6Route } : {},
  );
};

function finishBgp(draft: BgpDraft, policyDefault: boolean): BgpConfig {
  const { evpn, vrfs } = draft;
  const tenants = vrfs.map((v) => finishTenant(v, policyDefault));
  return Object.assign(finishSpeaker(draft, policyDefault), {
    evpn: { ...finishFamily(evpn), vnis: inOrder([...evpn.vnis.values()], (a, b) => a.vni - b.vni) },
    vrfs: inOrder(tenants, (a, b) => naturally(a.vrf, b.vrf)),
  });
}

/** The SwitchConfig of what was read. The draft is used up. */
export function finishDraft(draft: ConfigDraft): SwitchConfig {
  const bySeq = (a: { readonly seq: number }, b: { readonly seq: number }): number => a.seq - b.seq;
  const byName = (a: { readonly name: string }, b: { readonly name: string }): number => naturally(a.name, b.name);
  const {
    openVrf: _,
    policyDefault,
    unended,
    bridge,
    bgp,
    communityLists,
    largeCommunityLists,
    extendedCommunityLists,
    asPathLists,
    ipv6PrefixLists,
    accessLists,
    ipv6AccessLists,
    staticRoutes,
    ospf,
    ospfPorts,
    ospf6,
    ospf6Ports,
    ...plain
  } = draft;
  /** Entries by their numbers. */
  const numbered = <E extends { readonly seq: number }>(of: ReadonlyMap<string, E[]>) =>
    [...of].map(([name, entries]) => ({ name, entries: inOrder(entries, bySeq) }));
  /** The same without them; no lists at all are none. */
  const lists = <E extends object>(of: ReadonlyMap<string, (E & { readonly seq: number })[]>) =>
    [...of].map(([name, entries]) => ({
      name,
      entries: inOrder(entries, bySeq).map(({ seq: __, ...entry }) => entry as unknown as E),
    }));
  return {
    ...plain,
    ports: inOrder(draft.ports, byName),
    lags: inOrder(draft.lags, (a, b) => naturally(lagKey(a), lagKey(b))),
    svis: inOrder(draft.svis, (a, b) => a.vlan - b.vlan || naturally(sviKey(a), sviKey(b))),
    ...(bridge ? { bridge: finishBridge(bridge, draft) } : {}),
    vxlans: inOrder(draft.vxlans, (a, b) => a.vni - b.vni || naturally(vxlanKey(a), vxlanKey(b))),
    vrfs: inOrder(draft.vrfs, byName),
    prefixLists: numbered(draft.prefixLists),
    ...(ipv6PrefixLists.size > 0 ? { ipv6PrefixLists: numbered(ipv6PrefixLists) } : {}),
    routeMaps: [...draft.routeMaps].map(([name, entries]) => ({ name, entries: inOrder(entries, bySeq) })),
    ...(communityLists.size > 0 ? { communityLists: lists(communityLists) } : {}),
    ...(largeCommunityLists.size > 0 ? { largeCommunityLists: lists(largeCommunityLists) } : {}),
    ...(extendedCommunityLists.size > 0 ? { extendedCommunityLists: lists(extendedCommunityLists) } : {}),
    ...(asPathLists.size > 0 ? { asPathLists: lists(asPathLists) } : {}),
    ...(accessLists.size > 0 ? { accessLists: numbered(accessLists) } : {}),
    ...(ipv6AccessLists.size > 0 ? { ipv6AccessLists: numbered(ipv6AccessLists) } : {}),
    ...(staticRoutes.length > 0
      ? { staticRoutes: inOrder(staticRoutes, (a, b) => naturally(staticKey(a), staticKey(b))) }
      : {}),
    ...(ospf ? { ospf } : {}),
    ...(ospfPorts.size > 0 ? { ospfPorts: inOrder([...ospfPorts.values()], byName) } : {}),
    ...(ospf6 ? { ospf6 } : {}),
    ...(ospf6Ports.size > 0 ? { ospf6Ports: inOrder([...ospf6Ports.values()], byName) } : {}),
    ...(bgp && !unended ? { bgp: finishBgp(bgp, policyDefault) } : {}),
  };
}
