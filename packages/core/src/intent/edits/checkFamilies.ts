import { problem, type Finding } from '../../finding.ts';
import { LEAST_IPV6_MTU } from '../../numbers/address.ts';
import { hasFamily, type FabricIntent, type Network } from '../intent.ts';

/** What speaks against the IPv6 of a network; paths begin at `at`. */
export function checkFamilies(intent: FabricIntent, network: Network, at: string): Finding[] {
  const { name, vrf, families, subnet6, mtu } = network;
  if (vrf === '' && (families !== undefined || subnet6 !== undefined))
    return [
      problem(
        'bridged-only',
        `${at}/${families === undefined ? 'subnet6' : 'families'}`,
        `${name} is bridged only: hosts in it have what they please, and no switch has an address in it.`,
        'Say nothing of families, or choose a VRF.',
      ),
    ];
  if (subnet6 !== undefined && !hasFamily(network, 6))
    return [
      problem(
        'family-asked',
        `${at}/subnet6`,
        `${name} has IPv4 alone, and a subnet of IPv6.`,
        'Give it both families, or leave that subnet empty.',
      ),
    ];
  const out: Finding[] = [];
  if (hasFamily(network, 6) && (mtu ?? intent.settings.tenantMtu) < LEAST_IPV6_MTU)
    out.push(
      problem(
        'mtu-ipv6',
        `${at}/mtu`,
        `${name} has IPv6, which takes packets of ${LEAST_IPV6_MTU} bytes, and an MTU of ${mtu ?? intent.settings.tenantMtu}.`,
        `Give it an MTU of ${LEAST_IPV6_MTU} or more.`,
      ),
    );
  return out;
}

/** The MTU of networks that say none of their own is enough for those that have IPv6. */
export function checkTenantMtu(intent: FabricIntent, tenantMtu: number): Finding[] {
  const short = intent.networks.filter((n) => n.mtu === undefined && hasFamily(n, 6));
  if (tenantMtu >= LEAST_IPV6_MTU || short.length === 0) return [];
  const more = short.length > 1 ? ` and ${short.length - 1} more` : '';
  return [
    problem(
      'mtu-ipv6',
      '/settings/tenantMtu',
      `${short[0]!.name}${more} has IPv6, which takes packets of ${LEAST_IPV6_MTU} bytes, and says no MTU of its own.`,
      `Choose ${LEAST_IPV6_MTU} or more, or give those networks an MTU first.`,
    ),
  ];
}
