const collator = new Intl.Collator('en', { numeric: true });

const isDigit = (c: number): boolean => c >= 48 && c <= 57;
const ZERO = 48;

/** Order in which engineers read names: p2 before p10. */
export function naturally(a: string, b: string): number {
  if (a === b) return 0;
  // Most names differ in a number first, and that decides; all else is left to the language.
  let at = 0;
  while (at < a.length && at < b.length && a.charCodeAt(at) === b.charCodeAt(at)) at++;
  while (at > 0 && isDigit(a.charCodeAt(at - 1))) at--;
  const [x, y] = [numberAt(a, at), numberAt(b, at)];
  return x !== null && y !== null && x !== y ? x - y : collator.compare(a, b);
}

/** The number that stands there; null = none, or one that begins with 0, is very long, or may go on in another script. */
function numberAt(text: string, from: number): number | null {
  let value = 0;
  let at = from;
  for (; at < text.length && isDigit(text.charCodeAt(at)); at++) value = value * 10 + (text.charCodeAt(at) - ZERO);
  const digits = at - from;
  const goesOn = at < text.length && text.charCodeAt(at) > 127;
  return digits === 0 || digits > 15 || goesOn || (digits > 1 && text.charCodeAt(from) === ZERO) ? null : value;
}

/** Integers 1…n. */
export const upTo = (n: number): number[] => Array.from({ length: n }, (_, i) => i + 1);

/** Groups items under a key, in first-seen order. */
export function groupBy<T, K>(items: Iterable<T>, key: (item: T) => K): Map<K, T[]> {
  const groups = new Map<K, T[]>();
  for (const item of items) {
    const k = key(item);
    const group = groups.get(k);
    if (group) group.push(item);
    else groups.set(k, [item]);
  }
  return groups;
}

const PORTS = /^([a-z]+)(\d+)(?:s(\d+))?(?:-([a-z]+)?(\d+)?(?:s(\d+))?)?$/;
const MOST_IN_RANGE = 1024;

/**
 * `p1-p48` or `p1` or `p1-p4,p9` → port names in order; null when it is no such list. Ports of split cages go by both
 * numbers: `p49s1-p50s4` are the first four of `p49` and of `p50`.
 */
export function expandPorts(text: string): string[] | null {
  const out: string[] = [];
  for (const part of text.split(',')) {
    const said = part.trim();
    const m = PORTS.exec(said);
    if (!m) return null;
    const [, prefix = '', first, firstSplit, prefix2, last, lastSplit] = m;
    const range = said.includes('-');
    if (range && (last === undefined) === (lastSplit === undefined) && last === undefined) return null;
    if (prefix2 !== undefined && (prefix2 !== prefix || last === undefined)) return null;
    // Both ends are split, or neither is.
    if (range && (firstSplit === undefined) !== (lastSplit === undefined)) return null;
    const [from, to] = [Number(first), Number(last ?? first)];
    const [subFrom, subTo] = [Number(firstSplit ?? 0), Number(lastSplit ?? firstSplit ?? 0)];
    if (to < from || subTo < subFrom || (to - from + 1) * (subTo - subFrom + 1) > MOST_IN_RANGE) return null;
    for (let i = from; i <= to; i++)
      if (firstSplit === undefined) out.push(`${prefix}${i}`);
      else for (let n = subFrom; n <= subTo; n++) out.push(`${prefix}${i}s${n}`);
  }
  return out;
}
