import type { Cidr, Ipv4 } from '../numbers/ipv4.ts';
import type { Redistribution } from './bgp.ts';
import type { ConfigSection } from './section.ts';

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

export const ospf: ConfigSection<OspfPart> = {
  blank: {},
  // Nothing of the intent asks for it yet; it is read from texts.
  derive: () => ({}),
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
  causeOf: () => ({ subject: 'fabric', label: 'fabric pattern' }),
};
