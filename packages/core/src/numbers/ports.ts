/** A label of a port and lists of them, as makers print them and people write them. */

/**
 * Runs of letters and digits, joined by `/`, `.` or `:`, or by `-` after a letter: `e1/1`, `p-0/0/1`, `port1.2`, `p1s0`.
 * A `-` after a digit is that of a range.
 */
const LABEL = /^[A-Za-z0-9]+(?:(?:[/.:]|(?<=[A-Za-z])-)[A-Za-z0-9]+)*$/;
const MOST_CHARACTERS = 30;
const MOST_IN_RANGE = 1024;

/** May a port be called so? It ends in its number. */
export const isPortLabel = (text: string): boolean =>
  text.length <= MOST_CHARACTERS && LABEL.test(text) && /\d$/.test(text);

/** The numbers in a label, from the left: `p-0/0/1` → 0, 0, 1. */
export const numbersIn = (label: string): number[] => (label.match(/\d+/g) ?? []).map(Number);

/** `e10/1` → words `e`, `/`, each before a number: `10`, `1`. */
function parts(text: string): { readonly words: string[]; readonly numbers: string[] } | null {
  const said = text.split(/(\d+)/);
  return said.length < 3 || said.at(-1) !== ''
    ? null
    : { words: said.slice(0, -1).filter((_, i) => i % 2 === 0), numbers: said.filter((_, i) => i % 2 === 1) };
}

/** The numbers from one to the other, as wide as they are written; null = none. */
function span(from: string, to: string): string[] | null {
  const wide = from.startsWith('0') && from.length > 1 ? from.length : 0;
  const [first, last] = [Number(from), Number(to)];
  if (last < first || last - first >= MOST_IN_RANGE || (wide > 0 ? to.length !== wide : /^0\d/.test(to))) return null;
  return Array.from({ length: last - first + 1 }, (_, i) => String(first + i).padStart(wide, '0'));
}

/** A label, or from one to another, which may leave out what it begins with: `e1/1-e1/48`, `e1/1-48`, `p49s1-p50s4`. */
function expandRange(said: string): string[] | null {
  const [from = '', to, more] = said.split(/(?<=\d)-/);
  if (!isPortLabel(from) || more !== undefined) return null;
  if (to === undefined) return [from];
  const [a, b] = [parts(from), parts(to)];
  if (!a || !b) return null;
  const fixed = a.numbers.length - b.numbers.length;
  // What is left out at the front is as it was; the word before the first number said may be left out with it.
  const alike = b.words.every((w, i) => w === a.words[fixed + i] || (i === 0 && w === ''));
  if (fixed < 0 || !alike) return null;
  let out = [''];
  for (const [i, word] of a.words.entries()) {
    const own = i < fixed ? [a.numbers[i]!] : span(a.numbers[i]!, b.numbers[i - fixed]!);
    if (!own || out.length * own.length > MOST_IN_RANGE) return null;
    out = out.flatMap((before) => own.map((n) => `${before}${word}${n}`));
  }
  return out;
}

/**
 * `p1-p48`, `e1/1-48` or `p1-p4,p9` → labels in order; null when it is no such list. Where labels have several numbers,
 * each goes from one to the other: `p49s1-p50s4` are the first four of `p49` and of `p50`.
 */
export function expandPorts(text: string): string[] | null {
  const out: string[] = [];
  for (const said of text.split(',')) {
    const some = expandRange(said.trim());
    if (!some) return null;
    out.push(...some);
  }
  return out;
}
