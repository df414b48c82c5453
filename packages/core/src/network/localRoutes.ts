import { sviKey, sviWords, type PortConfig, type SviConfig } from '../config/interfaces.ts';
import type { StaticRoute } from '../config/static.ts';
import type { Place, SwitchConfig } from '../config/switchConfig.ts';
import { LEAST_IPV6_MTU, type IpFamily } from '../numbers/address.ts';
import { hostPart, parseCidr, prefixOf, type Cidr, type Prefix } from '../numbers/ipv4.ts';
import {
  familyOfText,
  holdsAny,
  hostPrefix,
  networkOfAny,
  parseAnyCidr,
  parseAnyPrefix,
  type AnyPrefix,
} from '../numbers/prefix.ts';
import { sviDevice } from './devices.ts';
import { DEFAULT_MTU, downPorts, sviMtu } from './interfaces.ts';

/** A subnet of the switch itself in a VRF: it is there while the interface is up. */
export interface ConnectedRoute<P extends AnyPrefix = AnyPrefix> {
  readonly prefix: P;
  /** The address of the switch in it, with its length. */
  readonly address: Cidr;
  /** The interface as route maps call it: `p49`, `vlan110`. */
  readonly port: string;
  /** What people call it. */
  readonly words: string;
  readonly mtu: number | undefined;
  /** Where it is an interface of a VLAN. */
  readonly svi?: SviConfig;
  /** The address that hosts use as their gateway, on a device of its own beside the interface. */
  readonly virtual?: true;
  readonly configPlace: Place;
}

/** A route that is written down in a VRF. */
export interface WrittenRoute<P extends AnyPrefix = AnyPrefix> {
  readonly route: StaticRoute;
  readonly prefix: P;
  /** `inactive`: what it goes to is not there. `unsure`: other routes may lead to its next hop. */
  readonly state: 'active' | 'inactive' | 'unsure';
}

/** Subnets of IPv4 that a switch has in a VRF; undefined = the default one. Shut ports have none. */
export function connectedIn(config: SwitchConfig, vrf?: string): ConnectedRoute<Prefix>[] {
  const { loopbacks, ports, svis } = config;
  const out: ConnectedRoute<Prefix>[] = [];
  const add = (address: Cidr, rest: Omit<ConnectedRoute, 'prefix' | 'address'>): void => {
    const cidr = parseCidr(address);
    if (cidr) out.push({ prefix: prefixOf(cidr), address, ...rest });
  };
  if (vrf === undefined) for (const l of loopbacks) add(l, OF_LOOPBACK);
  const down = downPorts(config);
  for (const p of ports) if (p.vrf === vrf && !down.has(p.name)) for (const a of p.addresses) add(a, ofPort(p));
  for (const svi of svis) {
    if (svi.vrf !== vrf) continue;
    const rest = ofSvi(svi);
    for (const a of svi.addresses) add(a, rest);
    if (svi.virtual) add(svi.virtual.address, { ...rest, virtual: true });
  }
  return out;
}
/** The same of IPv6; the addresses of a link alone are none. */
function connected6In(config: SwitchConfig, vrf?: string): ConnectedRoute[] {
  const { ipv6Loopbacks = [], ports, svis } = config;
  const out: ConnectedRoute[] = [];
  const add = (addresses: readonly Cidr[] = [], rest: Omit<ConnectedRoute, 'prefix' | 'address'>): void => {
    for (const address of addresses) {
      const cidr = parseAnyCidr(address);
      if (cidr) out.push({ prefix: networkOfAny(cidr), address, ...rest });
    }
  };
  if (vrf === undefined) add(ipv6Loopbacks, OF_LOOPBACK);
  const down = downPorts(config);
  for (const p of ports)
    if (p.vrf === vrf && !down.has(p.name) && (p.mtu ?? DEFAULT_MTU) >= LEAST_IPV6_MTU) add(p.ipv6Addresses, ofPort(p));
  for (const svi of svis)
    if (svi.vrf === vrf && sviMtu(config, svi) >= LEAST_IPV6_MTU) {
      add(svi.ipv6Addresses, ofSvi(svi));
      add(svi.virtual?.ipv6Addresses, { ...ofSvi(svi), virtual: true });
    }
  return out;
}
const OF_LOOPBACK = { port: 'lo', words: 'lo', mtu: undefined, configPlace: ['loopbacks'] } as const;
const ofPort = (p: PortConfig) => ({
  port: p.name,
  words: p.name,
  mtu: p.mtu,
  configPlace: ['ports', p.name, 'addresses'] as const,
});
const ofSvi = (svi: SviConfig) => ({
  port: sviDevice(svi),
  words: sviWords(svi),
  mtu: svi.mtu,
  svi,
  configPlace: ['svis', sviKey(svi)] as const,
});
/** Subnets of a family that a switch has in a VRF. */
export const subnetsIn = (
  config: SwitchConfig,
  vrf: string | undefined,
  family: IpFamily,
): readonly ConnectedRoute[] => (family === 4 ? connectedIn(config, vrf) : connected6In(config, vrf));

/** The subnet of a switch in a VRF that holds an address; of several the longest. */
export function subnetOf<P extends AnyPrefix>(
  connected: readonly ConnectedRoute<P>[],
  address: string,
): ConnectedRoute<P> | undefined {
  const host = hostPrefix(address);
  if (host === null) return undefined;
  let best: ConnectedRoute<P> | undefined;
  for (const c of connected) if (holdsAny(c.prefix, host) && (!best || c.prefix.length > best.prefix.length)) best = c;
  return best;
}

/** Is there an interface of that name in the VRF? */
const hasDevice = (config: SwitchConfig, name: string, vrf: string | undefined): boolean =>
  config.ports.some((p) => p.name === name && p.vrf === vrf && !downPorts(config).has(name)) ||
  config.svis.some((s) => s.vrf === vrf && sviDevice(s) === name);

/** Routes of a family that are written down in a VRF, and whether they are in use. */
export function writtenIn(config: SwitchConfig, vrf: string | undefined, family: IpFamily): WrittenRoute[] {
  const all = (config.staticRoutes ?? []).filter((r) => r.vrf === vrf && familyOfText(r.prefix) === family);
  if (all.length === 0) return [];
  const connected = subnetsIn(config, vrf, family);
  const stateOf = ({ via }: StaticRoute): WrittenRoute['state'] => {
    if (via === undefined) return 'active';
    if (hostPrefix(via) === null) return hasDevice(config, via, vrf) ? 'active' : 'inactive';
    const subnet = subnetOf(connected, via);
    if (subnet) return hostPart(subnet.address) === via ? 'inactive' : 'active';
    // Next hops are looked up among all routes, those of neighbours as well.
    const learns = vrf === undefined ? config.bgp !== undefined || config.ospf !== undefined : true;
    return learns || all.length > 1 ? 'unsure' : 'inactive';
  };
  return all.flatMap((route) => {
    const prefix = parseAnyPrefix(route.prefix);
    return prefix ? [{ route, prefix, state: stateOf(route) }] : [];
  });
}
/** Those of IPv4. */
export const staticsIn = (config: SwitchConfig, vrf?: string): WrittenRoute<Prefix>[] =>
  writtenIn(config, vrf, 4) as WrittenRoute<Prefix>[];
