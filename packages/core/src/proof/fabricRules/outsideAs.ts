import type { CompiledFabric } from '../../compile/compileFabric.ts';
import type { Finding } from '../../finding.ts';
import { neighbourKey } from '../../intent/neighbourPlace.ts';
import { speakersKey } from '../../intent/intent.ts';
import { groupBy } from '../../numbers/order.ts';
import type { FabricRule, JudgedFabric } from '../rule.ts';

/** Whose an AS number is of the switches of a fabric, in words; null = nobody’s. */
function ownersOfAsn({ switches }: CompiledFabric): (asn: number | undefined) => string | null {
  const hostsOf = groupBy(switches, (s) => s.config.bgp?.asn);
  return (asn) => {
    const [first, ...more] = (asn === undefined ? undefined : hostsOf.get(asn)) ?? [];
    return first ? `that of ${first.seat.host}${more.length > 0 ? ` and ${more.length} more` : ''}` : null;
  };
}

/** Routers outside with an AS number that switches of the fabric have: these drop what it tells (RFC 4271 §9.1.2), or take it for one of theirs. */
function numbersOfRouters({ intent, compiled }: JudgedFabric): Finding[] {
  const ownerOf = ownersOfAsn(compiled);
  return intent.neighbours.flatMap((n) => {
    const clash = (asn: number | undefined, message: (whose: string) => string, cure: string): Finding[] => {
      const whose = ownerOf(asn);
      if (whose === null) return [];
      const subjects = [`neighbour:${neighbourKey(n)}`] as const;
      return [{ rule: 'outside-as', severity: 'error', message: message(whose), cure, subjects }];
    };
    return [
      ...clash(
        n.localAs,
        (whose) => `AS ${n.localAs}, which ${n.far} sees, is ${whose}: what is heard of it is dropped there.`,
        'Choose a number that no switch of the fabric has.',
      ),
      ...clash(
        n.asn,
        (whose) =>
          `AS ${n.asn} of ${n.far} is ${whose}: what it tells is dropped there, or taken for the fabric’s own.`,
        'Write the AS number the router has; if it is that, draw those of the fabric from another pool.',
      ),
    ];
  });
}

/** Servers with an AS number that switches of the fabric have: these drop what they tell (RFC 4271 §9.1.2). */
function numbersOfSpeakers({ intent, compiled }: JudgedFabric): Finding[] {
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
            subjects: [`speakers:${speakersKey(s)}`, `network:${s.network}`],
          },
        ];
  });
}

export const outsideAs: FabricRule = {
  id: 'outside-as',
  title: 'Nobody outside has an AS number of the fabric',
  severity: 'error',
  source: 'RFC 4271 §9.1.2',
  scope: 'layout',
  judge: (fabric) => [...numbersOfRouters(fabric), ...numbersOfSpeakers(fabric)],
};
