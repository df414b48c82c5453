import { problem, type Finding } from '../../finding.ts';
import {
  formatNetwork,
  holds,
  networkOfPrefix,
  overlap,
  parseInterfaceAddress,
  parseNetwork,
  refusedNetwork,
  type IpFamily,
} from '../../numbers/address.ts';
import { chosenSubnets, hasFamily, SUBNET6_LENGTH, type FabricIntent, type Network } from '../intent.ts';

/** The longest prefix of IPv4 that has room for a gateway and hosts. */
const LONGEST_SUBNET = 29;
const FORM = {
  4: ['is not a prefix.', 'Write the network address and length, such as 10.32.14.0/24.'],
  6: ['is not a prefix of IPv6.', 'Write it as fd00:32:0:10::/64, or leave it empty to have one drawn.'],
} as const;
const OWN_USE = {
  4: 'Use a private prefix (RFC 1918).',
  6: 'Use prefixes of fd00::/8 (RFC 4193), or your own.',
} as const;

/** Is a text a subnet that a network may have? Else why not. */
function formOf(text: string, family: IpFamily, at: string): Finding[] {
  const [notOne, form] = FORM[family];
  const said = parseInterfaceAddress(text);
  if (said?.family !== family) return [problem('subnet-form', at, `“${text}” ${notOne}`, form)];
  const own = networkOfPrefix(family === 6 ? { ...said, length: SUBNET6_LENGTH } : said);
  if (family === 6 && said.length !== SUBNET6_LENGTH)
    return [
      problem(
        'subnet-size',
        at,
        `${text} is no /${SUBNET6_LENGTH}: hosts find an address of their own in no other (RFC 4862).`,
        `Use ${formatNetwork(own)}.`,
      ),
    ];
  if (own.address !== said.address)
    return [
      problem(
        'subnet-form',
        at,
        `${text} has host bits set.`,
        family === 6 ? `The subnet is ${formatNetwork(own)}.` : form,
      ),
    ];
  if (family === 4 && said.length > LONGEST_SUBNET)
    return [problem('subnet-size', at, `${text} has no room for a gateway and hosts.`, 'Use a /29 or larger.')];
  const refused = refusedNetwork(said);
  return refused ? [problem('subnet-refused', at, `${text} lies in ${refused}.`, OWN_USE[family])] : [];
}

/** Networks of the same VRF that have some of these addresses already. Only what was chosen is seen; drawn ones are kept apart. */
function clashOf(intent: FabricIntent, network: Network, text: string, at: string): Finding[] {
  const mine = parseNetwork(text)!;
  return intent.networks.flatMap((other) => {
    if (other.name === network.name || other.vrf !== network.vrf) return [];
    return chosenSubnets(other).flatMap((subnet) => {
      const theirs = parseNetwork(subnet);
      if (!theirs || !overlap(theirs, mine)) return [];
      const how =
        subnet === text
          ? 'is'
          : holds(theirs, mine)
            ? `lies inside ${subnet}, which is`
            : `overlaps ${subnet}, which is`;
      return problem(
        'subnet-overlap',
        at,
        `${text} ${how} ${other.name}'s, in the same VRF.`,
        'Choose a subnet clear of it, or leave the field empty to have one drawn.',
      );
    });
  });
}

function furtherSubnet(network: Network, text: string, i: number, at: string): Finding[] {
  const family = text.includes(':') ? 6 : 4;
  const form = formOf(text, family, at);
  if (form.length > 0) return form;
  if (!hasFamily(network, family))
    return [
      problem(
        'family-asked',
        at,
        `${network.name} has no IPv${family}, and ${text} beside its subnet.`,
        'Give it both families, or leave that subnet out.',
      ),
    ];
  const mine = parseNetwork(text)!;
  const before = [network.subnet, network.subnet6, ...network.furtherSubnets!.slice(0, i)];
  const twice = before.find((s) => s !== undefined && overlap(parseNetwork(s) ?? mine, mine));
  return twice === undefined
    ? []
    : [
        problem(
          'subnet-overlap',
          at,
          `${text} overlaps ${twice}, which ${network.name} has already.`,
          'Take one of them out.',
        ),
      ];
}

/** What speaks against the subnets that were chosen for a network with a VRF; paths begin at `at`. */
export function checkSubnets(intent: FabricIntent, network: Network, at: string): Finding[] {
  const { subnet, subnet6, furtherSubnets = [] } = network;
  const first = (text: string | undefined, family: IpFamily, field: string): Finding[] => {
    if (text === undefined || !hasFamily(network, family)) return [];
    const form = formOf(text, family, `${at}/${field}`);
    return form.length > 0 ? form : clashOf(intent, network, text, `${at}/${field}`);
  };
  return [
    ...first(subnet, 4, 'subnet'),
    ...first(subnet6, 6, 'subnet6'),
    ...furtherSubnets.flatMap((text, i) => {
      const spot = `${at}/furtherSubnets/${i}`;
      const own = furtherSubnet(network, text, i, spot);
      return own.length > 0 ? own : clashOf(intent, network, text, spot);
    }),
  ];
}
