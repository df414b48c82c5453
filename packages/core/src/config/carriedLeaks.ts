import type { Leak } from '../intent/intent.ts';
import { bitsOf } from '../numbers/address.ts';
import { groupBy, naturally } from '../numbers/order.ts';
import { familyOfText } from '../numbers/prefix.ts';
import type { PrefixListEntry } from './policyParts.ts';
import { exactly, within } from './prefixEntries.ts';

/** Routes of another VRF that one has as well: of which, and which. */
export interface CarriedLeak {
  readonly from: string;
  readonly entries: readonly Omit<PrefixListEntry, 'seq'>[];
}

/**
 * What each VRF has of others, in the order of their names.
 * @param subnetsOf of the networks of a VRF
 */
export const leaksBy = (
  leaks: readonly Leak[],
  subnetsOf: (vrf: string) => readonly string[],
): ReadonlyMap<string, readonly CarriedLeak[]> =>
  new Map(
    [...groupBy(leaks, (l) => l.into)].map(([into, own]) => [
      into,
      own
        .map(({ from, prefixes }) => ({
          from,
          entries:
            prefixes.length === 0
              ? subnetsOf(from).map(exactly)
              : prefixes.map((p) => within(bitsOf(familyOfText(p)) - 1)(p)),
        }))
        .sort((a, b) => naturally(a.from, b.from)),
    ]),
  );
