/** Numbers below 1, evenly: a generator that is the same for the same seed. */
export type Random = () => number;

/** Mulberry32, a generator of 32 bits of state. */
export function randomOf(seed: number): Random {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}
const pick = <T>(of: readonly T[], random: Random): T => of[Math.floor(random() * of.length)]!;

/** A text with one line of it wrong, and what was done to it. */
export interface Mistake {
  readonly text: string;
  /** 1-based, in the text as it was. */
  readonly line: number;
  readonly what: string;
}

const KINDS = ['drop', 'double', 'swap', 'value', 'move'] as const;
/** Words that are mixed up with one another. */
const MIXED_UP: readonly (readonly [RegExp, string])[] = [
  [/\bpermit\b/, 'deny'],
  [/\bexternal\b/, 'internal'],
  [/\bimport\b/, 'export'],
  [/\bexport\b/, 'import'],
];

/** Another value in a line: a number beside the one that stands there, or a word that is mixed up; null = it holds neither. */
function otherValue(line: string, random: Random): string | null {
  const numbers = [...line.matchAll(/\d+/g)].filter((m) => !/[a-z]$/i.test(line.slice(0, m.index)));
  const words = MIXED_UP.filter(([word]) => word.test(line));
  if (numbers.length + words.length === 0) return null;
  const at = Math.floor(random() * (numbers.length + words.length));
  if (at >= numbers.length) {
    const [word, other] = words[at - numbers.length]!;
    return line.replace(word, other);
  }
  const m = numbers[at]!;
  const other = Math.max(0, Number(m[0]) + pick([-1, 1, 10], random));
  return `${line.slice(0, m.index)}${other}${line.slice(m.index + m[0].length)}`;
}

/** Makes one mistake in a text: a line is dropped, doubled, swapped with the next, given another value, or moved. */
export function mistakeIn(text: string, random: Random): Mistake {
  const lines = text.split('\n');
  const told = lines.flatMap((l, i) => (/^\s*(!|#|$|frr |hostname |service |log )/.test(l) ? [] : [i]));
  for (;;) {
    const i = pick(told, random);
    const line = lines[i]!;
    const kind = pick(KINDS, random);
    const made = (after: readonly string[], what: string): Mistake => ({ text: after.join('\n'), line: i + 1, what });
    if (kind === 'drop') return made(lines.toSpliced(i, 1), `“${line.trim()}” dropped`);
    if (kind === 'double') return made(lines.toSpliced(i, 0, line), `“${line.trim()}” doubled`);
    if (kind === 'swap') {
      const next = lines[i + 1];
      if (next === undefined || next === line) continue;
      return made(lines.toSpliced(i, 2, next, line), `“${line.trim()}” swapped with “${next.trim()}”`);
    }
    if (kind === 'value') {
      const other = otherValue(line, random);
      if (other === null || other === line) continue;
      return made(lines.with(i, other), `“${line.trim()}” became “${other.trim()}”`);
    }
    const to = pick(told, random);
    if (to === i) continue;
    const without = lines.toSpliced(i, 1);
    return made(
      without.toSpliced(to > i ? to : to + 1, 0, line),
      `“${line.trim()}” moved behind “${lines[to]!.trim()}”`,
    );
  }
}
