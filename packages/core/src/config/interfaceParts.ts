import type { Drive } from '../hardware/drive.ts';
import type { Cidr } from '../numbers/ipv4.ts';
import type { Mac } from '../numbers/mac.ts';
import type { VlanId } from '../numbers/vni.ts';
import type { Bridging } from './bridging.ts';
import type { EthernetSegment } from './pairing.ts';

/**
 * A front port, a LAG that is routed by itself, or a VLAN of one of them by its name (`p46.100`). Routed with an address, routed
 * without one (unnumbered), bridged, or a member of a LAG.
 */
export interface PortConfig extends Drive {
  readonly name: string;
  /** The ports that are one in it, where it is a LAG. */
  readonly members?: readonly string[];
  readonly description?: string;
  readonly mtu?: number;
  readonly addresses: readonly Cidr[];
  /** Of IPv6; absent = none but the link's own. */
  readonly ipv6Addresses?: readonly Cidr[];
  /** The VRF it is routed in; absent = the default one. */
  readonly vrf?: string;
  readonly bridging?: Bridging;
  /** Administratively closed: no light, whatever is plugged in. */
  readonly shut?: boolean;
  /** Fabric port whose loss takes the multihomed server ports down (uplink tracking). */
  readonly tracked?: boolean;
}

/** A LAG of ports on which nothing is routed by itself; with an Ethernet segment when servers are multihomed. */
export interface LagConfig {
  /** Absent where the text calls it by a name that holds no number. */
  readonly number?: number;
  /** Name on the switch, where it is not the one the dialect gives. */
  readonly called?: string;
  readonly description?: string;
  readonly mtu?: number;
  readonly members: readonly string[];
  readonly bridging?: Bridging;
  readonly segment?: EthernetSegment;
  /** What LACP shows as the system; absent = the switch itself. */
  readonly actorSystem?: Mac;
}

/** A routed VLAN interface. The gateway hosts use is `virtual`, or else the first address with `mac`. */
export interface SviConfig {
  readonly vlan: VlanId;
  /** Name on the switch, where it is not the one the dialect gives. */
  readonly called?: string;
  readonly vrf?: string;
  readonly addresses: readonly Cidr[];
  /** Of IPv6; absent = none but the link's own. */
  readonly ipv6Addresses?: readonly Cidr[];
  readonly mac?: Mac;
  /** It tells hosts that it is their router, and their prefixes (router advertisements, RFC 4861). */
  readonly advertises?: true;
  readonly virtual?: { readonly mac: Mac; readonly address: Cidr; readonly ipv6Addresses?: readonly Cidr[] };
  readonly mtu?: number;
}

export interface InterfacesPart {
  readonly loopbacks: readonly Cidr[];
  /** Absent = none. */
  readonly ipv6Loopbacks?: readonly Cidr[];
  readonly ports: readonly PortConfig[];
  readonly lags: readonly LagConfig[];
  /** By VLAN. */
  readonly svis: readonly SviConfig[];
}

export const lagKey = (l: Pick<LagConfig, 'number' | 'called'>): string => l.called ?? String(l.number);
export const sviKey = (s: Pick<SviConfig, 'vlan' | 'called'>): string => s.called ?? String(s.vlan);

/** What people call a LAG, and the interface of a VLAN. */
export const lagWords = (l: LagConfig): string => l.called ?? `LAG ${l.number}`;
export const sviWords = (s: SviConfig): string => s.called ?? `VLAN interface ${s.vlan}`;
