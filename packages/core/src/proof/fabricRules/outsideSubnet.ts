import type { Finding } from '../../finding.ts';
import { neighbourKey } from '../../intent/neighbourPlace.ts';
import { formatNetwork, networkOfPrefix, overlap, parseInterfaceAddress, parseNetwork } from '../../numbers/address.ts';
import { subnetsOfFamily } from '../../pools/subnets.ts';
import type { FabricRule, JudgedFabric } from '../rule.ts';

/** Links to routers outside whose subnet is also that of a network of the same tenant, drawn or chosen. */
function linksOverNetworks({ intent, values }: JudgedFabric): Finding[] {
  return intent.neighbours.flatMap((n) => {
    const link = networkOfPrefix(parseInterfaceAddress(n.address)!);
    return intent.networks.flatMap((w): Finding[] => {
      const subnets = w.vrf === n.vrf ? subnetsOfFamily(w, values, link.family) : [];
      const subnet = subnets.map((s) => parseNetwork(s)!).find((s) => overlap(s, link));
      if (!subnet) return [];
      return [
        {
          rule: 'outside-subnet',
          severity: 'error',
          message: `The link to ${n.far} (${formatNetwork(link)}) overlaps network ${w.name} (${formatNetwork(subnet)}) in VRF ${n.vrf}.`,
          cure: 'Give the link a subnet of its own.',
          subjects: [`neighbour:${neighbourKey(n)}`, `network:${w.name}`],
        },
      ];
    });
  });
}

export const outsideSubnet: FabricRule = {
  id: 'outside-subnet',
  title: 'Links to routers outside share no subnet with a network of their tenant',
  severity: 'error',
  source: 'of two subnets that overlap in a VRF one is not reached',
  scope: 'intent',
  judge: linksOverNetworks,
};
