import type { Finding } from '../finding.ts';
import { outsideKey, type FabricIntent } from '../intent/intent.ts';
import { formatPrefix, overlaps, parseCidr, prefixOf } from '../numbers/ipv4.ts';
import { subnetKey } from '../pools/demands.ts';
import type { Values } from '../pools/drawValues.ts';

/** Links to routers outside whose subnet is also that of a network of the same tenant, drawn or chosen. */
export function linksOverNetworks(intent: FabricIntent, values: Values): Finding[] {
  return intent.neighbours.flatMap((n) => {
    const link = prefixOf(parseCidr(n.address)!);
    return intent.networks.flatMap((w): Finding[] => {
      const subnet = w.vrf === n.vrf ? parseCidr(values.get(subnetKey(w.name)) ?? '') : null;
      if (subnet === null || !overlaps(subnet, link)) return [];
      return [
        {
          rule: 'subnet-overlap',
          severity: 'error',
          message: `The link to ${n.far} (${formatPrefix(link)}) overlaps network ${w.name} (${formatPrefix(subnet)}) in VRF ${n.vrf}.`,
          cure: 'Give the link a subnet of its own.',
          subjects: [`neighbour:${outsideKey(n)}`, `network:${w.name}`],
        },
      ];
    });
  });
}
