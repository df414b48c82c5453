import { bitsOf, type IpFamily } from '../numbers/address.ts';
import { DEFAULT_ROUTE } from '../numbers/prefix.ts';
import type { PrefixList, PrefixListEntry } from './policyParts.ts';

/** A prefix, and but for a default route all within it down to a length. */
export const within =
  (le: number) =>
  (prefix: string): Omit<PrefixListEntry, 'seq'> => ({
    permit: true,
    prefix,
    ...(prefix.endsWith('/0') || Number(prefix.split('/')[1]) >= le ? {} : { le }),
  });
export const exactly = (prefix: string): Omit<PrefixListEntry, 'seq'> => ({ permit: true, prefix });
/** A list that ends with a refusal of all else: one without entries would let everything through. */
export const listOf = (
  name: string,
  entries: readonly Omit<PrefixListEntry, 'seq'>[],
  family: IpFamily,
): PrefixList => ({
  name,
  entries: [...entries, { permit: false, prefix: DEFAULT_ROUTE[family], le: bitsOf(family) }].map((e, i) => ({
    seq: (i + 1) * 10,
    ...e,
  })),
});
