import { carries } from '../layout/links.ts';
import { hasServers } from '../layout/seats.ts';
import type { IpFamily } from '../numbers/address.ts';
import type { Asn } from '../numbers/asn.ts';
import type { Cidr, Ipv4 } from '../numbers/ipv4.ts';
import { naturally } from '../numbers/order.ts';
import type { Vni } from '../numbers/vni.ts';
import { asnKey, asnRole, loopbackKey, vrfVniKey } from '../pools/demands.ts';
import { FABRIC_BFD } from './bfd.ts';
import { vniCause } from './overlay.ts';
import { CONNECTED_MAP } from './policy.ts';
import {
  patternCause,
  schemeCause,
  settingCause,
  type Cause,
  type ConfigSection,
  type OriginContext,
} from './section.ts';
import { onceFor } from '../onceFor.ts';
import type { FabricInputs, InternalNeighbour, SeatInputs, SeatRouting } from './seatInputs.ts';

export type RemoteAs = Asn | 'external' | 'internal';

/** What is said of a peer group or of one neighbour. */
export interface BgpPeer {
  /** Group name, interface name or address. */
  readonly name: string;
  readonly kind: 'group' | 'interface' | 'address';
  readonly remoteAs?: RemoteAs;
  readonly group?: string;
  readonly description?: string;
  /** Seconds. */
  readonly keepalive?: number;
  readonly hold?: number;
  readonly connect?: number;
  readonly bfd?: boolean;
  readonly bfdProfile?: string;
  /** TCP MD5 password (RFC 2385), as its mask; both ends must have the same. */
  readonly password?: string;
  /** Administratively closed. */
  readonly shutdown?: boolean;
  /** Does it wait to be called? */
  readonly passive?: boolean;
  /** Hops to an eBGP neighbour that is not next door. */
  readonly multihop?: number;
  /** Takes only what came over at most so many hops (RFC 5082). */
  readonly ttlSecurity?: number;
  /** The AS number shown to it instead of the own one. */
  readonly localAs?: Asn;
  /** Interface or address that it is called from. */
  readonly updateSource?: string;
}

/** Peers activated in an address family, and those allowed to bring the own AS number back, how often. */
export interface BgpFamily {
  readonly active: readonly string[];
  /** Neighbours taken out of it by name, though their group, or the default, has it; absent = none. */
  readonly inactive?: readonly string[];
  readonly ownAsAllowed: Readonly<Record<string, number>>;
  /** What is said of neighbours and groups about routes; absent = nothing. */
  readonly policies?: readonly PeerPolicy[];
}
/** What a neighbour or group may send and get in a family, and how it is changed on the way. */
export interface PeerPolicy {
  readonly peer: string;
  readonly mapIn?: string;
  readonly mapOut?: string;
  readonly prefixListIn?: string;
  readonly prefixListOut?: string;
  readonly asPathIn?: string;
  readonly asPathOut?: string;
  /** Tells it a default route, whether there is one or not. */
  readonly defaultOriginate?: boolean;
  /** iBGP routes are passed on to it and from it (RFC 4456). */
  readonly reflectorClient?: boolean;
  /** Puts the neighbour’s AS number out of the paths it is told, the own in its place. */
  readonly asOverride?: boolean;
  /** Tells it itself as the next hop: of what it has from outside the AS, or of all, also what it reflects. */
  readonly nextHopSelf?: 'outside' | 'all';
  readonly weight?: number;
  /** The session goes down when it tells more prefixes. */
  readonly maximumPrefix?: number;
}
/** A prefix told for all that is within it. */
export interface Aggregate {
  readonly prefix: Cidr;
  /** Are those within it not told? */
  readonly summaryOnly?: boolean;
}
export interface Redistribution {
  readonly routeMap?: string;
  readonly metric?: number;
}
export interface RouteTargets {
  readonly rd?: string;
  readonly imports: readonly string[];
  readonly exports: readonly string[];
}
export interface EvpnVni extends RouteTargets {
  readonly vni: Vni;
}

/** Routes of IPv4, or of IPv6, in the router of a VRF: where they come from, who gets them, over how many ways. */
export interface UnicastFamily extends BgpFamily {
  readonly connected?: Redistribution;
  readonly static?: Redistribution;
  readonly networks?: readonly Cidr[];
  /** Maps that such networks go through, by network; absent = none does. */
  readonly networkMaps?: Readonly<Record<Cidr, string>>;
  readonly aggregates?: readonly Aggregate[];
  readonly maximumPaths?: number;
  /** Of iBGP routes; absent = as `maximumPaths` is by itself. */
  readonly maximumPathsInternal?: number;
}

/** What the router of any VRF says of itself, its neighbours and its routes. */
export interface BgpSpeaker {
  readonly asn: Asn;
  readonly routerId?: Ipv4;
  readonly defaultIpv4: boolean;
  /** Do neighbours speak IPv6 of which nothing else is said? */
  readonly defaultIpv6?: boolean;
  /** eBGP peers without a policy exchange nothing (RFC 8212). */
  readonly policyRequired: boolean;
  readonly multipathRelax: boolean;
  /** The length of paths does not count. */
  readonly asPathIgnored?: boolean;
  /** MEDs are compared though they come from different AS numbers. */
  readonly medAlways?: boolean;
  /** Of routes that say none; absent = 100. */
  readonly localPreference?: number;
  /** Asks others to go round it (RFC 8326). */
  readonly gracefulShutdown?: boolean;
  readonly peers: readonly BgpPeer[];
  readonly ipv4: UnicastFamily;
  /** Absent = nothing is said of it. */
  readonly ipv6?: UnicastFamily;
}

/** What a family of addresses is called in BGP. */
export const familyName = (family: IpFamily): 'ipv4' | 'ipv6' => (family === 4 ? 'ipv4' : 'ipv6');
/** What a router says of its routes of a family; undefined = nothing. */
export const unicastOf = (speaker: BgpSpeaker, family: IpFamily): UnicastFamily | undefined =>
  speaker[familyName(family)];

/** BGP in one tenant VRF, with its EVPN prefix routes (RFC 9136). */
export interface BgpVrf extends BgpSpeaker, RouteTargets {
  readonly vrf: string;
  readonly advertiseIpv4: boolean;
  readonly advertiseIpv6?: boolean;
  /** EVPN tells a default route of it, whether there is one or not. */
  readonly defaultRoute?: boolean;
  readonly defaultIpv6Route?: boolean;
}

export interface BgpConfig extends BgpSpeaker {
  readonly evpn: BgpFamily & { readonly advertiseAllVni: boolean; readonly vnis: readonly EvpnVni[] };
  readonly vrfs: readonly BgpVrf[];
}
/** A router of a switch: of the default VRF, or of a tenant. */
export interface BgpRouterSaid {
  /** Absent = the default VRF. */
  readonly vrf?: string;
  readonly speaker: BgpSpeaker;
  /** Where it stands: `['bgp']`, or `['bgp', 'vrfs', 'red']`. */
  readonly place: readonly string[];
}
/** Every router that a switch is told of, that of the default VRF first. */
export const routersIn = ({ bgp }: BgpPart): readonly BgpRouterSaid[] =>
  bgp
    ? [
        { speaker: bgp, place: ['bgp'] },
        ...bgp.vrfs.map((v): BgpRouterSaid => ({ vrf: v.vrf, speaker: v, place: ['bgp', 'vrfs', v.vrf] })),
      ]
    : [];

export interface BgpPart {
  readonly bgp?: BgpConfig;
}

/** The group all fabric neighbours are in but those that are reflected to. */
const PEER_GROUP = 'FABRIC';
/** The group of those below, to which what others say is passed on. */
const CLIENT_GROUP = 'CLIENTS';
const MULTIPATH_WIDTH = 64;
const CONNECT_SECONDS = 5;

/** Groups before members, then by name: the order a router needs to read them in. */
export const sortPeers = (peers: readonly BgpPeer[]): BgpPeer[] =>
  [...peers].sort((a, b) => Number(b.kind === 'group') - Number(a.kind === 'group') || naturally(a.name, b.name));

function derivePeers({ fabric, links }: SeatInputs): BgpPeer[] {
  const { keepalive, hold, bfd } = fabric.settings;
  const group: BgpPeer = {
    name: PEER_GROUP,
    kind: 'group',
    keepalive,
    hold,
    connect: CONNECT_SECONDS,
    ...(bfd ? { bfd: true, bfdProfile: FABRIC_BFD.name } : {}),
  };
  return sortPeers([
    group,
    ...links
      .filter(carries)
      .map((l): BgpPeer =>
        l.numbered
          ? { name: l.numbered.far, kind: 'address', remoteAs: l.numbered.farAs, group: PEER_GROUP }
          : { name: l.port, kind: 'interface', remoteAs: 'external', group: PEER_GROUP },
      ),
  ]);
}

const groupOf = ({ stands }: InternalNeighbour): string => (stands === 'below' ? CLIENT_GROUP : PEER_GROUP);
/** Groups and neighbours of one AS: sessions between loopbacks, so that any way between them carries them. */
function internalPeers({ keepalive, hold }: FabricInputs['settings'], all: readonly InternalNeighbour[]): BgpPeer[] {
  const groups = [...new Set(all.map(groupOf))].map((name): BgpPeer => ({
    name,
    kind: 'group',
    remoteAs: 'internal',
    keepalive,
    hold,
    connect: CONNECT_SECONDS,
    updateSource: 'lo',
  }));
  return sortPeers([...groups, ...all.map((n): BgpPeer => ({ name: n.loopback, kind: 'address', group: groupOf(n) }))]);
}
/** BGP of a switch where OSPF leads: EVPN alone, which those above pass on (RFC 4456). */
function deriveInternal(inputs: SeatInputs, internal: readonly InternalNeighbour[]): BgpConfig {
  const { seat, fabric } = inputs;
  const { asn, routerId } = inputs.routing!;
  const active = [...new Set(internal.map(groupOf))].sort();
  const reflects = active.includes(CLIENT_GROUP) ? { policies: [{ peer: CLIENT_GROUP, reflectorClient: true }] } : {};
  const { vnis, vrfs } = deriveOverlay(inputs.routing!, inputs);
  return {
    asn,
    routerId,
    defaultIpv4: false,
    policyRequired: false,
    multipathRelax: true,
    peers: internalPeers(fabric.settings, internal),
    ipv4: { active: [], ownAsAllowed: {} },
    evpn: { active, ownAsAllowed: {}, ...reflects, advertiseAllVni: hasServers(seat), vnis },
    vrfs,
  };
}

/** Route targets made so far for a fabric. */
const targets = onceFor((_: FabricInputs) => new Map<Vni, readonly string[]>());
function targetOf(fabric: FabricInputs, vni: Vni): readonly string[] {
  const known = targets(fabric);
  let target = known.get(vni);
  if (!target) known.set(vni, (target = [`${fabric.settings.fabricNumber}:${vni}`]));
  return target;
}

/** What the router of every tenant says alike. */
const TENANT_WORDS = {
  defaultIpv4: true,
  policyRequired: false,
  // Subnets that several racks announce come from as many AS numbers.
  multipathRelax: true,
  peers: [],
  ipv4: { active: [], ownAsAllowed: {}, connected: {}, maximumPaths: MULTIPATH_WIDTH },
} satisfies Partial<BgpVrf>;

/** Route targets are fabric number and VNI, in and out; RDs are router id and VLAN. */
function deriveOverlay(
  { asn, routerId }: SeatRouting,
  { carriage, fabric }: SeatInputs,
): {
  readonly vnis: EvpnVni[];
  readonly vrfs: BgpVrf[];
} {
  return {
    vnis: carriage.networks.flatMap(({ vni, vlan }) => {
      if (vni === undefined) return [];
      const both = targetOf(fabric, vni);
      return { vni, rd: `${routerId}:${vlan}`, imports: both, exports: both };
    }),
    vrfs: carriage.vrfs.map(({ vrf, vni }) => {
      const both = targetOf(fabric, vni);
      return {
        vrf: vrf.name,
        asn,
        routerId,
        ...TENANT_WORDS,
        advertiseIpv4: true,
        rd: `${routerId}:${vrf.transitVlan}`,
        imports: both,
        exports: both,
      };
    }),
  };
}

function peerCause(name: string, field: string, context: OriginContext): Cause {
  const scheme = schemeCause(context);
  if (scheme) return scheme;
  if (field === 'keepalive' || field === 'hold' || field === 'connect') return settingCause('keepalive', 'BGP timers');
  if (field === 'bfd' || field === 'bfdProfile') return settingCause('bfd', 'BFD');
  return name === PEER_GROUP || name === CLIENT_GROUP
    ? { subject: 'fabric', label: 'fabric pattern' }
    : { ...patternCause(context), label: 'cable to a neighbour' };
}

export const bgp: ConfigSection<BgpPart> = {
  blank: {},
  derive: (inputs) => {
    const { seat, routing, fabric } = inputs;
    if (!routing) return {};
    const { asn, routerId, internal } = routing;
    if (internal) return { bgp: deriveInternal(inputs, internal) };
    const { asnScheme } = fabric.settings;
    const sharesAs = (asnScheme === 'per-rack' && seat.side !== undefined) || (asnScheme === 'two' && hasServers(seat));
    const ownAsAllowed: Record<string, number> = sharesAs ? { [PEER_GROUP]: 1 } : {};
    const family: BgpFamily = { active: [PEER_GROUP], ownAsAllowed };
    const { vnis, vrfs } = deriveOverlay(routing, inputs);
    return {
      bgp: {
        asn,
        routerId,
        defaultIpv4: false,
        policyRequired: false,
        multipathRelax: true,
        peers: derivePeers(inputs),
        ipv4: { ...family, connected: { routeMap: CONNECTED_MAP }, maximumPaths: MULTIPATH_WIDTH },
        evpn: { ...family, advertiseAllVni: hasServers(seat), vnis },
        vrfs,
      },
    };
  },
  members: {
    'bgp.peers': { key: (p: BgpPeer) => p.name, word: 'BGP neighbour' },
    'bgp.ipv4.policies': { key: (p: PeerPolicy) => p.peer, word: 'policy of neighbour' },
    'bgp.ipv6.policies': { key: (p: PeerPolicy) => p.peer, word: 'policy of neighbour' },
    'bgp.evpn.policies': { key: (p: PeerPolicy) => p.peer, word: 'policy of neighbour' },
    'bgp.ipv4.aggregates': { key: (a: Aggregate) => a.prefix, word: 'aggregate' },
    'bgp.ipv6.aggregates': { key: (a: Aggregate) => a.prefix, word: 'aggregate' },
    'bgp.evpn.vnis': { key: (v: EvpnVni) => String(v.vni), word: 'EVPN block of VNI' },
    'bgp.vrfs': { key: (v: BgpVrf) => v.vrf, word: 'VRF' },
    'bgp.vrfs.peers': { key: (p: BgpPeer) => p.name, word: 'BGP neighbour' },
    'bgp.vrfs.ipv4.policies': { key: (p: PeerPolicy) => p.peer, word: 'policy of neighbour' },
    'bgp.vrfs.ipv6.policies': { key: (p: PeerPolicy) => p.peer, word: 'policy of neighbour' },
    'bgp.vrfs.ipv4.aggregates': { key: (a: Aggregate) => a.prefix, word: 'aggregate' },
    'bgp.vrfs.ipv6.aggregates': { key: (a: Aggregate) => a.prefix, word: 'aggregate' },
  },
  words: {
    bgp: 'BGP',
    ipv4: 'IPv4',
    ipv6: 'IPv6',
    evpn: 'EVPN',
    asn: 'AS number',
    routerId: 'router id',
    remoteAs: 'remote AS',
    keepalive: 'keep-alive time',
    hold: 'hold time',
    connect: 'connect time',
    bfd: 'BFD',
    bfdProfile: 'BFD profile',
    shutdown: 'shutdown',
    password: 'password',
    policyRequired: 'need for a policy',
    multipathRelax: 'multipath over different AS numbers',
    maximumPaths: 'number of equal paths',
    advertiseAllVni: 'announcing of its VNIs',
    rd: 'RD',
    imports: 'imported route targets',
    exports: 'exported route targets',
    connected: 'announcing of connected routes',
    active: 'activated neighbours',
    static: 'announcing of static routes',
    networks: 'announced networks',
    mapIn: 'route map inward',
    mapOut: 'route map outward',
    prefixListIn: 'prefix list inward',
    prefixListOut: 'prefix list outward',
    asPathIn: 'AS path list inward',
    asPathOut: 'AS path list outward',
    defaultOriginate: 'default route told',
    reflectorClient: 'reflection of routes',
    asOverride: 'AS override',
    nextHopSelf: 'itself as next hop',
    networkMaps: 'maps of announced networks',
    weight: 'weight',
    maximumPrefix: 'most prefixes',
    passive: 'waiting to be called',
    multihop: 'hops to the neighbour',
    ttlSecurity: 'TTL security',
    localAs: 'AS number shown',
    updateSource: 'source of the session',
    localPreference: 'local preference',
    gracefulShutdown: 'graceful shutdown',
    advertiseIpv4: 'announcing by EVPN',
    advertiseIpv6: 'announcing of IPv6 by EVPN',
    defaultRoute: 'default route told by EVPN',
    defaultIpv6Route: 'default route of IPv6 told by EVPN',
  },
  causeOf: ([, part, name = '', field = ''], context) => {
    const { intent, seat } = context;
    switch (part) {
      case undefined:
        return {
          ...patternCause(context),
          label: 'AS number of the seat',
          key: asnKey(intent, seat),
          role: asnRole(intent, seat),
        };
      case 'routerId':
        return { ...patternCause(context), label: 'loopback of the seat', key: loopbackKey(seat.id), role: 'loopback' };
      case 'vrfs':
        return {
          subject: `vrf:${name}`,
          label: `VRF ${name}`,
          ...(field === 'imports' || field === 'exports' ? { key: vrfVniKey(name), role: 'vni' as const } : {}),
        };
      case 'peers':
        return peerCause(name, field, context);
      case 'evpn':
      case 'ipv4':
        if (name === 'vnis') return vniCause(field, context);
        if (name === 'ownAsAllowed') return settingCause('asnScheme', 'AS numbers that leaves share');
        return schemeCause(context) ?? { subject: 'fabric', label: 'fabric pattern' };
      default:
        return { subject: 'fabric', label: 'fabric pattern' };
    }
  },
};
