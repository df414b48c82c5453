import { gatewayOf } from '../config/seatInputs.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { seatIdsOfRack } from '../intent/seatIds.ts';
import { rackPatternOf } from '../intent/intent.ts';
import type { Layout } from '../layout/links.ts';
import type { HostPort } from '../network/networkModel.ts';
import { formatIpv4, hostPart, parsePrefix, prefixSize } from '../numbers/ipv4.ts';
import { subnetKey } from '../pools/demands.ts';
import type { Values } from '../pools/drawValues.ts';

/** Made-up hosts start at the tenth address of a subnet, or the third in a small one. */
const FIRST_HOST = 10;
/** Hosts of a network that is bridged only speak to one another in a subnet we know nothing of. */
const BRIDGED_SUBNET = '203.0.113.0/24';

/** One made-up host for every server port in use: untagged network, or else the first tagged one. */
export function hostsOf(intent: FabricIntent, layout: Layout, values: Values): HostPort[] {
  /** By subnet: all networks that are bridged only share one, so that no two of their hosts have one address. */
  const next = new Map<string, number>();
  const hosts: HostPort[] = [];
  for (const p of intent.ports) {
    const rack = intent.racks.find((r) => r.number === p.rack);
    const pattern = rack && rackPatternOf(intent, rack);
    const network = intent.networks.find((n) => n.name === (p.untagged ?? p.tagged[0]));
    const subnet = network && (network.vrf === '' ? BRIDGED_SUBNET : values.get(subnetKey(network.name)));
    const prefix = subnet === undefined ? null : parsePrefix(subnet);
    if (!rack || !pattern || !network || !prefix || subnet === undefined) continue;
    const seats = seatIdsOfRack(rack, pattern.kind);
    const seat = layout.seatById.get(p.side === 'b' ? seats[1]! : seats[0]!);
    const index = next.get(subnet) ?? (prefix.length <= 27 ? FIRST_HOST : 2);
    if (!seat || index >= prefixSize(prefix.length) - 1) continue;
    next.set(subnet, index + 1);
    hosts.push({
      host: p.server,
      switch: seat.host,
      port: p.port,
      vlan: network.vlan,
      ip: formatIpv4(prefix.address + index),
      length: prefix.length,
      gateway: network.vrf === '' ? '' : hostPart(gatewayOf(subnet)),
    });
  }
  return hosts;
}
