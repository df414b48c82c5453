import type { OspfPort, OspfProof, OspfRedistribution } from '../config/ospf.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import {
  contains,
  formatPrefix,
  parseCidr,
  parseIpv4,
  parsePrefix,
  type Cidr,
  type Ipv4,
  type Prefix,
} from '../numbers/ipv4.ts';
import { LEAST_IPV6_MTU } from '../numbers/address.ts';
import { groupBy } from '../numbers/order.ts';
import { formatAny, type AnyPrefix } from '../numbers/prefix.ts';
import { onceFor } from '../onceFor.ts';
import { sviDevice } from './devices.ts';
import { downPorts, sviMtu } from './interfaces.ts';
import { connectedIn, staticsIn, subnetsIn, writtenIn, type ConnectedRoute } from './localRoutes.ts';
import { mapPolicy } from './policy.ts';
import { OWN_ATTRIBUTES } from './routes.ts';

/** An address of an interface that takes part in OSPF, with all that is said of it filled in. */
export interface OspfEnd {
  /** A port, `lo`, or the interface of a VLAN. */
  readonly name: string;
  /** Null = that of the link, of IPv6: it meets whoever is on the link. */
  readonly address: Prefix | null;
  readonly area: Ipv4;
  /** The network that put it there; null = its own line. */
  readonly network: Cidr | null;
  readonly cost: number;
  readonly pointToPoint: boolean;
  readonly passive: boolean;
  readonly hello: number;
  readonly dead: number;
  readonly priority: number;
  readonly mtu: number;
  readonly mtuIgnored: boolean;
  readonly proof: OspfProof;
  /** Key by its number. */
  readonly keys: ReadonlyMap<number, string>;
  /** Number of the key it sends with. */
  readonly sentKey: number;
}

/** A prefix that a switch brings into OSPF. */
export interface OspfOrigin {
  readonly prefix: AnyPrefix;
  /** Null = from outside of OSPF. */
  readonly area: Ipv4 | null;
  /** Cost of the interface, or the metric of what comes from outside. */
  readonly cost: number;
  /** Of what comes from outside: does the way count beside the metric? */
  readonly wayCounts: boolean;
}

export interface OspfView {
  readonly routerId: Ipv4 | null;
  readonly ends: readonly OspfEnd[];
  readonly origins: ReadonlyMap<Cidr, OspfOrigin>;
  readonly maximumPaths: number;
  /** Why it is not certain what it tells; null = it is. */
  readonly unsure: string | null;
}

/** RFC 2328 §C.3, and what FRR 8.4 does by itself: 100 Gb/s cost 1, so 10 cost 10. */
const DEFAULTS = { hello: 10, dead: 4, priority: 1, mtu: 1500 } as const;
/**
 * Cost where none is said. It follows the speed of a port, which no text says: links that say none are taken to be
 * equally fast.
 */
export const UNSAID_COST = 10;
/** Metric of what comes from outside, where none is said. */
const OUTSIDE_METRIC = 20;
const DEFAULT_PATHS = 64;

function endOf(
  { port: name, mtu }: Pick<ConnectedRoute, 'port' | 'mtu'>,
  address: Prefix,
  { area, network }: Pick<OspfEnd, 'area' | 'network'>,
  said: Partial<OspfPort>,
  { ospf }: SwitchConfig,
): OspfEnd {
  const keys = said.keys ?? [];
  const hello = said.hello ?? DEFAULTS.hello;
  return {
    name,
    address,
    area,
    network,
    cost: name === 'lo' ? 0 : (said.cost ?? UNSAID_COST),
    pointToPoint: said.pointToPoint ?? false,
    passive: name === 'lo' || (said.passive ?? ospf!.passive ?? false),
    hello,
    // Four times its hello interval, where it says none (seen on FRR 8.4.4).
    dead: said.dead ?? DEFAULTS.dead * hello,
    priority: said.priority ?? DEFAULTS.priority,
    mtu: mtu ?? DEFAULTS.mtu,
    mtuIgnored: said.mtuIgnored ?? false,
    // Without a key it proves nothing and asks for nothing (seen on FRR 8.4.4).
    proof: keys.length === 0 ? 'none' : (said.proof ?? (ospf!.provenAreas?.includes(area) ? 'digest' : 'none')),
    keys: new Map(keys.map((k) => [k.id, k.key])),
    sentKey: keys.at(-1)?.id ?? 0,
  };
}

/** What OSPF of a switch is told, completed; null = it runs none. */
export function viewOspf(config: SwitchConfig): OspfView | null {
  const { ospf } = config;
  if (!ospf) return null;
  const said = new Map((config.ospfPorts ?? []).map((p) => [p.name, p]));
  const networks = ospf.networks.flatMap(({ prefix, area }) => {
    const p = parsePrefix(prefix);
    return p ? [{ prefix: p, area, network: prefix }] : [];
  });
  const ends: OspfEnd[] = [];
  const origins = new Map<Cidr, OspfOrigin>();
  /** Addresses that ports borrow: these ports do not tell them, nor are they outside of OSPF (seen on FRR 8.4.4). */
  const borrowed = new Set<Cidr>();
  let unsure: string | null = null;
  const outside = (by: OspfRedistribution | undefined, prefix: Prefix, tag: number, port: string | null): void => {
    const text = formatPrefix(prefix);
    if (!by || origins.has(text) || borrowed.has(text)) return;
    if (by.routeMap !== undefined && !mapPolicy(config, by.routeMap)({ ...OWN_ATTRIBUTES, tag, port }, prefix)) return;
    origins.set(text, { prefix, area: null, cost: by.metric ?? OUTSIDE_METRIC, wayCounts: by.wayCounts ?? false });
  };
  // Devices outside of VRFs with their addresses: where OSPF may run.
  const connected = connectedIn(config).filter((c) => !c.virtual);
  for (const device of connected) {
    const { prefix } = device;
    const address = parseCidr(device.address)!;
    const own: Partial<OspfPort> = said.get(device.port) ?? {};
    // The line that was written first counts (seen on FRR 8.4.4).
    const host: Prefix = { address: address.address, length: 32 };
    const fits = networks.find((n) => n.prefix.length <= address.length && contains(n.prefix, host));
    const spoken = own.area === undefined ? fits : { area: own.area, network: null };
    if (spoken === undefined) continue;
    const { area } = spoken;
    const end = endOf(device, address, spoken, own, config);
    ends.push(end);
    const other = origins.get(formatPrefix(prefix))?.area ?? area;
    if (other !== area && !end.pointToPoint)
      unsure ??= `${formatPrefix(prefix)} is in areas ${other} and ${area} there`;
    if (end.pointToPoint && prefix.length === 32) borrowed.add(formatPrefix(prefix));
    else origins.set(formatPrefix(prefix), { prefix, area, cost: end.cost, wayCounts: true });
  }
  for (const { prefix, port } of connected) outside(ospf.connected, prefix, 0, port);
  for (const { prefix, route, state } of staticsIn(config))
    if (state !== 'inactive') outside(ospf.static, prefix, route.tag ?? 0, null);
  return {
    routerId: ospf.routerId ?? highestOf(config),
    ends,
    origins,
    maximumPaths: ospf.maximumPaths ?? DEFAULT_PATHS,
    unsure,
  };
}

/** RFC 5340 §C.3: the dead interval does not follow that of hellos. */
const DEAD_6 = 40;

/** What OSPF for IPv6 of a switch is told, completed; null = it runs none. */
export function viewOspf6(config: SwitchConfig): OspfView | null {
  const { ospf6 } = config;
  if (!ospf6) return null;
  const ends: OspfEnd[] = [];
  const origins = new Map<Cidr, OspfOrigin>();
  const connected = subnetsIn(config, undefined, 6).filter((c) => !c.virtual);
  const onPort = groupBy(connected, (c) => c.port);
  for (const said of config.ospf6Ports ?? []) {
    const { name, area } = said;
    const mtu = mtuOf(config, name);
    if (area === undefined || mtu === null || mtu < LEAST_IPV6_MTU) continue;
    const end: OspfEnd = {
      name,
      address: null,
      area,
      network: null,
      cost: name === 'lo' ? 0 : (said.cost ?? UNSAID_COST),
      pointToPoint: said.pointToPoint ?? false,
      passive: name === 'lo' || (said.passive ?? false),
      hello: said.hello ?? DEFAULTS.hello,
      dead: said.dead ?? DEAD_6,
      priority: said.priority ?? DEFAULTS.priority,
      mtu,
      mtuIgnored: said.mtuIgnored ?? false,
      proof: 'none',
      keys: new Map(),
      sentKey: 0,
    };
    ends.push(end);
    for (const { prefix } of onPort.get(name) ?? [])
      origins.set(formatAny(prefix), { prefix, area, cost: end.cost, wayCounts: true });
  }
  const outside = (by: OspfRedistribution | undefined, prefix: AnyPrefix, tag: number, port: string | null): void => {
    if (!by) return;
    const text = formatAny(prefix);
    if (origins.has(text)) return;
    if (by.routeMap !== undefined && !mapPolicy(config, by.routeMap)({ ...OWN_ATTRIBUTES, tag, port }, prefix)) return;
    origins.set(text, { prefix, area: null, cost: by.metric ?? OUTSIDE_METRIC, wayCounts: by.wayCounts ?? false });
  };
  for (const { prefix, port } of connected) outside(ospf6.connected, prefix, 0, port);
  for (const { prefix, route, state } of writtenIn(config, undefined, 6))
    if (state !== 'inactive') outside(ospf6.static, prefix, route.tag ?? 0, null);
  return {
    routerId: ospf6.routerId ?? highestOf(config),
    ends,
    origins,
    maximumPaths: ospf6.maximumPaths ?? DEFAULT_PATHS,
    unsure: null,
  };
}
/** Ports outside of VRFs that are open, by name: a switch may have a thousand. */
const openPorts = onceFor((config: SwitchConfig) => {
  const down = downPorts(config);
  return new Map(config.ports.flatMap((p) => (p.vrf === undefined && !down.has(p.name) ? [[p.name, p] as const] : [])));
});
/** The MTU of an interface outside of VRFs; null = there is none of that name, or it is shut. */
function mtuOf(config: SwitchConfig, name: string): number | null {
  if (name === 'lo') return Infinity;
  const port = openPorts(config).get(name);
  if (port) return port.mtu ?? DEFAULTS.mtu;
  const svi = config.svis.find((s) => s.vrf === undefined && sviDevice(s) === name);
  return svi ? sviMtu(config, svi) : null;
}

/** The id of a router that says none: the highest address of its loopback, else of all. */
function highestOf(config: SwitchConfig): Ipv4 | null {
  const highest = (addresses: readonly Cidr[]): string | undefined =>
    addresses
      .map((a) => a.split('/')[0]!)
      .sort((a, b) => (parseIpv4(a) ?? 0) - (parseIpv4(b) ?? 0))
      .at(-1);
  return highest(config.loopbacks) ?? highest(config.ports.flatMap((p) => p.addresses)) ?? null;
}
