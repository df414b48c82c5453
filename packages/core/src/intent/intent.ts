import type { SecretRef } from '../secrets/secretRef.ts';
import type { Drive } from '../hardware/drive.ts';
import type { SwitchModel } from '../hardware/switchModel.ts';
import type { Asn } from '../numbers/asn.ts';
import type { VlanId, Vni } from '../numbers/vni.ts';
import type { RoutePolicy } from './policies.ts';
import {
  DEFAULT_SETTINGS,
  type Duty,
  type FabricSettings,
  type RackPattern,
  type UpperTiers,
} from '../patterns/patterns.ts';

/** Logical position in a fabric, e.g. `spine-2`, `leaf-3`, `leaf-7a`. */
export type SeatId = string;

/** Which pool each kind of value is drawn from, by pool name. An empty name means none chosen yet. */
export interface PoolRoles {
  readonly spineAsn: string;
  readonly leafAsn: string;
  readonly loopback: string;
  readonly vtep: string;
  readonly link: string;
  readonly vni: string;
  readonly subnet: string;
  /** Only where tenants have IPv6. */
  readonly subnet6: string;
  /** Only where switches have IPv6 for one another: of single addresses. */
  readonly loopback6: string;
  readonly link6: string;
}
export type PoolRole = keyof PoolRoles;

export interface Rack {
  /** Never used again after removal, so names and values stay put. */
  readonly number: number;
  /** Name of a rack pattern in the intent. */
  readonly pattern: string;
  /** 1-based position of its first leaf on every spine (of its pod); fixed when the rack is added, so cables never move. */
  readonly slot: number;
  /** Where there are pods, the one it is in. */
  readonly pod?: number;
  readonly place?: string;
}

export interface Vrf {
  readonly name: string;
  /** VLAN that carries the VRF's L3 VNI on each switch. */
  readonly transitVlan: VlanId;
  /** L3 VNI; drawn when absent. */
  readonly vni?: Vni;
  /** Route map that its own subnets go through before its switches tell them; absent = all are told. */
  readonly connectedMap?: string;
  /** Route map that its static routes go through. */
  readonly staticMap?: string;
  /** How many routes it may come to have on any switch; the proof holds sessions to it. Absent = any number. */
  readonly mostRoutes?: number;
}

export interface Network {
  readonly name: string;
  /** Empty = it is bridged only: hosts in it reach one another, and no switch routes for them. */
  readonly vrf: string;
  readonly vlan: VlanId;
  /** Chosen VNI; absent = by the fabric's VNI rule. */
  readonly vni?: Vni;
  /** Chosen subnet; absent = drawn with `subnetLength`. */
  readonly subnet?: string;
  readonly subnetLength: number;
  /** What hosts in it have addresses of; absent = IPv4 alone. */
  readonly families?: 'both' | 'ipv6';
  /** Chosen subnet of IPv6, a /64; absent = drawn where it has that. */
  readonly subnet6?: string;
  /**
   * Chosen subnets beside these, of its families, with a gateway in each: servers move from one to the other while both are
   * there. Absent = none.
   */
  readonly furtherSubnets?: readonly string[];
  /** Layer 3 MTU in bytes; absent = the fabric's default for tenants. */
  readonly mtu?: number;
  /** Racks that carry it. */
  readonly racks: readonly number[];
}

export type Side = 'both' | 'a' | 'b';

/** A server on a rack's port: on a pair, `both` makes a multihomed LAG over the same port of both leaves. */
export interface ServerPort extends Drive {
  readonly rack: number;
  readonly side: Side;
  readonly port: string;
  readonly server: string;
  readonly untagged?: string;
  readonly tagged: readonly string[];
  /** Closed on purpose; absent = open. */
  readonly shut?: boolean;
}

/** A cable to something that is not of this fabric: a server port of the rack, and the port at the far end. */
export interface OutsideCable {
  readonly port: string;
  readonly farPort: string;
}
/** A cable from a rack's border or site gateway to something that is not of this fabric, or several that are one. */
export interface OutsideLink extends Drive, OutsideCable {
  readonly rack: number;
  /** Which half of a pair; `a` on a single leaf. */
  readonly side: 'a' | 'b';
  /** Its further cables, where it is a LAG (IEEE 802.1AX); empty = it has one so far. Absent = its port stands by itself. */
  readonly lag?: readonly OutsideCable[];
  /** To an outside system (absent), or to a gateway of another site. */
  readonly to?: 'site';
  /** The far end, by the name it bears. */
  readonly system: string;
  /** Closed on purpose; absent = open. */
  readonly shut?: boolean;
}

/**
 * A router outside that a tenant speaks BGP to, over an outside link of the fabric or a VLAN of it: a session for each
 * tenant (RFC 4364 §10a) and family, with what may be told said both ways (RFC 8212).
 */
export interface OutsideNeighbour extends Pick<OutsideLink, 'rack' | 'side' | 'port'> {
  /** The VLAN of the link that is the tenant’s, tagged; absent = what comes without a tag. */
  readonly vlan?: VlanId;
  /** The tenant. */
  readonly vrf: string;
  /** Our address there, of either family, with the length of its subnet. */
  readonly address: string;
  /** Its address, of the same subnet. */
  readonly far: string;
  /**
   * The address the session is with, where that is none of the link: one of its own behind it. The leaf has a static route to
   * it through the link, which it tells nobody.
   */
  readonly loopback?: string;
  /** How many routers away that is at most (RFC 4271 §5.1.3 knows just next door and not); absent = two, the router itself. */
  readonly hops?: number;
  readonly asn: Asn;
  /** What it may tell us: each prefix with all within it; empty = a default route and nothing else. */
  readonly takes: readonly string[];
  /** What it is told: each prefix with the subnets within it, never single hosts; empty = the subnets of the tenant. */
  readonly tells: readonly string[];
  /** Route map that what it tells goes through beside; absent = it is taken as it comes. */
  readonly mapIn?: string;
  /** Route map that what it is told goes through. */
  readonly mapOut?: string;
  /** The session goes down when it tells more prefixes; absent = there is no limit. */
  readonly limit?: number;
  /** Name of the secret that both sides sign their segments with (TCP MD5, RFC 2385); absent = they are not signed. */
  readonly password?: string;
  /** A dead link is noticed by BFD (RFC 5880), at both ends; absent = by the hold time of BGP alone. */
  readonly bfd?: true;
  /** Prefixes it is told for all within them, in their place; so is every router of the tenant that this leaf speaks to. */
  readonly aggregates?: readonly string[];
  /** It is told a default route, whether there is one or not. */
  readonly originate?: true;
  /** Seconds without a word after which it is gone; it speaks three times within them. Absent = as the dialect has it. */
  readonly hold?: number;
  /** Only what came over this one link is taken (RFC 5082); both sides have to ask for it. */
  readonly ttlSecurity?: true;
  /** The AS number it sees of us, before that of the switch; absent = that of the switch alone. */
  readonly localAs?: Asn;
  /** How often the AS number of the switch may stand in a path that it tells; absent = never. */
  readonly ownAs?: number;
  /** Its own AS number stands as ours in what it is told, so that sites that share a number hear of one another. */
  readonly asOverride?: true;
  /** The session is closed on purpose, and keeps all that is said of it. */
  readonly closed?: true;
}

/** A server of a network that is expected to speak BGP. */
export interface KnownSpeaker {
  /** It is on one port of one switch, and has the network without a tag. */
  readonly server: string;
  readonly address: string;
}
/**
 * Servers of a network that speak BGP to its gateway: nodes of a cluster, firewalls. They call; every switch that carries the
 * network answers those on its own ports, as each has the address of the gateway.
 */
export interface NetworkSpeakers {
  readonly network: string;
  /** Who may call: a range of one of its subnets, of either family, as it is written. */
  readonly from: string;
  /** Of all of them. */
  readonly asn: Asn;
  /** What they may tell: each prefix with all within it. */
  readonly takes: readonly string[];
  /** What they are told: each prefix with the subnets within it, never single hosts; empty = nothing. */
  readonly tells: readonly string[];
  /** Those that are there as far as is known: they stand in the proof as they are expected to be. Absent = nobody is named. */
  readonly known?: readonly KnownSpeaker[];
  /** As with a router outside. */
  readonly mapIn?: string;
  readonly mapOut?: string;
  readonly limit?: number;
  readonly password?: string;
  readonly bfd?: true;
  readonly originate?: true;
  readonly hold?: number;
  readonly closed?: true;
}

/** A static route of a tenant: every leaf of some racks says it, and tells it to all others (EVPN type 5, RFC 9136). */
export interface TenantRoute {
  readonly vrf: string;
  /** Of IPv4 or IPv6, no bits beyond the length. */
  readonly prefix: string;
  /** An address in a network that those racks carry, or on a link outside; absent = what goes there is dropped. */
  readonly via?: string;
  readonly racks: readonly number[];
  /** A number that route maps know it by on the switches that say it (up to `LAST_OWN_TAG` they are ours); absent = 0. */
  readonly tag?: number;
  /**
   * Administrative distance, 1–19; absent = 1. One that stood behind what BGP brings would be told all the same once it is
   * used, and then keep out what BGP brings for good.
   */
  readonly distance?: number;
}

/**
 * Routes of one tenant that another has as well, one way, on every switch that carries the other. What two have of one
 * another is two of these.
 */
export interface Leak {
  /** The VRF that has them as well. */
  readonly into: string;
  readonly from: string;
  /** Which: each with the subnets within it, never single hosts; empty = the subnets of the networks of `from`. */
  readonly prefixes: readonly string[];
}

/** A link between two switches whose ports are shut at both ends. */
export interface ShutLink {
  /** Its id in the layout: `leaf-1:spine-2:1`. */
  readonly link: string;
}

/** A seat whose switch is drained: others are asked to go round it, and carry its servers where they can. */
export interface DrainedSeat {
  readonly seat: SeatId;
}

/** Text the team adds to chosen switches; a Liquid template that sees `switch` (the SwitchConfig) and `secrets` by name. */
export interface Snippet {
  readonly name: string;
  /** The document it goes into, on switches whose dialect writes one of that name. */
  readonly file: string;
  readonly on: 'all' | 'spines' | 'leaves';
  readonly text: string;
  /** Its text may run programs or use other files on the switch; putting such a snippet takes the role scripter. */
  readonly runsElsewhere?: boolean;
}

/** A design rule that a fabric does not keep to, knowingly and for a time: what it finds does not stand in the way. */
export interface Waiver {
  /** Id of the rule: `path-width`. */
  readonly rule: string;
  readonly reason: string;
  /** Last day it counts, as in `2026-12-31` (UTC). */
  readonly until: string;
  /** Account that answers for it. */
  readonly by: string;
}

/** The intent of one fabric: the document everything else is computed from. Lists are kept in a fixed order. */
export interface FabricIntent extends UpperTiers {
  readonly name: string;
  /** First part of every switch name: `sk` gives `sk-lf-01`. */
  readonly namePrefix: string;
  /** Pattern it was laid from; empty before that. */
  readonly pattern: string;
  readonly settings: FabricSettings;
  readonly models: readonly SwitchModel[];
  readonly rackPatterns: readonly RackPattern[];
  readonly pools: PoolRoles;
  readonly racks: readonly Rack[];
  readonly seating: Readonly<Record<SeatId, string>>;
  readonly vrfs: readonly Vrf[];
  readonly networks: readonly Network[];
  readonly ports: readonly ServerPort[];
  readonly outside: readonly OutsideLink[];
  readonly shutLinks: readonly ShutLink[];
  readonly drained: readonly DrainedSeat[];
  readonly policies: readonly RoutePolicy[];
  readonly neighbours: readonly OutsideNeighbour[];
  readonly speakers: readonly NetworkSpeakers[];
  readonly routes: readonly TenantRoute[];
  readonly leaks: readonly Leak[];
  readonly snippets: readonly Snippet[];
  /** Secrets its texts hold, each with the value that is meant; the values are sealed elsewhere. */
  readonly secrets: readonly SecretRef[];
  readonly waivers: readonly Waiver[];
}

export const NO_POOLS: PoolRoles = {
  spineAsn: '',
  leafAsn: '',
  loopback: '',
  vtep: '',
  link: '',
  vni: '',
  subnet: '',
  subnet6: '',
  loopback6: '',
  link6: '',
};

/** A fabric before anything was laid out. */
export function emptyIntent(name: string, namePrefix: string): FabricIntent {
  return {
    name,
    namePrefix,
    pattern: '',
    settings: DEFAULT_SETTINGS,
    spines: { count: 0, model: '' },
    parallel: 1,
    models: [],
    rackPatterns: [],
    pools: NO_POOLS,
    racks: [],
    seating: {},
    vrfs: [],
    networks: [],
    ports: [],
    outside: [],
    shutLinks: [],
    drained: [],
    policies: [],
    neighbours: [],
    speakers: [],
    routes: [],
    leaks: [],
    snippets: [],
    secrets: [],
    waivers: [],
  };
}

/** Hosts find their own address in a subnet of that length alone (RFC 4862 §5.5.3, RFC 4291 §2.5.1). */
export const SUBNET6_LENGTH = 64;
/** Has a network a gateway of that family? One that is bridged only has none. */
export const hasFamily = ({ vrf, families }: Pick<Network, 'vrf' | 'families'>, family: 4 | 6): boolean =>
  vrf !== '' && (families === 'both' || (families === 'ipv6') === (family === 6));
/** Every subnet of a network that was chosen, of either family. */
export const chosenSubnets = ({ subnet, subnet6, furtherSubnets = [] }: Network): string[] =>
  [subnet, subnet6, ...furtherSubnets].filter((s): s is string => s !== undefined);
export const networkMtu = (intent: FabricIntent, network: Network): number => network.mtu ?? intent.settings.tenantMtu;
export const rackPatternOf = (intent: FabricIntent, rack: Rack): RackPattern | undefined =>
  intent.rackPatterns.find((p) => p.name === rack.pattern);
/** The pattern of the rack of a number; undefined = there is no such rack, or none of its pattern. */
export function rackPatternAt(intent: FabricIntent, number: number | undefined): RackPattern | undefined {
  const rack = intent.racks.find((r) => r.number === number);
  return rack && rackPatternOf(intent, rack);
}
/** `echo-store/10.40.0.0-26`: a range may be of another network once its subnet is. */
export const speakersKey = ({ network, from }: Pick<NetworkSpeakers, 'network' | 'from'>): string =>
  `${network}/${from.replace('/', '-')}`;
/** What a rack must be to have such a link. */
export const dutyFor = ({ to }: Pick<OutsideLink, 'to'>): Duty => (to === 'site' ? 'site-gateway' : 'border');
export const routeKey = (r: Pick<TenantRoute, 'vrf' | 'prefix' | 'via'>): string =>
  `${r.vrf},${r.prefix},${r.via ?? 'dropped'}`;
export const leakKey = ({ into, from }: Pick<Leak, 'into' | 'from'>): string => `${into},${from}`;
/** What such a key begins with; a label of a port may hold dots itself. */
export function portOfKey(key: string): { readonly rack: string; readonly side: string; readonly port: string } {
  const [rack = '', side = '', ...port] = key.split('.');
  return { rack, side, port: port.join('.') };
}
export const outsideKey = (o: Pick<OutsideLink, 'rack' | 'side' | 'port'>): string => `${o.rack}.${o.side}.${o.port}`;
/** All cables of it, the one it is known by first. */
export const cablesOfLink = ({
  port,
  farPort,
  lag = [],
}: Pick<OutsideLink, 'port' | 'farPort' | 'lag'>): readonly OutsideCable[] => [{ port, farPort }, ...lag];
/** Has it that port on that side of that rack? */
export const holdsPort = (o: OutsideLink, at: Pick<OutsideLink, 'rack' | 'side' | 'port'>): boolean =>
  o.rack === at.rack && o.side === at.side && cablesOfLink(o).some((c) => c.port === at.port);
export const serverPortKey = (p: Pick<ServerPort, 'rack' | 'side' | 'port'>): string => `${p.rack}.${p.side}.${p.port}`;
