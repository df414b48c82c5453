import type { Cidr, Ipv4 } from '../numbers/ipv4.ts';
import type { Redistribution } from './bgp.ts';
import { carries } from '../layout/links.ts';
import { naturally } from '../numbers/order.ts';
import { FABRIC_BFD } from './bfd.ts';
import { drainCause, IPV6_CAUSE, patternCause, schemeCause, settingCause, type ConfigSection } from './section.ts';

/** How an interface proves itself to its neighbours (RFC 2328 §D). */
export type OspfProof = 'none' | 'digest';

/** What OSPF is told of one interface: a port, `lo`, or what else has an address. */
export interface OspfPort {
  readonly name: string;
  /** Area it is in, as an address is written; absent = what the router's networks say. */
  readonly area?: Ipv4;
  readonly cost?: number;
  /** Absent = broadcast: the routers on it choose one that speaks for all. */
  readonly pointToPoint?: boolean;
  /** Absent = as the router says of all. */
  readonly passive?: boolean;
  /** Seconds. */
  readonly hello?: number;
  readonly dead?: number;
  readonly priority?: number;
  readonly mtuIgnored?: boolean;
  /** Is a neighbour missed as soon as BFD misses it (RFC 5882)? */
  readonly bfd?: boolean;
  readonly bfdProfile?: string;
  /** Absent = as its area says. */
  readonly proof?: OspfProof;
  /** Masks of keys by their number, the one that is sent with last. */
  readonly keys?: readonly { readonly id: number; readonly key: string }[];
}

/** Routes of other kinds that OSPF tells on (RFC 2328 §2.3). */
export interface OspfRedistribution extends Redistribution {
  /** Does the way to the router count beside the metric (type 1)? Absent = it does not (type 2). */
  readonly wayCounts?: boolean;
}
/** Interfaces with an address in a network are in its area: the first line that fits counts. */
export interface OspfNetwork {
  readonly prefix: Cidr;
  readonly area: Ipv4;
}
/** OSPF for IPv4 (RFC 2328) of the default VRF. */
export interface OspfRouter {
  /** Absent = the highest loopback address. */
  readonly routerId?: Ipv4;
  readonly networks: readonly OspfNetwork[];
  /** Does no interface speak unless it says so itself? */
  readonly passive?: boolean;
  /** Areas whose interfaces prove themselves by a digest unless they say more. */
  readonly provenAreas?: readonly Ipv4[];
  readonly connected?: OspfRedistribution;
  readonly static?: OspfRedistribution;
  readonly maximumPaths?: number;
}
/** OSPF for IPv6 (RFC 5340) of the default VRF: interfaces say themselves in which area they are. */
export type Ospf6Router = Omit<OspfRouter, 'networks' | 'passive' | 'provenAreas'>;

export interface OspfPart {
  /** Absent = none runs. */
  readonly ospf?: OspfRouter;
  /** Absent = none. */
  readonly ospfPorts?: readonly OspfPort[];
  /** Absent = none runs for IPv6. */
  readonly ospf6?: Ospf6Router;
  readonly ospf6Ports?: readonly OspfPort[];
}

/** All links of a fabric are in one area (RFC 2328 §3.1). */
const BACKBONE: Ipv4 = '0.0.0.0';
/** The most that a link can cost: whoever has another way takes that (RFC 6987 §2). */
const LAST_RESORT = 65535;

export const ospf: ConfigSection<OspfPart> = {
  blank: {},
  derive: ({ fabric, routing, links, drained }) => {
    if (!routing?.internal) return {};
    const { keepalive, hold, bfd } = fabric.settings;
    // Two routers alone are on each link: none need be chosen to speak for it.
    const ofLinks = links.filter(carries).map(({ port }): OspfPort => ({
      name: port,
      area: BACKBONE,
      ...(drained ? { cost: LAST_RESORT } : {}),
      pointToPoint: true,
      hello: keepalive,
      dead: hold,
      ...(bfd ? { bfd: true, bfdProfile: FABRIC_BFD.name } : {}),
    }));
    const ports = [{ name: 'lo', area: BACKBONE }, ...ofLinks].sort((a, b) => naturally(a.name, b.name));
    return {
      ospf: { routerId: routing.routerId, networks: [] },
      ospfPorts: ports,
      // Between addresses of the link alone, so with or without others on it (RFC 5340 §2.5).
      ...(routing.loopback6 === undefined ? {} : { ospf6: { routerId: routing.routerId }, ospf6Ports: ports }),
    };
  },
  members: {
    ospfPorts: { key: (p: OspfPort) => p.name, word: 'OSPF port' },
    ospf6Ports: { key: (p: OspfPort) => p.name, word: 'OSPFv3 port' },
    'ospf.networks': { key: (n: OspfNetwork) => n.prefix, word: 'OSPF network' },
  },
  words: {
    area: 'OSPF area',
    cost: 'OSPF cost',
    pointToPoint: 'whether two routers alone are on it',
    passive: 'whether it speaks OSPF',
    hello: 'hello interval',
    dead: 'dead interval',
    priority: 'OSPF priority',
    mtuIgnored: 'whether MTUs are compared',
    proof: 'OSPF authentication',
    keys: 'OSPF keys',
    provenAreas: 'areas with authentication',
    routerId: 'router id',
  },
  causeOf: ([part, name = '', field = ''], context) => {
    if (field === 'cost') return drainCause(context);
    const scheme = schemeCause(context);
    if (scheme) return scheme;
    if (field === 'bfd' || field === 'bfdProfile') return settingCause('bfd', 'BFD');
    if (field === 'hello' || field === 'dead') return settingCause('keepalive', 'timers of neighbours');
    if (part === 'ospf6' || (part === 'ospf6Ports' && field === 'area')) return IPV6_CAUSE;
    if ((part === 'ospfPorts' || part === 'ospf6Ports') && name !== 'lo')
      return { ...patternCause(context), label: 'cable to a neighbour' };
    return settingCause('asnScheme', 'one AS number, led by OSPF');
  },
};
