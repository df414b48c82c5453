import { problem, type Finding } from '../../finding.ts';
import {
  formatAddress,
  formatNetwork,
  holds,
  overlap,
  parseAddress,
  parseNetwork,
  bitsOf,
  type IpPrefix,
} from '../../numbers/address.ts';
import { isRouted } from '../../patterns/patterns.ts';
import {
  chosenSubnets,
  hasFamily,
  speakersKey,
  type FabricIntent,
  type NetworkSpeakers,
  rackPatternAt,
} from '../intent.ts';
import { checkSession, checkTold } from './checkSession.ts';

const at = (field: string, rule: string, message: string, cure: string): Finding =>
  problem(rule, `/speakers/${field}`, message, cure);

/** The one address of a host as a prefix. */
function hostOf(text: string): IpPrefix {
  const { family, value } = parseAddress(text)!;
  return { family, address: value, length: bitsOf(family) };
}

/** Is the server on one port of one switch, with the network untagged? Why not, or null. */
export function whyNotPlugged(intent: FabricIntent, network: string, server: string): string | null {
  const ports = intent.ports.filter((p) => p.server === server && [p.untagged, ...p.tagged].includes(network));
  const [port] = ports;
  if (!port) return `${server} is on no port of network ${network}.`;
  if (ports.length > 1) return `${server} is on ${ports.length} ports of network ${network}.`;
  if (port.untagged !== network) return `${server} has network ${network} with a tag.`;
  const isPair = rackPatternAt(intent, port.rack)?.kind !== 'single';
  return isPair && port.side === 'both'
    ? `${server} is on both leaves of rack ${port.rack}: which of them it speaks to, its LAG decides.`
    : null;
}

function checkKnown(intent: FabricIntent, s: NetworkSpeakers, range: IpPrefix): Finding[] {
  const seen = new Set<string>();
  return (s.known ?? []).flatMap(({ server, address }, i): Finding[] => {
    const no = (field: string, message: string, cure: string): Finding[] => [
      at(`known/${i}/${field}`, 'speaker-known', message, cure),
    ];
    const why = whyNotPlugged(intent, s.network, server);
    if (why !== null)
      return no(
        'server',
        why,
        'Name servers that have the network on one port, without a tag; others speak all the same.',
      );
    const host = hostOf(address);
    if (formatAddress({ family: host.family, value: host.address }) !== address)
      return no('address', `${address} is written otherwise.`, 'Write it in its short form.');
    if (!holds(range, host)) return no('address', `${address} is not in ${s.from}.`, `Write an address of ${s.from}.`);
    if (seen.has(server) || seen.has(address))
      return no(
        'server',
        `${seen.has(server) ? server : address} is named twice.`,
        'Name each once, with its own address.',
      );
    const elsewhere = intent.speakers.find(
      (o) => (o.network !== s.network || o.asn !== s.asn) && o.known?.some((k) => k.server === server),
    );
    if (elsewhere && speakersKey(elsewhere) !== speakersKey(s))
      return no(
        'server',
        `${server} is named for ${elsewhere.network}, with AS ${elsewhere.asn}.`,
        'A server is one router: name it for one network, with one AS number.',
      );
    if (intent.outside.some((o) => o.system === server))
      return no('server', `${server} is the name of a system outside.`, 'Leave one of the two out.');
    seen.add(server).add(address);
    return [];
  });
}

/** Why servers of a network cannot speak as it is said; paths are into an edit that puts them. */
export function checkSpeakers(intent: FabricIntent, s: NetworkSpeakers): Finding[] {
  const network = intent.networks.find((n) => n.name === s.network);
  if (!isRouted(intent))
    return [at('network', 'fabric-routed', 'Nothing is routed in a switched fabric.', 'Route its networks first.')];
  if (!network)
    return [at('network', 'network-known', `There is no network ${s.network}.`, 'Choose a network of this fabric.')];
  if (network.vrf === '')
    return [
      at(
        'network',
        'network-routed',
        `Network ${s.network} is bridged only: it has no gateway.`,
        'Give it a VRF first.',
      ),
    ];
  const out = checkSession(intent, '/speakers', s);
  const range = parseNetwork(s.from);
  if (!range || formatNetwork(range) !== s.from) {
    const meant = range && formatNetwork(range);
    out.push(
      at(
        'from',
        'range-form',
        `${s.from} is written otherwise.`,
        meant ? `Write ${meant}.` : 'Write it without bits beyond its length.',
      ),
    );
    return out;
  }
  if (!hasFamily(network, range.family))
    return [
      ...out,
      at('from', 'range-form', `Network ${s.network} has no IPv${range.family}.`, 'Choose a range it has.'),
    ];
  // What is drawn is held against it where it is known: in the proof.
  const chosen = chosenSubnets(network)
    .map((c) => parseNetwork(c)!)
    .filter((c) => c.family === range.family);
  const isDrawn = (range.family === 4 ? network.subnet : network.subnet6) === undefined;
  if (!isDrawn && !chosen.some((c) => holds(c, range)))
    out.push(
      at(
        'from',
        'range-within',
        `${s.from} is in no subnet of ${s.network}.`,
        `Choose a range of ${chosen.map(formatNetwork).join(' or ')}.`,
      ),
    );
  const other = intent.speakers.find(
    (o) =>
      speakersKey(o) !== speakersKey(s) &&
      intent.networks.find((n) => n.name === o.network)?.vrf === network.vrf &&
      overlap(parseNetwork(o.from)!, range),
  );
  if (other)
    out.push(
      at(
        'from',
        'range-within',
        `${s.from} overlaps ${other.from} of ${other.network}.`,
        'Give each range its own servers.',
      ),
    );
  if (s.takes.length === 0)
    out.push(at('takes', 'told-said', 'Nothing is taken from them.', 'Write what they may tell: 10.99.0.0/24.'));
  out.push(...checkTold('/speakers', s, ['takes', 'tells'], range.family));
  // A host route within a subnet would draw its servers' traffic to itself.
  for (const prefix of s.takes) {
    const told = parseNetwork(prefix);
    if (!told) continue;
    const hit = intent.networks.find(
      (n) => n.vrf === network.vrf && chosenSubnets(n).some((c) => told.length > 0 && overlap(parseNetwork(c)!, told)),
    );
    if (hit)
      out.push(
        at(
          'takes',
          'told-apart',
          `${prefix} overlaps network ${hit.name}.`,
          'Take prefixes that no network of the VRF has.',
        ),
      );
  }
  return [...out, ...checkKnown(intent, s, range)];
}
