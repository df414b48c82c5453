import { gatewayOf } from '../config/carriage.ts';
import type { FabricIntent, ServerPort } from '../intent/intent.ts';
import type { Layout } from '../layout/links.ts';
import type { Seat } from '../layout/seats.ts';
import { serverSeats } from '../layout/serverSeats.ts';
import type { HostPort, Leg } from '../network/networkModel.ts';
import { formatIpv4, hostPart, parsePrefix, prefixSize, type Cidr } from '../numbers/ipv4.ts';
import { subnetKey } from '../pools/demands.ts';
import type { Values } from '../pools/drawValues.ts';

/** Made-up hosts start at the tenth address of a subnet, or the third in a small one. */
const FIRST_HOST = 10;
/** Hosts of a network that is bridged only speak to one another in a subnet we know nothing of. */
const BRIDGED_SUBNET = '203.0.113.0/24';

/** A server port with the switches it is on, and its networks, each with its subnet where that is drawn. */
interface Plugged {
  readonly port: ServerPort;
  readonly seats: readonly Seat[];
  /** The untagged one first. */
  readonly networks: readonly { readonly vrf: string; readonly vlan: number; readonly subnet: Cidr | undefined }[];
}

function* pluggedIn(intent: FabricIntent, layout: Layout, values: Values): Generator<Plugged> {
  const networks = new Map(
    intent.networks.map(({ name, vrf, vlan }) => [name, { vrf, vlan, subnet: values.get(subnetKey(name)) }]),
  );
  for (const port of intent.ports) {
    yield {
      port,
      seats: serverSeats(layout, port),
      networks: [port.untagged, ...port.tagged].flatMap((n) => (n === undefined ? [] : (networks.get(n) ?? []))),
    };
  }
}

/** One made-up host for every server port in use: untagged network, or else the first tagged one. */
export function hostsOf(intent: FabricIntent, layout: Layout, values: Values): HostPort[] {
  /** By subnet: all networks that are bridged only share one, so that no two of their hosts have one address. */
  const next = new Map<string, number>();
  const hosts: HostPort[] = [];
  for (const { port, seats, networks } of pluggedIn(intent, layout, values)) {
    const [network] = networks;
    const [seat] = seats;
    const subnet = network && (network.vrf === '' ? BRIDGED_SUBNET : network.subnet);
    const prefix = subnet === undefined ? null : parsePrefix(subnet);
    if (!network || !prefix || subnet === undefined) continue;
    const index = next.get(subnet) ?? (prefix.length <= 27 ? FIRST_HOST : 2);
    if (!seat || index >= prefixSize(prefix.length) - 1) continue;
    next.set(subnet, index + 1);
    hosts.push({
      host: port.server,
      switch: seat.host,
      port: port.port,
      vlan: network.vlan,
      ip: formatIpv4(prefix.address + index),
      length: prefix.length,
      gateway: network.vrf === '' ? '' : hostPart(gatewayOf(subnet)),
    });
  }
  return hosts;
}

/** What every server is connected for, on each switch it is on; networks whose subnet is not drawn yet are left out. */
export function legsOf(intent: FabricIntent, layout: Layout, values: Values): Leg[] {
  const legs: Leg[] = [];
  for (const { port, seats, networks } of pluggedIn(intent, layout, values)) {
    // Shut on purpose: it is not to reach anything.
    if (port.shut) continue;
    for (const seat of seats)
      for (const { vrf, vlan, subnet } of networks) {
        if (vrf !== '' && subnet === undefined) continue;
        const routed = vrf === '' ? { gateway: '' } : { gateway: hostPart(gatewayOf(subnet!)), vrf };
        legs.push({ host: port.server, switch: seat.host, port: port.port, vlan, ...routed });
      }
  }
  return legs;
}
