import { problem, type Finding } from '../../finding.ts';
import {
  aloneIn,
  bitsOf,
  formatAddress,
  holdsAddress,
  overlap,
  parseAddress,
  parseNetwork,
  refusedNetwork,
} from '../../numbers/address.ts';
import { chosenSubnets, outsideKey, type FabricIntent, type OutsideNeighbour, type TenantRoute } from '../intent.ts';
import { familyWith, linkSubnet, neighbourKey, neighbourPlace, placeWords } from '../neighbourPlace.ts';

/** An address behind the link: of its family, of one router and one session, and in nobody’s subnet. */
export function checkBehind(intent: FabricIntent, n: OutsideNeighbour, system: string | undefined): Finding[] {
  const no = (message: string, cure: string, field = 'loopback'): Finding[] => [
    problem('neighbour-behind', `/neighbour/${field}`, message, cure),
  ];
  if (n.loopback === undefined)
    return n.hops === undefined
      ? []
      : no(`${n.far} is on the link, next door.`, 'Leave the hops empty, or write the address it speaks from.', 'hops');
  const others = intent.neighbours.filter((o) => neighbourKey(o) !== neighbourKey(n));
  const address = parseAddress(n.loopback)!;
  const own = aloneIn(n.loopback)!;
  if (formatAddress(address) !== n.loopback)
    return no(`${n.loopback} is written otherwise.`, `Write ${formatAddress(address)}.`);
  if (own.family !== familyWith(n))
    return no(`${n.loopback} is of another family than ${n.address}.`, 'Speak a session for each family.');
  const refused = refusedNetwork(own);
  if (refused !== null) return no(`${n.loopback} lies in ${refused}.`, 'Use an address that hosts may have.');
  if (n.ttlSecurity === true)
    return no(
      `TTL security takes only what came over the link itself, and ${n.loopback} is behind it.`,
      'Leave it off, or speak to the address on the link.',
      'ttlSecurity',
    );
  const within = others.find((o) => o.vrf === n.vrf && overlap(linkSubnet(o), own));
  if (overlap(linkSubnet(n), own) || within)
    return no(
      `${n.loopback} is in the subnet of ${within ? `the link of ${placeWords(neighbourPlace(within))}` : 'the link'}.`,
      'Write an address behind the link, or leave it empty to speak to the one on it.',
    );
  const said = intent.routes.find((r) => leadsAround(r, n));
  if (said)
    return no(
      `A static route of ${n.vrf} on rack ${n.rack} leads to it another way${said.via === undefined ? ': to nothing' : `: by ${said.via}`}.`,
      'Remove that route first: the leaf gets one by itself.',
    );
  const net = intent.networks.find(
    (w) => w.vrf === n.vrf && chosenSubnets(w).some((s) => overlap(parseNetwork(s)!, own)),
  );
  if (net) return no(`${n.loopback} is in network ${net.name} of ${n.vrf}.`, 'Write an address outside of the fabric.');
  const twin = others.find(
    (o) => o.loopback === n.loopback && o.rack === n.rack && o.side === n.side && o.vrf === n.vrf,
  );
  if (twin)
    return no(
      `The same switch speaks to it in ${n.vrf} already, over ${placeWords(neighbourPlace(twin))}.`,
      'A session has one way: speak to the address on the link here.',
    );
  const strange = others.find((o) => o.loopback === n.loopback && systemOf(intent, o) !== system);
  return strange
    ? no(`${systemOf(intent, strange)} has ${n.loopback}.`, 'Give each router an address of its own.')
    : [];
}
/** Does a static route lead to the address of a neighbour behind its link, from its leaf and another way? */
export function leadsAround({ vrf, prefix, racks, via }: TenantRoute, n: OutsideNeighbour): boolean {
  if (n.loopback === undefined || n.vrf !== vrf || via === n.far || !racks.includes(n.rack)) return false;
  const to = parseNetwork(prefix);
  return to !== null && to.length === bitsOf(to.family) && holdsAddress(to, n.loopback);
}
const systemOf = (intent: FabricIntent, n: OutsideNeighbour): string | undefined =>
  intent.outside.find((o) => outsideKey(o) === outsideKey(n))?.system;
