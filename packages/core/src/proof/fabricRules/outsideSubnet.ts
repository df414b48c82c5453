import type { Finding } from '../../finding.ts';
import { linkSubnet, neighbourKey } from '../../intent/neighbourPlace.ts';
import { formatNetwork, holdsAddress, overlap, parseNetwork, type IpPrefix } from '../../numbers/address.ts';
import { subnetsOfFamily } from '../../pools/subnets.ts';
import type { FabricRule, JudgedFabric } from '../rule.ts';

/** Links to routers outside whose subnet is also that of a network of the same tenant, drawn or chosen. */
function linksOverNetworks({ intent, values }: JudgedFabric): Finding[] {
  return intent.neighbours.flatMap((n) => {
    const link = linkSubnet(n);
    return intent.networks.flatMap((w): Finding[] => {
      const subnets = w.vrf === n.vrf ? subnetsOfFamily(w, values, link.family).map((s) => parseNetwork(s)!) : [];
      const overlapping = (what: string, cure: string, wanted: (subnet: IpPrefix) => boolean): Finding[] => {
        const subnet = subnets.find(wanted);
        if (!subnet) return [];
        return [
          {
            rule: 'outside-subnet',
            severity: 'error',
            message: `${what} network ${w.name} (${formatNetwork(subnet)}) in VRF ${n.vrf}.`,
            cure,
            subjects: [`neighbour:${neighbourKey(n)}`, `network:${w.name}`],
          },
        ];
      };
      const { loopback } = n;
      return [
        ...overlapping(
          `The link to ${n.far} (${formatNetwork(link)}) overlaps`,
          'Give the link a subnet of its own.',
          (s) => overlap(s, link),
        ),
        ...(loopback === undefined
          ? []
          : overlapping(
              `${loopback}, which ${n.far} speaks from, is in`,
              'Let it speak from an address outside of the fabric, or give the network another subnet.',
              (s) => holdsAddress(s, loopback),
            )),
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
