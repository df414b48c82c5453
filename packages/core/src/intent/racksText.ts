/** `1-3, 7` → rack numbers; null = it is not written so. */
export function racksOf(text: string): number[] | null {
  const out: number[] = [];
  for (const part of text
    .split(',')
    .map((p) => p.trim())
    .filter(Boolean)) {
    const m = /^(\d{1,4})(?: ?- ?(\d{1,4}))?$/.exec(part);
    if (!m) return null;
    for (let n = Number(m[1]); n <= Number(m[2] ?? m[1]); n++) out.push(n);
  }
  return out;
}

/** The same in a sentence: `rack 7`, `racks 1-3, 7`. */
export const racksWords = (racks: readonly number[]): string =>
  `${new Set(racks).size === 1 ? 'rack' : 'racks'} ${racksText(racks)}`;

/** Rack numbers as one writes them, runs together: 1-3, 7. */
export function racksText(racks: readonly number[]): string {
  const sorted = [...new Set(racks)].sort((a, b) => a - b);
  const runs: [number, number][] = [];
  for (const n of sorted) {
    const last = runs.at(-1);
    if (last && n === last[1] + 1) last[1] = n;
    else runs.push([n, n]);
  }
  return runs.map(([a, b]) => (a === b ? String(a) : b === a + 1 ? `${a}, ${b}` : `${a}-${b}`)).join(', ');
}
