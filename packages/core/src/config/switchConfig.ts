import type { Asn } from '../numbers/asn.ts';
import type { Cidr, Ipv4 } from '../numbers/ipv4.ts';
import type { Mac } from '../numbers/mac.ts';
import type { VlanId, Vni } from '../numbers/vni.ts';

/** VLANs of a bridged port: at most one untagged, any number tagged, ascending. */
export interface Bridging {
  readonly untagged?: VlanId;
  readonly tagged: readonly VlanId[];
}

/** A front port. Routed with an address, routed without one (unnumbered), bridged, or a member of a LAG. */
export interface PortConfig {
  readonly name: string;
  readonly description?: string;
  readonly mtu?: number;
  readonly addresses: readonly Cidr[];
  readonly bridging?: Bridging;
  /** Administratively closed: no light, whatever is plugged in. */
  readonly shut?: boolean;
  /** Fabric port whose loss takes the multihomed server ports down (uplink tracking). */
  readonly tracked?: boolean;
}

/** A LAG of ports; with an Ethernet segment when servers are multihomed (RFC 7432 §5, type 3 ESI). */
export interface LagConfig {
  readonly name: string;
  readonly description?: string;
  readonly mtu?: number;
  readonly members: readonly string[];
  readonly bridging?: Bridging;
  readonly segment?: { readonly number: number; readonly systemMac: Mac };
}

export interface BridgeConfig {
  readonly name: string;
  /** Port, LAG and VXLAN interface names in it. */
  readonly members: readonly string[];
  readonly vlans: readonly VlanId[];
}

/** A VXLAN interface: one VNI on one VLAN. */
export interface VxlanConfig {
  readonly name: string;
  readonly vni: Vni;
  readonly vlan?: VlanId;
  readonly localAddress?: Ipv4;
  readonly learning: boolean;
  readonly arpSuppression: boolean;
  readonly mtu?: number;
}

export interface VrfConfig {
  readonly name: string;
  readonly l3Vni?: Vni;
}

/** A routed VLAN interface. The gateway hosts use is `virtual`, or else the first address with `mac`. */
export interface SviConfig {
  readonly name: string;
  readonly vlan: VlanId;
  readonly vrf?: string;
  readonly addresses: readonly Cidr[];
  readonly mac?: Mac;
  readonly virtual?: { readonly mac: Mac; readonly address: Cidr };
  readonly mtu?: number;
}

export interface BfdProfile {
  readonly name: string;
  readonly multiplier?: number;
  /** Milliseconds. */
  readonly transmit?: number;
  readonly receive?: number;
}

export interface PrefixListEntry {
  readonly seq: number;
  readonly permit: boolean;
  readonly prefix: Cidr;
  readonly ge?: number;
  readonly le?: number;
}
export interface PrefixList {
  readonly name: string;
  readonly entries: readonly PrefixListEntry[];
}
export interface RouteMapEntry {
  readonly seq: number;
  readonly permit: boolean;
  readonly matchPrefixList?: string;
}
export interface RouteMap {
  readonly name: string;
  readonly entries: readonly RouteMapEntry[];
}

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
}

/** Peers activated in an address family, and those allowed to bring the own AS number back, how often. */
export interface BgpFamily {
  readonly active: readonly string[];
  readonly ownAsAllowed: Readonly<Record<string, number>>;
}
export interface Redistribution {
  readonly routeMap?: string;
}
export interface RouteTargets {
  readonly rd?: string;
  readonly imports: readonly string[];
  readonly exports: readonly string[];
}
export interface EvpnVni extends RouteTargets {
  readonly vni: Vni;
}

/** BGP in one tenant VRF, with its EVPN prefix routes (RFC 9136). */
export interface BgpVrf extends RouteTargets {
  readonly vrf: string;
  readonly asn: Asn;
  readonly routerId?: Ipv4;
  readonly connected?: Redistribution;
  readonly maximumPaths?: number;
  readonly advertiseIpv4: boolean;
}

export interface BgpConfig {
  readonly asn: Asn;
  readonly routerId?: Ipv4;
  readonly defaultIpv4: boolean;
  /** eBGP peers without a policy exchange nothing (RFC 8212). */
  readonly policyRequired: boolean;
  readonly multipathRelax: boolean;
  readonly peers: readonly BgpPeer[];
  readonly ipv4: BgpFamily & { readonly connected?: Redistribution; readonly maximumPaths?: number };
  readonly evpn: BgpFamily & { readonly advertiseAllVni: boolean; readonly vnis: readonly EvpnVni[] };
  readonly vrfs: readonly BgpVrf[];
}

/**
 * Complete, vendor-neutral configuration of one switch: the centre of the house. Derivation makes it, each dialect
 * renders it and parses text back into it, the network model reads it. Lists are in natural order of their names.
 */
export interface SwitchConfig {
  readonly hostname: string;
  readonly loopbacks: readonly Cidr[];
  readonly ports: readonly PortConfig[];
  readonly lags: readonly LagConfig[];
  readonly bridge?: BridgeConfig;
  readonly vxlans: readonly VxlanConfig[];
  readonly vrfs: readonly VrfConfig[];
  readonly svis: readonly SviConfig[];
  readonly bfdProfiles: readonly BfdProfile[];
  readonly prefixLists: readonly PrefixList[];
  readonly routeMaps: readonly RouteMap[];
  readonly bgp?: BgpConfig;
}

/** A switch that has its name and nothing else. */
export const blankConfig = (hostname: string): SwitchConfig => ({
  hostname,
  loopbacks: [],
  ports: [],
  lags: [],
  vxlans: [],
  vrfs: [],
  svis: [],
  bfdProfiles: [],
  prefixLists: [],
  routeMaps: [],
});
