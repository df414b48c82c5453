import { problem, type Finding } from '../../finding.ts';
import { layOut } from '../../layout/layout.ts';
import {
  bitsOf,
  formatAddress,
  formatNetwork,
  holds,
  holdsAddress,
  networkOfPrefix,
  overlap,
  parseAddress,
  parseInterfaceAddress,
  parseNetwork,
  refusedNetwork,
  type IpPrefix,
} from '../../numbers/address.ts';
import { refusedAsn } from '../../numbers/asn.ts';
import { isRouted } from '../../patterns/patterns.ts';
import { chosenSubnets, outsideKey, type FabricIntent, type OutsideNeighbour } from '../intent.ts';
import { familyWith, linkSubnet, neighbourKey, neighbourPlace, placeWords } from '../neighbourPlace.ts';
import { checkBehind } from './checkBehind.ts';
import { checkSession, checkTold } from './checkSession.ts';

const at = (field: string, rule: string, message: string, cure: string): Finding =>
  problem(rule, `/neighbour/${field}`, message, cure);

/** Of IPv4 the first and the last of a subnet, of IPv6 the first (RFC 4291 §2.6.1), are nobody’s, but on links of two. */
function isNobodys(subnet: IpPrefix, address: bigint): boolean {
  const apart = bitsOf(subnet.family) - subnet.length;
  if (apart < 2) return false;
  const last = subnet.address + (1n << BigInt(apart)) - 1n;
  return address === subnet.address || (subnet.family === 4 && address === last);
}

/** Our address and its address: of one family and subnet, as they are written, neither nobody’s nor somebody else’s. */
function checkAddresses(intent: FabricIntent, n: OutsideNeighbour): Finding[] {
  const own = parseInterfaceAddress(n.address)!;
  const far = parseAddress(n.far)!;
  const no = (field: string, message: string, cure: string): Finding[] => [at(field, 'link-subnet', message, cure)];
  const subnet = networkOfPrefix(own);
  const text = formatNetwork(subnet);
  if (formatNetwork(own) !== n.address)
    return no('address', `${n.address} is written otherwise.`, `Write ${formatNetwork(own)}.`);
  if (formatAddress(far) !== n.far) return no('far', `${n.far} is written otherwise.`, `Write ${formatAddress(far)}.`);
  if (far.family !== own.family)
    return no('far', `${n.far} is of another family than ${n.address}.`, 'Speak a session for each family.');
  const refused = refusedNetwork(subnet);
  if (refused !== null) return no('address', `${n.address} lies in ${refused}.`, 'Use an address that hosts may have.');
  if (own.length === bitsOf(own.family))
    return no(
      'address',
      `${n.address} has no room for a second end.`,
      own.family === 4 ? 'Give the link a /31 or a /30.' : 'Give the link a /127.',
    );
  if (isNobodys(subnet, own.address))
    return no('address', `${n.address} is no address of a host in ${text}.`, 'Choose one between its first and last.');
  if (!holds(subnet, { ...far, address: far.value, length: bitsOf(far.family) }) || isNobodys(subnet, far.value))
    return no('far', `${n.far} is not in the subnet of ${n.address}.`, `Choose an address of ${text}.`);
  if (far.value === own.address)
    return no('far', `${n.far} is our own address.`, `Choose the other address of ${text}.`);
  const other = intent.neighbours.find(
    (o) => neighbourKey(o) !== neighbourKey(n) && o.vrf === n.vrf && overlap(linkSubnet(o), subnet),
  );
  if (other)
    return no(
      'address',
      `${text} overlaps the link of ${placeWords(neighbourPlace(other))} in ${n.vrf}.`,
      'Give each link a subnet of its own.',
    );
  const behind = intent.neighbours.find(
    (o) => o.loopback !== undefined && o.vrf === n.vrf && holdsAddress(subnet, o.loopback),
  );
  if (behind && neighbourKey(behind) !== neighbourKey(n))
    return no(
      'address',
      `${text} holds ${behind.loopback}, which is spoken to over ${placeWords(neighbourPlace(behind))} in ${n.vrf}.`,
      'Give the link another subnet.',
    );
  for (const net of intent.networks) {
    const chosen = net.vrf === n.vrf ? chosenSubnets(net).find((s) => overlap(parseNetwork(s)!, subnet)) : undefined;
    if (chosen !== undefined)
      return no(
        'address',
        `${text} overlaps network ${net.name} (${chosen}) in ${n.vrf}.`,
        'Give the link a subnet of its own.',
      );
  }
  return [];
}

/** What is told for all within it is a prefix as it is written, with something within, and not all there is. */
const checkAggregates = ({ aggregates = [] }: OutsideNeighbour): Finding[] =>
  aggregates.flatMap((prefix, i) => {
    const { family, length } = parseNetwork(prefix) ?? { family: 4, length: 0 };
    const no = (message: string, cure: string): Finding => at(`aggregates/${i}`, 'aggregate-form', message, cure);
    if (length === 0) return no(`${prefix} stands for everything.`, 'Tell it a default route in its place.');
    if (length >= bitsOf(family) - 1) return no(`Nothing lies within ${prefix}.`, 'Write a shorter prefix.');
    return aggregates.indexOf(prefix) < i ? no(`${prefix} stands there twice.`, 'Leave one.') : [];
  });

/** Why a neighbour outside cannot be as it is said; paths are into an edit that puts it. */
export function checkNeighbour(intent: FabricIntent, n: OutsideNeighbour): Finding[] {
  const link = intent.outside.find((o) => outsideKey(o) === outsideKey(n));
  if (!isRouted(intent))
    return [
      at('vrf', 'fabric-routed', 'Nothing is routed in a switched fabric.', 'Speak BGP where its networks are routed.'),
    ];
  const out: Finding[] = [];
  if (!link)
    out.push(
      at(
        'port',
        'outside-known',
        `Nothing outside is joined to ${n.port} of rack ${n.rack} (${n.side}).`,
        'Join the router to that port first.',
      ),
    );
  if (!intent.vrfs.some((v) => v.name === n.vrf))
    out.push(at('vrf', 'vrf-known', `There is no VRF ${n.vrf}.`, 'Choose a VRF of this fabric, or add it first.'));
  out.push(...checkSession(intent, '/neighbour', n));
  out.push(...checkAggregates(n));
  const shown = n.localAs === undefined ? null : refusedAsn(n.localAs);
  if (shown !== null)
    out.push(at('localAs', 'asn-usable', `AS ${n.localAs} is ${shown}.`, 'Write a number that is yours.'));
  else if (n.localAs === n.asn)
    out.push(
      at('localAs', 'asn-usable', `${n.far} has AS ${n.asn} itself.`, 'Show it another number, or leave it empty.'),
    );
  const beside = intent.neighbours.find(
    (o) => outsideKey(o) === outsideKey(n) && o.vlan === n.vlan && neighbourKey(o) !== neighbourKey(n),
  );
  if (beside && beside.vrf !== n.vrf)
    out.push(
      at(
        'vrf',
        'link-tenant',
        `${placeWords(neighbourPlace(n))} is ${beside.vrf}’s: it speaks to ${beside.far} there.`,
        `Choose ${beside.vrf}, or a VLAN of the link that is ${n.vrf}’s own.`,
      ),
    );
  out.push(
    ...checkAddresses(intent, n),
    ...checkBehind(intent, n, link?.system),
    ...checkTold('/neighbour', n, ['takes', 'tells', 'aggregates'], familyWith(n), `the session with ${n.far}`),
  );
  if (!link) return out;
  /** Other sessions with the same router. */
  const more = intent.neighbours.filter(
    (o) =>
      neighbourKey(o) !== neighbourKey(n) &&
      intent.outside.some((l) => outsideKey(l) === outsideKey(o) && l.system === link.system),
  );
  const alike = more.find((o) => o.vrf !== n.vrf && overlap(linkSubnet(o), linkSubnet(n)));
  // It is taken to have one table of routes, in which a subnet is on one link.
  if (alike)
    out.push(
      at(
        'address',
        'link-subnet',
        `${link.system} has ${formatNetwork(linkSubnet(alike))} already, on ${placeWords(neighbourPlace(alike))} in ${alike.vrf}.`,
        'Give each link of a router a subnet of its own.',
      ),
    );
  const twin = more.find((o) => o.asn !== n.asn);
  if (twin)
    out.push(
      at(
        'asn',
        'asn-usable',
        `${link.system} has AS ${twin.asn} on ${placeWords(neighbourPlace(twin))}.`,
        'A router has one AS number: give it the same.',
      ),
    );
  if (layOut(intent).seats.some((s) => s.host === link.system))
    out.push(at('port', 'outside-known', `${link.system} is a switch of this fabric.`, 'Join something that is not.'));
  return out;
}
