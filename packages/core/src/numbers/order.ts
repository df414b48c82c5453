const collator = new Intl.Collator('en', { numeric: true });

/** Order in which engineers read names: p2 before p10. */
export const naturally = (a: string, b: string): number => collator.compare(a, b);

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

/** `p1-p48` or `p1` or `p1-p4,p9` → port names in order; null when it is no such list. */
export function expandPorts(text: string): string[] | null {
  const out: string[] = [];
  for (const part of text.split(',')) {
    const m = /^([a-z]+)(\d+)(?:-(?:([a-z]+))?(\d+))?$/.exec(part.trim());
    if (!m) return null;
    const [, prefix, first, prefix2, last] = m;
    if (prefix2 !== undefined && prefix2 !== prefix) return null;
    const from = Number(first);
    const to = last === undefined ? from : Number(last);
    if (to < from || to - from > 1023) return null;
    for (let i = from; i <= to; i++) out.push(`${prefix}${i}`);
  }
  return out;
}
