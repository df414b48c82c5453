import { macOf } from '../numbers/mac.ts';
import { naturally } from '../numbers/order.ts';
import { formatAny, holdsAny, hostPrefix, networkOfAny, parseAnyPrefix, type AnyPrefix } from '../numbers/prefix.ts';

/** What somebody looks for, as it is compared. */
export interface Sought {
  /** In small letters, with one blank between words. */
  readonly whole: string;
  readonly words: readonly string[];
  /** Where it is an address or a prefix: what lies around it is found too. */
  readonly prefix: AnyPrefix | null;
}
export function soughtOf(text: string): Sought {
  const words = text
    .toLowerCase()
    .split(/\s+/)
    .filter((w) => w !== '');
  // A row of twelve digits may be any number; as a MAC address it is written with marks.
  const whole = (/[:.-]/.test(text) ? macOf(text) : null) ?? words.join(' ');
  return { whole, words, prefix: hostPrefix(whole) ?? (whole.includes('/') ? parseAnyPrefix(whole) : null) };
}

/** What is compared of an object. */
export interface Fitted {
  /** Of which it is; empty = of none. */
  readonly fabric: string;
  readonly word: string;
  readonly name: string;
  readonly says: readonly string[];
}
/** How well an object fits, the least best; and what of it does, in its own words. */
export interface Fit {
  readonly rank: number;
  readonly why: string;
}

/** Ranks, best first. A subnet around an address stands between what says it and what only begins so. */
const RANKS = { name: 0, says: 1, around: 2, begins: 3, within: 4, saysWithin: 5, words: 6 } as const;
const MOST_WHY = 3;

/** Does an object fit what is sought? null = no. */
export function fitOf(of: Fitted, { whole, words, prefix }: Sought): Fit | null {
  if (whole === '') return null;
  const name = of.name.toLowerCase();
  const called = `${of.word.toLowerCase()} ${name}`;
  const usual = of.says.slice(0, MOST_WHY).join(', ');
  if (name === whole || called === whole) return { rank: RANKS.name, why: usual };
  const saying = of.says.find((s) => {
    const text = s.toLowerCase();
    return text === whole || text.endsWith(` ${whole}`);
  });
  if (saying !== undefined) return { rank: RANKS.says, why: saying };
  const around = prefix === null ? undefined : aroundIn(of.says, prefix);
  if (around !== undefined) return { rank: RANKS.around + 1 / (2 + around.length), why: around.said };
  if (name.startsWith(whole) || called.startsWith(whole)) return { rank: RANKS.begins, why: usual };
  if (name.includes(whole)) return { rank: RANKS.within, why: usual };
  const within = of.says.find((s) => s.toLowerCase().includes(whole));
  if (within !== undefined) return { rank: RANKS.saysWithin, why: within };
  const all = [of.fabric, called, ...of.says].join('\n').toLowerCase();
  if (words.length < 2 || !words.every((w) => all.includes(w))) return null;
  return { rank: RANKS.words, why: of.says.find((s) => words.some((w) => s.toLowerCase().includes(w))) ?? usual };
}

/** The narrowest subnet that an object says, and that a prefix lies in. */
function aroundIn(
  says: readonly string[],
  prefix: AnyPrefix,
): { readonly said: string; readonly length: number } | undefined {
  let best: { said: string; length: number } | undefined;
  for (const said of says)
    for (const word of said.split(/[\s,]+/)) {
      const subnet = word.includes('/') ? parseAnyPrefix(word) : null;
      if (subnet && subnet.length > (best?.length ?? 0) && holdsAny(subnet, prefix))
        best = { said, length: subnet.length };
    }
  return best;
}

/** The best of what fits, best first; of equals those of one fabric before others, then by name. */
export function bestOf<T extends Fitted>(
  all: Iterable<T>,
  sought: Sought,
  { most, near = '' }: { readonly most: number; readonly near?: string },
): (T & Fit)[] {
  const fitting: (T & Fit)[] = [];
  for (const one of all) {
    const fit = fitOf(one, sought);
    if (fit) fitting.push({ ...one, ...fit });
  }
  return fitting
    .sort(
      (a, b) =>
        a.rank - b.rank ||
        Number(b.fabric === near) - Number(a.fabric === near) ||
        naturally(a.name, b.name) ||
        naturally(a.fabric, b.fabric),
    )
    .slice(0, most);
}
/** Every prefix that an address or prefix lies in, as it is written: what holds it says one of them. */
export function prefixesAround(prefix: AnyPrefix): string[] {
  const out: string[] = [];
  const least = typeof prefix.address === 'bigint' ? SHORTEST[6] : SHORTEST[4];
  for (let length = prefix.length; length >= least; length--)
    out.push(formatAny(networkOfAny({ ...prefix, length } as AnyPrefix)));
  return out;
}
/** Nothing shorter is drawn, or chosen. */
const SHORTEST = { 4: 8, 6: 32 } as const;
