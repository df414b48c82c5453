import { isMac, macOf, type Mac } from '../numbers/mac.ts';
import { formatAddress, parseAddress } from '../numbers/address.ts';

/** A host as a switch has heard it on a port of its own. */
export interface HeardHost {
  readonly mac: Mac;
  /** The device it was heard on, as the switch calls it: `p12`, `bond3`. */
  readonly port: string;
  readonly vlan: number | null;
  /** Those it has used towards the gateway, of both families. */
  readonly addresses: readonly string[];
}

/** A line of `bridge -j fdb show`, and one of `ip -j neigh show` (iproute2). */
export interface BridgeEntry {
  readonly mac?: string;
  readonly ifname?: string;
  readonly vlan?: number;
  readonly dst?: string;
  readonly flags?: readonly string[];
  readonly state?: string;
}
export interface NeighbourEntry {
  readonly dst?: string;
  readonly dev?: string;
  readonly lladdr?: string;
  readonly state?: readonly string[];
}

/** What EVPN has told, and what the switch is itself, was not heard on a port. */
const isHeard = ({ dst, flags = [], state }: BridgeEntry): boolean =>
  dst === undefined && state !== 'permanent' && !flags.includes('extern_learn') && !flags.includes('self');

/** VLANs of interfaces end their names: `vlan210`. */
const vlanOfDevice = (dev: string): number | null => Number(/(?<!\d)(\d{1,4})$/.exec(dev)?.[1] ?? NaN) || null;

/** Hosts that a switch has heard on its own ports, by what its bridge and its neighbour tables say. */
export function heardHosts(bridge: readonly BridgeEntry[], neighbours: readonly NeighbourEntry[]): HeardHost[] {
  const addresses = new Map<string, string[]>();
  for (const { dst, dev, lladdr, state = [] } of neighbours) {
    const address = dst === undefined ? null : parseAddress(dst);
    if (!address || dev === undefined || lladdr === undefined || state.includes('FAILED')) continue;
    const key = `${lladdr.toLowerCase()} ${vlanOfDevice(dev) ?? ''}`;
    const known = addresses.get(key);
    if (known) known.push(formatAddress(address));
    else addresses.set(key, [formatAddress(address)]);
  }
  return bridge.filter(isHeard).flatMap(({ mac: said = '', ifname, vlan = null }): HeardHost[] => {
    const mac = said.toLowerCase();
    if (!isMac(mac) || ifname === undefined) return [];
    return [{ mac, port: ifname, vlan, addresses: [...new Set(addresses.get(`${mac} ${vlan ?? ''}`))] }];
  });
}

/** Who is looked for on switches: a MAC address, an address, or else a server by its name. */
export type SoughtHost =
  | { readonly is: 'mac'; readonly mac: Mac }
  | { readonly is: 'address'; readonly address: string }
  | { readonly is: 'server'; readonly server: string };
export function soughtHost(text: string): SoughtHost {
  const mac = macOf(text);
  if (mac !== null) return { is: 'mac', mac };
  const address = parseAddress(text.trim());
  return address
    ? { is: 'address', address: formatAddress(address) }
    : { is: 'server', server: text.trim().toLowerCase() };
}
