import { parseIpv4 } from './ipv4.ts';

/** Well-known communities that FRR has a word for (RFC 1997, 3765, 7611, 7999, 8326, 9494), with their values. */
const WELL_KNOWN: ReadonlyMap<string, number> = new Map([
  ['internet', 0],
  ['graceful-shutdown', 0xffff0000],
  ['accept-own', 0xffff0001],
  ['llgr-stale', 0xffff0006],
  ['no-llgr', 0xffff0007],
  ['blackhole', 0xffff029a],
  ['no-export', 0xffffff01],
  ['no-advertise', 0xffffff02],
  ['local-AS', 0xffffff03],
  ['no-peer', 0xffffff04],
]);
const WORDS: ReadonlyMap<number, string> = new Map([...WELL_KNOWN].map(([word, value]) => [value, word]));
const HALF = /^\d{1,10}$/;

/** The 32 bits of a standard community as it is written: two halves of 16 bits, or a well-known word; null = it is none. */
function communityValue(text: string): number | null {
  const known = WELL_KNOWN.get(text);
  if (known !== undefined) return known;
  const halves = text.split(':');
  if (halves.length !== 2 || !halves.every((h) => HALF.test(h) && Number(h) <= 65535)) return null;
  return Number(halves[0]) * 65536 + Number(halves[1]);
}
/** The one way a daemon writes it: its word where it has one, no zeros in front. */
const communityText = (value: number): string => WORDS.get(value) ?? `${Math.floor(value / 65536)}:${value % 65536}`;

const MOST_16 = 65535;
const MOST_32 = 4294967295;
/** The three numbers of a large community as it is written, `64701:1:20` (RFC 8092); null = it is none. */
function largeParts(text: string): readonly number[] | null {
  const parts = text.split(':');
  return parts.length === 3 && parts.every((p) => HALF.test(p) && Number(p) <= MOST_32) ? parts.map(Number) : null;
}

/** What an extended community says, in the order of their codes: a route target, or where a route is from (RFC 4360 §4, §5). */
const EXTENDED_WORDS = ['rt', 'soo'] as const;
/**
 * The numbers of an extended community, `rt:64700:10` or `soo:192.0.2.1:7`, in the order in which it is encoded: of a short AS
 * number, of an address, of a long AS number (RFC 4360 §3.1, §3.2, RFC 5668); null = it is none.
 */
function extendedParts(text: string): readonly number[] | null {
  const [word = '', who = '', number = '', ...rest] = text.split(':');
  const kind = (EXTENDED_WORDS as readonly string[]).indexOf(word);
  if (kind < 0 || rest.length > 0 || !HALF.test(number)) return null;
  const n = Number(number);
  const address = parseIpv4(who);
  if (address !== null) return n <= MOST_16 ? [1, kind, address, n] : null;
  if (!HALF.test(who) || Number(who) > MOST_32) return null;
  const as = Number(who);
  return as <= MOST_16 ? (n <= MOST_32 ? [0, kind, as, n] : null) : n <= MOST_16 ? [2, kind, as, n] : null;
}

/** Communities of a sort stand in lists of their own, and are asked for and given by lines of their own. */
export const COMMUNITY_SORTS = ['standard', 'large', 'extended'] as const;
export type CommunitySort = (typeof COMMUNITY_SORTS)[number];

/** What each sort is by its numbers, and how a daemon writes one that is of it. */
const SORTS: Readonly<
  Record<
    CommunitySort,
    { readonly parts: (text: string) => readonly number[] | null; readonly text: (said: string) => string }
  >
> = {
  standard: {
    parts: (text) => {
      const value = communityValue(text);
      return value === null ? null : [value];
    },
    text: (said) => communityText(communityValue(said)!),
  },
  large: { parts: largeParts, text: (said) => largeParts(said)!.join(':') },
  extended: {
    parts: extendedParts,
    text: (said) =>
      said
        .split(':')
        .map((p) => (HALF.test(p) ? String(Number(p)) : p))
        .join(':'),
  },
};
export const isOfSort = (sort: CommunitySort, text: string): boolean => SORTS[sort].parts(text) !== null;
/** Which sort a text is of; null = it is no community. */
export const communitySort = (text: string): CommunitySort | null =>
  COMMUNITY_SORTS.find((sort) => isOfSort(sort, text)) ?? null;
/** The one way a daemon writes a community: its word where it has one, no zeros in front; null = it is none. */
export function canonicalCommunity(text: string): string | null {
  const sort = communitySort(text);
  return sort === null ? null : SORTS[sort].text(text);
}
/** Communities of a sort in the order in which a daemon keeps them. */
export function inCommunityOrder(sort: CommunitySort, communities: readonly string[]): string[] {
  const parts = new Map(communities.map((c) => [c, SORTS[sort].parts(c) ?? []]));
  return [...communities].sort((a, b) => {
    const [x, y] = [parts.get(a)!, parts.get(b)!];
    const at = x.findIndex((n, i) => n !== y[i]);
    return at < 0 ? 0 : x[at]! - y[at]!;
  });
}
