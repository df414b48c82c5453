/** Who can change places with whom: class numbers by index, −1 = with nobody. */
export type Alike = Int32Array;

/**
 * Numbers classes of what has the same key; null = it is like nobody.
 * @param keys by index
 */
export function classesOf(keys: readonly (string | null)[]): Alike {
  const members = new Map<string, number[]>();
  keys.forEach((key, i) => {
    if (key === null) return;
    const known = members.get(key);
    if (known) known.push(i);
    else members.set(key, [i]);
  });
  const out = new Int32Array(keys.length).fill(-1);
  let number = 0;
  for (const all of members.values()) {
    if (all.length < 2) continue;
    for (const m of all) out[m] = number;
    number++;
  }
  return out;
}
