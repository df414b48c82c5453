import { sviKey, sviWords, type SviConfig } from '../config/interfaces.ts';
import type { StaticRoute } from '../config/static.ts';
import type { Place, SwitchConfig } from '../config/switchConfig.ts';
import {
  contains,
  hostPart,
  parseCidr,
  parseIpv4,
  parsePrefix,
  prefixOf,
  type Cidr,
  type Ipv4,
  type Prefix,
} from '../numbers/ipv4.ts';
import { sviDevice } from './devices.ts';

/** A subnet of the switch itself in a VRF: it is there while the interface is up. */
export interface ConnectedRoute {
  readonly prefix: Prefix;
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
export interface WrittenRoute {
  readonly route: StaticRoute;
  readonly prefix: Prefix;
  /** `inactive`: what it goes to is not there. `unsure`: other routes may lead to its next hop. */
  readonly state: 'active' | 'inactive' | 'unsure';
}

/** Subnets that a switch has in a VRF; undefined = the default one. Shut ports have none. */
export function connectedIn({ loopbacks, ports, svis }: SwitchConfig, vrf?: string): ConnectedRoute[] {
  const out: ConnectedRoute[] = [];
  const add = (address: Cidr, rest: Omit<ConnectedRoute, 'prefix' | 'address'>): void => {
    const cidr = parseCidr(address);
    if (cidr) out.push({ prefix: prefixOf(cidr), address, ...rest });
  };
  if (vrf === undefined)
    for (const l of loopbacks) add(l, { port: 'lo', words: 'lo', mtu: undefined, configPlace: ['loopbacks'] });
  for (const p of ports)
    if (p.vrf === vrf && !p.shut)
      for (const a of p.addresses)
        add(a, { port: p.name, words: p.name, mtu: p.mtu, configPlace: ['ports', p.name, 'addresses'] });
  for (const svi of svis) {
    if (svi.vrf !== vrf) continue;
    const rest = {
      port: sviDevice(svi),
      words: sviWords(svi),
      mtu: svi.mtu,
      svi,
      configPlace: ['svis', sviKey(svi)] as const,
    };
    for (const a of svi.addresses) add(a, rest);
    if (svi.virtual) add(svi.virtual.address, { ...rest, virtual: true });
  }
  return out;
}

/** The subnet of a switch in a VRF that holds an address; of several the longest. */
export function subnetOf(connected: readonly ConnectedRoute[], address: Ipv4): ConnectedRoute | undefined {
  const number = parseIpv4(address);
  if (number === null) return undefined;
  let best: ConnectedRoute | undefined;
  for (const c of connected)
    if (contains(c.prefix, { address: number, length: 32 }) && (!best || c.prefix.length > best.prefix.length))
      best = c;
  return best;
}

/** Is there an interface of that name in the VRF? */
const hasDevice = (config: SwitchConfig, name: string, vrf: string | undefined): boolean =>
  config.ports.some((p) => p.name === name && p.vrf === vrf && !p.shut) ||
  config.svis.some((s) => s.vrf === vrf && sviDevice(s) === name);

/** Routes that are written down in a VRF, and whether they are in use. */
export function staticsIn(config: SwitchConfig, vrf?: string): WrittenRoute[] {
  const all = (config.staticRoutes ?? []).filter((r) => r.vrf === vrf);
  if (all.length === 0) return [];
  const connected = connectedIn(config, vrf);
  const stateOf = ({ via }: StaticRoute): WrittenRoute['state'] => {
    if (via === undefined) return 'active';
    if (parseIpv4(via) === null) return hasDevice(config, via, vrf) ? 'active' : 'inactive';
    const subnet = subnetOf(connected, via);
    if (subnet) return hostPart(subnet.address) === via ? 'inactive' : 'active';
    // Next hops are looked up among all routes, those of neighbours as well.
    const learns = vrf === undefined ? config.bgp !== undefined || config.ospf !== undefined : true;
    return learns || all.length > 1 ? 'unsure' : 'inactive';
  };
  return all.flatMap((route) => {
    const prefix = parsePrefix(route.prefix);
    return prefix ? [{ route, prefix, state: stateOf(route) }] : [];
  });
}
