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
