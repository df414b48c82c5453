import { lagKey, type LagConfig, type PortConfig, type SviConfig } from '../config/interfaces.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import { vlanOfPort } from '../config/vlanOfPort.ts';
import { hostPart, parseCidr, prefixOf, type Cidr } from '../numbers/ipv4.ts';
import { groupBy } from '../numbers/order.ts';
import { onceFor } from '../onceFor.ts';

/** Ports and addresses of a switch, found by what one asks for. */
export interface InterfacesView {
  /** Ports that have a stanza and are up for routing. */
  readonly portByName: ReadonlyMap<string, PortConfig>;
  /** VLANs of a port that are routed by themselves, by the name of the port. */
  readonly vlansOfPort: ReadonlyMap<string, readonly string[]>;
  /** Interface address (host part) of either family → port that has it. */
  readonly portByAddress: ReadonlyMap<string, string>;
  /** The routed port of a VRF whose subnet holds an address; of several the longest, wherever it stands. */
  readonly portTowards: (address: number, vrf?: string) => string | undefined;
  readonly ownAddresses: ReadonlySet<string>;
  readonly lagOfPort: ReadonlyMap<string, LagConfig>;
  /** The LAG that a port is one of, where that is routed by itself. */
  readonly routedLagOf: ReadonlyMap<string, string>;
  readonly lagByKey: ReadonlyMap<string, LagConfig>;
  readonly sviByVlan: ReadonlyMap<number, SviConfig>;
}

/** Addresses with length that hosts of IPv4 use as their gateway. */
export const gatewaysOfSvi = ({ virtual, addresses }: SviConfig): readonly Cidr[] =>
  virtual ? [virtual.address] : addresses;
/** The first of them. */
export const gatewayOfSvi = (svi: SviConfig): Cidr | undefined => svi.virtual?.address ?? svi.addresses[0];

/** The MTU of a port of which no line says more; ifupdown2 gives it to a bridge too, whatever its ports have (3.0, `address`). */
export const DEFAULT_MTU = 1500;
/** The MTU that an interface of a VLAN gets: no more than the bridge it stands on has; more than that is refused. */
export function sviMtu({ bridge }: SwitchConfig, { mtu }: SviConfig): number {
  const most = bridge?.mtu ?? DEFAULT_MTU;
  return Math.min(mtu ?? most, most);
}

const NONE: ReadonlySet<string> = new Set();
/** Ports that are down whatever is plugged in: shut, LAGs of which every port is, and VLANs of such. */
export const downPorts = onceFor(({ ports }: SwitchConfig): ReadonlySet<string> => {
  if (!ports.some((p) => p.shut)) return NONE;
  const shut = new Set(ports.flatMap((p) => (p.shut ? [p.name] : [])));
  for (const { name, members } of ports) if (members?.every((m) => shut.has(m))) shut.add(name);
  for (const { name } of ports) if (vlanOfPort(name, (port) => shut.has(port))) shut.add(name);
  return shut;
});

/** No VRF has this name (ifupdown2 refuses it). */
const DEFAULT_VRF = 'default';

const NO_LAGS: ReadonlyMap<string, string> = new Map();
const routedLagsOf = ({ ports }: SwitchConfig): ReadonlyMap<string, string> =>
  ports.some((p) => p.members)
    ? new Map(ports.flatMap(({ name, members = [] }) => members.map((m) => [m, name] as const)))
    : NO_LAGS;

const NO_VLANS: ReadonlyMap<string, readonly string[]> = new Map();
function vlansOf({ ports }: SwitchConfig): ReadonlyMap<string, readonly string[]> {
  if (!ports.some((p) => p.name.includes('.'))) return NO_VLANS;
  const whole = new Set(ports.map((p) => p.name));
  const vlans = ports.flatMap(({ name }) => {
    const of = vlanOfPort(name, (port) => whole.has(port));
    return of ? [{ name, port: of.port }] : [];
  });
  return new Map([...groupBy(vlans, (v) => v.port)].map(([port, of]) => [port, of.map((v) => v.name)]));
}

export function viewInterfaces(config: SwitchConfig): InterfacesView {
  const portByAddress = new Map<string, string>();
  /** VRF → prefix length → network address → port. */
  const routed = new Map<string, Map<number, Map<number, string>>>();
  const ownAddresses = new Set<string>([...config.loopbacks, ...(config.ipv6Loopbacks ?? [])].map(hostPart));
  for (const port of config.ports)
    for (const address of [...port.addresses, ...(port.ipv6Addresses ?? [])]) {
      portByAddress.set(hostPart(address), port.name);
      ownAddresses.add(hostPart(address));
      const cidr = parseCidr(address);
      if (!cidr) continue;
      const vrf = port.vrf ?? DEFAULT_VRF;
      const ofVrf = routed.get(vrf) ?? new Map<number, Map<number, string>>();
      const sameLength = ofVrf.get(cidr.length) ?? new Map<number, string>();
      routed.set(vrf, ofVrf.set(cidr.length, sameLength.set(prefixOf(cidr).address, port.name)));
    }
  const down = downPorts(config);
  const longestFirst = new Map([...routed].map(([vrf, of]) => [vrf, [...of].sort(([a], [b]) => b - a)]));
  return {
    portByName: new Map(config.ports.map((p) => [p.name, down.has(p.name) && !p.shut ? { ...p, shut: true } : p])),
    vlansOfPort: vlansOf(config),
    portByAddress,
    portTowards: (address, vrf = DEFAULT_VRF) => {
      for (const [length, ports] of longestFirst.get(vrf) ?? []) {
        const port = ports.get(prefixOf({ address, length }).address);
        if (port !== undefined) return port;
      }
      return undefined;
    },
    ownAddresses,
    routedLagOf: routedLagsOf(config),
    lagOfPort: new Map(config.lags.flatMap((lag) => lag.members.map((m) => [m, lag] as const))),
    lagByKey: new Map(config.lags.map((lag) => [lagKey(lag), lag])),
    sviByVlan: new Map(config.svis.map((s) => [s.vlan, s])),
  };
}
