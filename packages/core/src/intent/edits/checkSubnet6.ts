import { problem, type Finding } from '../../finding.ts';
import {
  formatNetwork,
  LEAST_IPV6_MTU,
  networkOfPrefix,
  overlap,
  parseInterfaceAddress,
  parseNetwork,
  refusedNetwork,
} from '../../numbers/address.ts';
import { hasFamily, SUBNET6_LENGTH, type FabricIntent, type Network } from '../intent.ts';

/** What speaks against the IPv6 of a network; paths begin at `at`. */
export function checkSubnet6(intent: FabricIntent, network: Network, at: string): Finding[] {
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
  if (subnet6 !== undefined)
    out.push(...formOf(subnet6, `${at}/subnet6`), ...clashOf(intent, network, `${at}/subnet6`));
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

function formOf(text: string, at: string): Finding[] {
  const said = parseInterfaceAddress(text);
  if (said?.family !== 6)
    return [
      problem(
        'subnet-form',
        at,
        `“${text}” is not a prefix of IPv6.`,
        'Write it as fd00:32:0:10::/64, or leave it empty to have one drawn.',
      ),
    ];
  const network = networkOfPrefix({ ...said, length: SUBNET6_LENGTH });
  if (said.length !== SUBNET6_LENGTH)
    return [
      problem(
        'subnet-size',
        at,
        `${text} is no /${SUBNET6_LENGTH}: hosts find an address of their own in no other (RFC 4862).`,
        `Use ${formatNetwork(network)}.`,
      ),
    ];
  if (network.address !== said.address)
    return [problem('subnet-form', at, `${text} has host bits set.`, `The subnet is ${formatNetwork(network)}.`)];
  const refused = refusedNetwork(said);
  return refused
    ? [
        problem(
          'subnet-refused',
          at,
          `${text} lies in ${refused}.`,
          'Use prefixes of fd00::/8 (RFC 4193), or your own.',
        ),
      ]
    : [];
}

/** Only subnets that were chosen are seen here; of those that are drawn, a rule of the proof. */
function clashOf(intent: FabricIntent, network: Network, at: string): Finding[] {
  const mine = parseNetwork(network.subnet6!);
  if (!mine) return [];
  return intent.networks.flatMap((other) => {
    const theirs = other.subnet6 === undefined ? null : parseNetwork(other.subnet6);
    if (other.name === network.name || other.vrf !== network.vrf || !theirs || !overlap(mine, theirs)) return [];
    return [
      problem(
        'subnet-overlap',
        at,
        `${network.subnet6} is ${other.name}'s, in the same VRF.`,
        'Choose another, or leave the field empty to have one drawn.',
      ),
    ];
  });
}
