import { groupBy } from '../../numbers/order.ts';
import { carriagesOf, gatewaysOf } from '../../config/carriage.ts';
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

/** A subnet of a network of a VRF. */
interface Placed {
  readonly vrf: string;
  readonly network: string;
  readonly subnet: AnyPrefix;
}
/** The subnets of each VRF. */
function placedBy(intent: FabricIntent, values: Values): ReadonlyMap<string, readonly Placed[]> {
  const all = new Set([...carriagesOf(intent, values, undefined).values()].flatMap((c) => c.networks));
  const placed = [...all].flatMap((n) =>
    gatewaysOf(n).map((g): Placed => ({ vrf: n.vrf, network: n.name, subnet: networkOfAny(parseAnyCidr(g)!) })),
  );
  return groupBy(placed, (p) => p.vrf);
}

const apart = { id: 'leak-apart', severity: 'error' } as const;
export const leakApart: FabricRule = {
  ...apart,
  title: 'What a VRF has of another is nowhere else in it',
  source: 'of two networks with one address only one is reached',
  scope: 'intent',
  judge: ({ intent, values }) => {
    if (intent.leaks.length === 0) return [];
    const placed = placedBy(intent, values);
    const leaked = ({ from, prefixes }: Leak): readonly Placed[] => {
      const lets = prefixes.map((p) => parseAnyPrefix(p)!);
      const all = placed.get(from) ?? [];
      return lets.length === 0 ? all : all.filter(({ subnet }) => lets.some((p) => holdsAny(p, subnet)));
    };
    return intent.leaks.flatMap((leak, i): Finding[] => {
      // Of two leaks into one the later is said.
      const before = intent.leaks.slice(0, i).filter((l) => l.into === leak.into);
      const there = [...(placed.get(leak.into) ?? []), ...before.flatMap(leaked)];
      for (const mine of leaked(leak)) {
        const other = there.find((o) => overlaps(o.subnet, mine.subnet));
        if (other)
          return [
            finding(
              apart,
              leak,
              `${formatAny(mine.subnet)} of ${mine.network} (${mine.vrf}) overlaps ${other.network}, which ${leak.into} has ${other.vrf === leak.into ? 'itself' : `of ${other.vrf}`}.`,
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
