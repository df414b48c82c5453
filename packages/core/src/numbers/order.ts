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
