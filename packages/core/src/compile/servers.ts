import { gatewayOf } from '../config/carriage.ts';
import { type FabricIntent, type Network, type ServerPort } from '../intent/intent.ts';
import type { Layout } from '../layout/links.ts';
import type { Seat } from '../layout/seats.ts';
import { serverSeats } from '../layout/serverSeats.ts';
import type { HostPort, Leg } from '../network/networkModel.ts';
import { bitsOf, formatAddress, parseNetwork } from '../numbers/address.ts';
import { hostPart, type Cidr } from '../numbers/ipv4.ts';
import type { Values } from '../pools/drawValues.ts';
import { subnetsOfFamily } from '../pools/subnets.ts';
import { speakingServers } from './speaking.ts';

/** Made-up hosts start at the tenth address of a subnet, or the third in a small one. */
const FIRST_HOST = 10;
/** Hosts of a network that is bridged only speak to one another in a subnet we know nothing of. */
const BRIDGED_SUBNET = '203.0.113.0/24';

/** A network as servers find it. */
interface PluggedNetwork {
  readonly vrf: string;
  readonly vlan: number;
  /**
   * Its subnets, of each family that it has and that is drawn, the first one first; a network that is bridged only has one we
   * know nothing of.
   */
  readonly families: readonly (readonly Cidr[])[];
}
/** A server port with the switches it is on, and its networks. */
interface Plugged {
  readonly port: ServerPort;
  readonly seats: readonly Seat[];
  /** The untagged one first. */
  readonly networks: readonly PluggedNetwork[];
}

function networkIn(network: Network, values: Values): PluggedNetwork {
  const { vrf, vlan } = network;
  const routed = ([4, 6] as const).map((f) => subnetsOfFamily(network, values, f)).filter((f) => f.length > 0);
  return { vrf, vlan, families: vrf === '' ? [[BRIDGED_SUBNET]] : routed };
}

function* pluggedIn(intent: FabricIntent, layout: Layout, values: Values): Generator<Plugged> {
  const networks = new Map(intent.networks.map((n) => [n.name, networkIn(n, values)]));
  for (const port of intent.ports) {
    yield {
      port,
      seats: serverSeats(layout, port),
      networks: [port.untagged, ...port.tagged].flatMap((n) => (n === undefined ? [] : (networks.get(n) ?? []))),
    };
  }
}

/** The address of a host in a subnet, or null where that has no room for it. */
function addressIn(subnet: Cidr, index: number): { readonly ip: string; readonly length: number } | null {
  const prefix = parseNetwork(subnet);
  if (!prefix || BigInt(index) >= (1n << BigInt(bitsOf(prefix.family) - prefix.length)) - 1n) return null;
  const ip = formatAddress({ family: prefix.family, value: prefix.address + BigInt(index) });
  return { ip, length: prefix.length };
}
const firstHost = (subnet: Cidr): number =>
  Number(subnet.split('/')[1]) <= 27 || subnet.includes(':') ? FIRST_HOST : 2;

/**
 * One made-up host for every server port in use, with an address of each family of its network: of the untagged one, or
 * else the first that is tagged. Where a network has several subnets of a family, they have them in turn.
 */
export function hostsOf(intent: FabricIntent, layout: Layout, values: Values): HostPort[] {
  /** By subnet: all networks that are bridged only share one, so that no two of their hosts have one address. */
  const next = new Map<string, number>();
  const turns = new Map<PluggedNetwork, number>();
  const hosts: HostPort[] = [];
  const speak = speakingServers(intent, values);
  for (const { port, seats, networks } of pluggedIn(intent, layout, values)) {
    const [network] = networks;
    const [seat] = seats;
    // Who speaks BGP stands by itself, with the address it has.
    if (!network || !seat || speak.has(port.server)) continue;
    const turn = turns.get(network) ?? 0;
    turns.set(network, turn + 1);
    for (const subnets of network.families) {
      const subnet = subnets[turn % subnets.length]!;
      const index = next.get(subnet) ?? firstHost(subnet);
      const address = addressIn(subnet, index);
      if (!address) continue;
      next.set(subnet, index + 1);
      const gateway = network.vrf === '' ? '' : hostPart(gatewayOf(subnet));
      hosts.push({ host: port.server, switch: seat.host, port: port.port, vlan: network.vlan, ...address, gateway });
    }
  }
  return hosts;
}

/** What every server is connected for, on each switch it is on, by each family; networks whose subnet is not drawn yet are left out. */
export function legsOf(intent: FabricIntent, layout: Layout, values: Values): Leg[] {
  const legs: Leg[] = [];
  for (const { port, seats, networks } of pluggedIn(intent, layout, values)) {
    // Shut on purpose: it is not to reach anything.
    if (port.shut) continue;
    for (const seat of seats)
      for (const { vrf, vlan, families } of networks)
        for (const subnet of families.flat()) {
          const routed = vrf === '' ? { gateway: '' } : { gateway: hostPart(gatewayOf(subnet)), vrf };
          legs.push({ host: port.server, switch: seat.host, port: port.port, vlan, ...routed });
        }
  }
  return legs;
}
