/** Are two plain values the same, key by key? */
export function sameContent(a: unknown, b: unknown): boolean {
  if (a === b) return true;
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null) return false;
  if (Array.isArray(a)) {
    if (!Array.isArray(b) || a.length !== b.length) return false;
    for (let i = 0; i < a.length; i++) if (!sameContent(a[i], b[i])) return false;
    return true;
  }
  let n = 0;
  for (const key in a) {
    if (!sameContent((a as Record<string, unknown>)[key], (b as Record<string, unknown>)[key])) return false;
    n++;
  }
  for (const _ in b) n--;
  return n === 0;
}
