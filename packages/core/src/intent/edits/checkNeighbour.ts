import { problem, type Finding } from '../../finding.ts';
import { layOut } from '../../layout/layout.ts';
import { refusedAsn } from '../../numbers/asn.ts';
import { formatPrefix, overlaps, parseCidr, parseIpv4, prefixOf, refusedPrefix, span } from '../../numbers/ipv4.ts';
import { isRouted } from '../../patterns/patterns.ts';
import { outsideKey, type FabricIntent, type OutsideNeighbour } from '../intent.ts';

const at = (field: string, rule: string, message: string, cure: string): Finding =>
  problem(rule, `/neighbour/${field}`, message, cure);

/** Our address and its address: both of one subnet, neither its network nor its broadcast, and nobody else’s. */
function checkAddresses(intent: FabricIntent, n: OutsideNeighbour): Finding[] {
  const own = parseCidr(n.address)!;
  const far = parseIpv4(n.far)!;
  const subnet = prefixOf(own);
  const [first, last] = span(subnet);
  const text = formatPrefix(subnet);
  const refused = refusedPrefix(subnet);
  if (refused !== null)
    return [at('address', 'link-subnet', `${n.address} lies in ${refused}.`, 'Use an address that hosts may have.')];
  const reserved = (address: number): boolean => own.length < 31 && (address === first || address === last);
  if (own.length > 31)
    return [
      at('address', 'link-subnet', `${n.address} has no room for a second end.`, 'Give the link a /31 or a /30.'),
    ];
  if (reserved(own.address))
    return [
      at(
        'address',
        'link-subnet',
        `${n.address} is no address of a host in ${text}.`,
        'Choose one between its first and last.',
      ),
    ];
  if (far < first || far > last || reserved(far))
    return [
      at('far', 'link-subnet', `${n.far} is not in the subnet of ${n.address}.`, `Choose an address of ${text}.`),
    ];
  if (far === own.address)
    return [at('far', 'link-subnet', `${n.far} is our own address.`, `Choose the other address of ${text}.`)];
  for (const o of intent.neighbours) {
    if (outsideKey(o) === outsideKey(n) || o.vrf !== n.vrf || !overlaps(prefixOf(parseCidr(o.address)!), subnet))
      continue;
    const where = `rack ${o.rack} ${o.port} (${o.side})`;
    return [
      at(
        'address',
        'link-subnet',
        `${text} overlaps the link of ${where} in ${n.vrf}.`,
        'Give each link a subnet of its own.',
      ),
    ];
  }
  const net = intent.networks.find(
    (w) => w.vrf === n.vrf && w.subnet !== undefined && overlaps(parseCidr(w.subnet)!, subnet),
  );
  return net
    ? [
        at(
          'address',
          'link-subnet',
          `${text} overlaps network ${net.name} (${net.subnet!}) in ${n.vrf}.`,
          'Give the link a subnet of its own.',
        ),
      ]
    : [];
}

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
  const refused = refusedAsn(n.asn);
  if (refused !== null)
    out.push(at('asn', 'asn-usable', `AS ${n.asn} is ${refused}.`, 'Write the AS number the router has.'));
  if (n.password !== undefined && !intent.secrets.some((s) => s.name === n.password))
    out.push(
      at(
        'password',
        'secret-known',
        `${intent.name} has no secret ${n.password}.`,
        intent.secrets.length > 0
          ? `It has ${intent.secrets.map((s) => s.name).join(', ')}.`
          : 'Take one up under Text › Snippets first.',
      ),
    );
  out.push(...checkAddresses(intent, n));
  if (!link) return out;
  const twin = intent.neighbours.find(
    (o) =>
      outsideKey(o) !== outsideKey(n) &&
      o.asn !== n.asn &&
      intent.outside.some((l) => outsideKey(l) === outsideKey(o) && l.system === link.system),
  );
  if (twin)
    out.push(
      at(
        'asn',
        'asn-usable',
        `${link.system} has AS ${twin.asn} on rack ${twin.rack} ${twin.port}.`,
        'A router has one AS number: give it the same.',
      ),
    );
  if (layOut(intent).seats.some((s) => s.host === link.system))
    out.push(at('port', 'outside-known', `${link.system} is a switch of this fabric.`, 'Join something that is not.'));
  return out;
}
