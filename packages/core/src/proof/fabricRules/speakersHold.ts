import type { Finding } from '../../finding.ts';
import { whyNotPlugged } from '../../intent/edits/checkSpeakers.ts';
import { speakersKey, type NetworkSpeakers } from '../../intent/intent.ts';
import { formatNetwork, holds, overlap, parseNetwork } from '../../numbers/address.ts';
import { subnetsOfFamily } from '../../pools/subnets.ts';
import type { FabricRule, JudgedFabric } from '../rule.ts';

const about = (s: NetworkSpeakers): Pick<Finding, 'subjects'> => ({
  subjects: [`speakers:${speakersKey(s)}`, `network:${s.network}`],
});

/** Servers that cannot call from where it is said, or that tell what networks of their tenant have: with drawn subnets. */
function rangesOf({ intent, values }: JudgedFabric): Finding[] {
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
const strayServers = ({ intent }: JudgedFabric): Finding[] =>
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

export const speakersRange: FabricRule = {
  id: 'speakers-range',
  title: 'BGP servers call from subnets of their network, and tell nothing of another',
  severity: 'error',
  source: 'what servers tell would draw the traffic of the network that has it',
  scope: 'intent',
  judge: rangesOf,
};
export const speakerKnown: FabricRule = {
  id: 'speaker-known',
  title: 'BGP servers that are named are connected',
  severity: 'warning',
  source: 'a server that is not on a port has no session',
  scope: 'intent',
  judge: strayServers,
};
