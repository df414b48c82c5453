import { ADDED, ADDED_TO_FILTERS, ADDED_TO_IPV6, ADDED_TO_OSPF, ADDED_TO_TENANTS, BEHIND } from './addedLines.ts';

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

export const MISTAKE_KINDS = ['drop', 'double', 'swap', 'value', 'move', 'add'] as const;
export type MistakeKind = (typeof MISTAKE_KINDS)[number];
/** Words that are mixed up with one another. */
const MIXED_UP: readonly (readonly [RegExp, string])[] = [
  [/\bpermit\b/, 'deny'],
  [/\bexternal\b/, 'internal'],
  [/\bimport\b/, 'export'],
  [/\baccept\b/, 'drop'],
  [/\bdrop\b/, 'accept'],
  [/\bsaddr\b/, 'daddr'],
  [/\biifname\b/, 'oifname'],
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

/** Adds a line where people put such; null = the text has no place for it. */
function addedTo(
  lines: readonly string[],
  loopback: string,
  random: Random,
): { readonly at: number; readonly text: string; readonly what: string } | null {
  const grouped = new Set(lines.flatMap((l) => /^ neighbor (\S+) (?:interface )?peer-group/.exec(l)?.[1] ?? []));
  const outside = lines.flatMap((l) => {
    const name = BEHIND.outside.exec(l) && /^ neighbor (\S+)/.exec(l)?.[1];
    return name && !grouped.has(name) ? [name] : [];
  });
  const speaksOut = outside.length > 0 || lines.some((l) => /^ ip route .* 192\.0\.2\./.test(l));
  const filters = lines.some((l) => BEHIND.filter.test(l));
  const added = filters
    ? ADDED_TO_FILTERS
    : lines.includes('router ospf')
      ? [...ADDED, ...ADDED_TO_OSPF]
      : speaksOut
        ? ADDED_TO_TENANTS
        : lines.some((l) => BEHIND.ipv6.test(l))
          ? [...ADDED_TO_IPV6, ...ADDED_TO_IPV6, ...ADDED]
          : ADDED;
  const [where, line, before] = pick(added, random);
  const places = lines.flatMap((l, i) =>
    BEHIND[where].test(l) && (where !== 'outside' || outside.some((o) => l.startsWith(` neighbor ${o} `))) ? [i] : [],
  );
  if (outside.length === 0 && line.includes('OUTSIDE')) return null;
  const peers = lines.flatMap((l) => /^ neighbor (\S+) (?:interface )?peer-group (\S+)$/.exec(l) ?? []);
  if (places.length === 0 || (peers.length === 0 && /PEER|GROUP/.test(line))) return null;
  const n = Math.floor(random() * (peers.length / 3)) * 3;
  const filled = (text: string): string =>
    text
      .replaceAll('PEER', peers[n + 1] ?? '')
      .replaceAll('GROUP', peers[n + 2] ?? '')
      .replaceAll('LOOPBACK', loopback)
      .replaceAll('OUTSIDE', outside[0] ?? '');
  // Neighbours stand above their families, and one line behind the last of them is behind all.
  const at = where === 'neighbours' ? places.at(-1)! : pick(places, random);
  const indent = /^ */.exec(lines[at]!)![0] + (/^(router|map|ospf|port|vrf|tenant)$/.test(where) ? ' ' : '');
  const put = where === 'file' ? filled(line).split('\n') : [`${indent}${filled(line)}`];
  const text = lines.toSpliced(at + (where === 'file' ? 0 : 1), 0, ...put);
  const top = before === undefined ? [] : filled(before).split('\n');
  const first = text.findIndex((l) => l === 'bfd' || l.startsWith('router bgp'));
  return {
    at,
    text: text.toSpliced(Math.max(0, first), 0, ...top).join('\n'),
    what: `“${filled(line)}” added${before === undefined ? '' : ` with “${filled(before).replaceAll('\n', ' / ')}”`}`,
  };
}

/**
 * Makes one mistake in a text: a line is dropped, doubled, swapped with the next, given another value, moved, or added.
 * @param loopback of another switch
 */
export function mistakeIn(
  text: string,
  loopback: string,
  random: Random,
  kinds: readonly MistakeKind[] = MISTAKE_KINDS,
): Mistake {
  const lines = text.split('\n');
  const told = lines.flatMap((l, i) => (/^\s*(!|#|$|frr |hostname |service |log )/.test(l) ? [] : [i]));
  for (;;) {
    const i = pick(told, random);
    const line = lines[i]!;
    const kind = pick(kinds, random);
    const made = (after: readonly string[], what: string): Mistake => ({ text: after.join('\n'), line: i + 1, what });
    if (kind === 'add') {
      const added = addedTo(lines, loopback, random);
      if (added) return { text: added.text, line: added.at + 2, what: added.what };
      continue;
    }
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
