import type { IpFamily } from '../numbers/address.ts';
import type { Asn } from '../numbers/asn.ts';
import type { Cidr, Ipv4 } from '../numbers/ipv4.ts';
import { naturally } from '../numbers/order.ts';
import type { Vni } from '../numbers/vni.ts';

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
  /** Access lists; beside a prefix list of the same way there is none. */
  readonly accessListIn?: string;
  readonly accessListOut?: string;
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
  /** VRFs of the same switch whose routes it has as well; absent = of none. */
  readonly importsFrom?: readonly string[];
  /** The map that these go through; absent = none. */
  readonly importMap?: string;
  readonly maximumPaths?: number;
  /** Of iBGP routes; absent = as `maximumPaths` is by itself. */
  readonly maximumPathsInternal?: number;
}

/** How many may call a router where it says nothing else (FRR 8.4.4). */
export const CALLERS = 100;

/** Addresses from which anybody may call, who then is a member of a group. */
export interface ListenRange {
  readonly prefix: Cidr;
  readonly group: string;
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
  /** Others keep its routes while it starts anew, and it theirs; or neither (RFC 4724). Absent = it keeps theirs. */
  readonly restart?: 'full' | 'none';
  /** Seconds that it may be away then; absent = 120. */
  readonly restartTime?: number;
  /** It says that packets went on meanwhile. */
  readonly keepsForwarding?: boolean;
  readonly peers: readonly BgpPeer[];
  /** Who else may call; absent = nobody. */
  readonly listens?: readonly ListenRange[];
  /** How many of them may have a session at once; absent = `CALLERS`. */
  readonly listenLimit?: number;
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
  /** The map that what EVPN tells of a family goes through; absent = all of it is told. */
  readonly advertiseIpv4Map?: string;
  readonly advertiseIpv6Map?: string;
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

/** What the router of the default VRF says in every fabric. */
export const ROUTER_WORDS = { defaultIpv4: false, policyRequired: false, multipathRelax: true } as const;

/** The group all fabric neighbours are in but those that are reflected to. */
export const PEER_GROUP = 'FABRIC';
/** The group of those below, to which what others say is passed on. */
export const CLIENT_GROUP = 'CLIENTS';
export const CONNECT_SECONDS = 5;

/** Groups before members, then by name: the order a router needs to read them in. */
export const sortPeers = (peers: readonly BgpPeer[]): BgpPeer[] =>
  [...peers].sort((a, b) => Number(b.kind === 'group') - Number(a.kind === 'group') || naturally(a.name, b.name));

/** What a router says of itself wherever it speaks to somebody: outside of VRFs, and in those in which it does. */
export function wherever(router: BgpConfig, words: Partial<Omit<BgpSpeaker, 'asn' | 'peers'>>): BgpConfig {
  const speaks = ({ peers, listens }: BgpSpeaker): boolean => peers.length > 0 || (listens?.length ?? 0) > 0;
  return { ...router, ...words, vrfs: router.vrfs.map((v) => (speaks(v) ? { ...v, ...words } : v)) };
}
