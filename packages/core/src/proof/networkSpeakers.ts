import type { CompiledFabric } from '../compile/compileFabric.ts';
import type { Finding } from '../finding.ts';
import { whyNotPlugged } from '../intent/edits/checkSpeakers.ts';
import { speakersKey, type FabricIntent, type NetworkSpeakers } from '../intent/intent.ts';
import { formatNetwork, holds, overlap, parseNetwork } from '../numbers/address.ts';
import type { Values } from '../pools/drawValues.ts';
import { subnetsOfFamily } from '../pools/subnets.ts';
import { ownersOfAsn } from './outsideNeighbours.ts';

const about = (s: NetworkSpeakers): Pick<Finding, 'subjects'> => ({
  subjects: [`speakers:${speakersKey(s)}`, `network:${s.network}`],
});

/** Servers that cannot call from where it is said, or that tell what networks of their tenant have: with drawn subnets. */
function rangesOfSpeakers(intent: FabricIntent, values: Values): Finding[] {
  return intent.speakers.flatMap((s): Finding[] => {
    const network = intent.networks.find((n) => n.name === s.network);
    const range = parseNetwork(s.from);
    if (!network || !range) return [];
    const out: Finding[] = [];
    const subnets = subnetsOfFamily(network, values, range.family);
    // What is not drawn yet is said elsewhere.
    if (subnets.length > 0 && !subnets.some((x) => holds(parseNetwork(x)!, range)))
      out.push({
        rule: 'speakers-range',
        severity: 'error',
        message: `Nobody in network ${network.name} (${subnets.join(', ')}) calls from ${s.from}.`,
        cure: `Let servers of ${subnets.join(' or ')} call, or of a part of it.`,
        ...about(s),
      });
    for (const told of s.takes.map((p) => parseNetwork(p)!)) {
      const hit = intent.networks.find(
        (n) =>
          n.vrf === network.vrf &&
          told.length > 0 &&
          subnetsOfFamily(n, values, told.family).some((x) => overlap(parseNetwork(x)!, told)),
      );
      if (hit)
        out.push({
          rule: 'speakers-range',
          severity: 'error',
          message: `${formatNetwork(told)}, which servers of ${network.name} may tell, overlaps network ${hit.name}: its traffic would go to them.`,
          cure: 'Take prefixes that no network of the VRF has.',
          ...about(s),
        });
    }
    return out;
  });
}

/** Servers that are named and are not, or no more, where they can be known. */
const strayServers = (intent: FabricIntent): Finding[] =>
  intent.speakers.flatMap((s) =>
    (s.known ?? []).flatMap(({ server }): Finding[] => {
      const why = whyNotPlugged(intent, s.network, server);
      return why === null
        ? []
        : [
            {
              rule: 'speaker-known',
              severity: 'warning',
              message: `${why} It is named as a BGP server there, and left out of the proof.`,
              cure: 'Take its name out, or connect it as it was.',
              ...about(s),
            },
          ];
    }),
  );

/** Servers with an AS number that switches of the fabric have: these drop what they tell (RFC 4271 §9.1.2). */
function numbersOfSpeakers(intent: FabricIntent, compiled: CompiledFabric): Finding[] {
  const ownerOf = ownersOfAsn(compiled);
  return intent.speakers.flatMap((s): Finding[] => {
    const whose = ownerOf(s.asn);
    return whose === null
      ? []
      : [
          {
            rule: 'outside-as',
            severity: 'error',
            message: `AS ${s.asn} of servers of ${s.network} is ${whose}: what they tell is dropped there.`,
            cure: 'Give the servers a number that no switch of the fabric has.',
            ...about(s),
          },
        ];
  });
}

/** What is wrong with servers that speak BGP to the gateway of their network, by what is drawn and compiled. */
export const speakersHold = (intent: FabricIntent, values: Values, compiled: CompiledFabric): Finding[] => [
  ...rangesOfSpeakers(intent, values),
  ...strayServers(intent),
  ...numbersOfSpeakers(intent, compiled),
];
