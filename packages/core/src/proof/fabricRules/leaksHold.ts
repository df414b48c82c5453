import { carriagesOf, gatewaysOf, type CarriedNetwork } from '../../config/carriage.ts';
import type { Finding } from '../../finding.ts';
import { leakKey, type FabricIntent, type Leak } from '../../intent/intent.ts';
import {
  formatAny,
  holdsAny,
  networkOfAny,
  parseAnyCidr,
  parseAnyPrefix,
  type AnyPrefix,
} from '../../numbers/prefix.ts';
import type { Values } from '../../pools/drawValues.ts';
import type { FabricRule } from '../rule.ts';

const overlaps = (a: AnyPrefix, b: AnyPrefix): boolean => holdsAny(a, b) || holdsAny(b, a);

/** Networks of each VRF, once each, with their subnets. */
function networksBy(intent: FabricIntent, values: Values): (vrf: string) => readonly CarriedNetwork[] {
  const all = new Set([...carriagesOf(intent, values, undefined).values()].flatMap((c) => c.networks));
  return (vrf) => [...all].filter((n) => n.vrf === vrf);
}
const subnetsOf = (n: CarriedNetwork): AnyPrefix[] => gatewaysOf(n).map((g) => networkOfAny(parseAnyCidr(g)!));

const apart = { id: 'leak-apart', severity: 'error' } as const;
export const leakApart: FabricRule = {
  ...apart,
  title: 'What a VRF has of another is nowhere in it already',
  source: 'of two networks with one address only the nearer is reached',
  scope: 'intent',
  judge: ({ intent, values }) => {
    if (intent.leaks.length === 0) return [];
    const networksOf = networksBy(intent, values);
    return intent.leaks.flatMap((leak): Finding[] => {
      const lets = leak.prefixes.map((p) => parseAnyPrefix(p)!);
      const leaked = networksOf(leak.from).flatMap((n) =>
        subnetsOf(n)
          .filter((s) => lets.length === 0 || lets.some((p) => holdsAny(p, s)))
          .map((subnet) => ({ n, subnet })),
      );
      for (const { n, subnet } of leaked) {
        const other = networksOf(leak.into).find((o) => subnetsOf(o).some((s) => overlaps(s, subnet)));
        if (other)
          return [
            finding(
              apart,
              leak,
              `${formatAny(subnet)} of ${n.name} (${leak.from}) overlaps ${other.name}, which ${leak.into} has itself.`,
              `Say which prefixes ${leak.into} has of ${leak.from}, without that one, or give one of the networks another subnet.`,
            ),
          ];
      }
      return [];
    });
  },
};

const answered = { id: 'leak-answered', severity: 'warning' } as const;
export const leakAnswered: FabricRule = {
  ...answered,
  title: 'Of two VRFs that have routes of one another each has some',
  source: 'what comes to a VRF that has no way back is not answered',
  scope: 'intent',
  judge: ({ intent: { leaks } }) =>
    leaks.flatMap((leak) =>
      leaks.some((l) => l.into === leak.from && l.from === leak.into)
        ? []
        : [
            finding(
              answered,
              leak,
              `${leak.into} has routes of ${leak.from}, and ${leak.from} has none of ${leak.into}: nothing there answers.`,
              `Let ${leak.from} have routes of ${leak.into} as well, or waive this where no answer is wanted.`,
            ),
          ],
    ),
};

const finding = (
  { id, severity }: Pick<FabricRule, 'id' | 'severity'>,
  leak: Leak,
  message: string,
  cure: string,
): Finding => ({ rule: id, severity, message, cure, subjects: [`leak:${leakKey(leak)}`] });
