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
export function communityValue(text: string): number | null {
  const known = WELL_KNOWN.get(text);
  if (known !== undefined) return known;
  const halves = text.split(':');
  if (halves.length !== 2 || !halves.every((h) => HALF.test(h) && Number(h) <= 65535)) return null;
  return Number(halves[0]) * 65536 + Number(halves[1]);
}
export const isCommunity = (text: string): boolean => communityValue(text) !== null;

/** The one way a daemon writes it: its word where it has one, no zeros in front. */
export function communityText(value: number): string {
  return WORDS.get(value) ?? `${Math.floor(value / 65536)}:${value % 65536}`;
}
/** In the order in which a daemon keeps them. */
export const inCommunityOrder = (communities: readonly string[]): string[] =>
  [...communities].sort((a, b) => communityValue(a)! - communityValue(b)!);

const MOST_32 = 4294967295;
/** The three numbers of a large community as it is written, `64701:1:20` (RFC 8092); null = it is none. */
function largeParts(text: string): readonly number[] | null {
  const parts = text.split(':');
  return parts.length === 3 && parts.every((p) => HALF.test(p) && Number(p) <= MOST_32) ? parts.map(Number) : null;
}
export const isLargeCommunity = (text: string): boolean => largeParts(text) !== null;
/** The one way a daemon writes a large community: no zeros in front. */
export const largeCommunityText = (text: string): string => (largeParts(text) ?? []).join(':');
/** In the order in which a daemon keeps them. */
export const inLargeOrder = (communities: readonly string[]): string[] => {
  const parts = new Map(communities.map((c) => [c, largeParts(c) ?? []]));
  return [...communities].sort((a, b) => {
    const [x, y] = [parts.get(a)!, parts.get(b)!];
    const at = x.findIndex((n, i) => n !== y[i]);
    return at < 0 ? 0 : x[at]! - y[at]!;
  });
};
