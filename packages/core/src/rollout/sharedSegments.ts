import { lagKey } from '../config/interfaces.ts';
import { esiOf } from '../config/pairing.ts';
import type { ReadSwitch } from '../network/readSwitch.ts';
import { groupBy } from '../numbers/order.ts';

/** LAGs of servers that are shared by several switches: by switch and LAG, what makes them one. */
function sharedLags(switches: readonly ReadSwitch[]): Map<string, { readonly host: string; readonly words: string }> {
  const ends = switches.flatMap(({ host, config }) =>
    config.lags.flatMap((lag) =>
      lag.segment ? { host, key: `${host} ${lagKey(lag)}`, words: `${esiOf(lag.segment)} ${lag.actorSystem}` } : [],
    ),
  );
  const shared = [...groupBy(ends, (e) => e.words).values()].filter(
    (same) => new Set(same.map((e) => e.host)).size > 1,
  );
  return new Map(shared.flat().map((e) => [e.key, e]));
}

/** Two switches that share a LAG of servers before a change and after it, by other words: in between it is two LAGs. */
export interface SegmentAnew {
  readonly a: string;
  readonly b: string;
}

/**
 * LAGs that are one before and after, but not while only one of their switches has its new text: servers would use one of
 * the two, and what is flooded would come twice (RFC 7432 §8.3).
 */
export function segmentsAnew(before: readonly ReadSwitch[], after: readonly ReadSwitch[]): SegmentAnew[] {
  const [was, will] = [sharedLags(before), sharedLags(after)];
  const kept = [...was].filter(([key, { words }]) => (will.get(key)?.words ?? words) !== words);
  const pairs = groupBy(kept, ([, { words }]) => words);
  return [...pairs.values()].flatMap((ends) =>
    ends.slice(1).flatMap(([key, { host }]) => {
      const [first] = ends;
      return first && will.get(first[0])!.words === will.get(key)!.words ? { a: first[1].host, b: host } : [];
    }),
  );
}
