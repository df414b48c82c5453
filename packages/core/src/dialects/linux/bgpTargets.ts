import { parseIpv4 } from '../../numbers/ipv4.ts';
import type { AlikeBlock, Reading } from './blocks.ts';
import { whole } from './words.ts';

/** `AS:number` or `address:number`; of the two numbers one has two bytes (RFC 4364 §4.2). */
function isTarget(text: string): boolean {
  const colon = text.indexOf(':');
  const number = whole(text.slice(colon + 1), 0, 4294967295);
  if (colon < 0 || number === null) return false;
  const left = text.slice(0, colon);
  const asn = whole(left, 0, 4294967295);
  if (asn !== null) return asn <= 65535 || number <= 65535;
  return parseIpv4(left) !== null && number <= 65535;
}

/** What VNIs and VRFs have alike. */
interface Targets {
  rd?: string;
  imports: string[];
  exports: string[];
}

/** Lines of lists that are both what is imported and what is exported. */
const both = new WeakMap<readonly string[], { readonly indent: string; readonly lines: string }>();

export function targetLines(
  x: Readonly<{ rd?: string; imports: readonly string[]; exports: readonly string[] }>,
  indent: string,
): string {
  const rd = x.rd === undefined ? '' : `\n${indent}rd ${x.rd}`;
  // Mostly the same list in and out, shared by all switches.
  const known = both.get(x.imports);
  if (known && x.imports === x.exports && known.indent === indent) return rd + known.lines;
  let lines = '';
  for (const t of x.imports) lines += `\n${indent}route-target import ${t}`;
  for (const t of x.exports) lines += `\n${indent}route-target export ${t}`;
  if (x.imports === x.exports) both.set(x.imports, { indent, lines });
  return rd + lines;
}

/**
 * Reads `rd` and `route-target` lines.
 * @param most targets a line takes: a VNI takes one, a VRF any number (FRR 8.4.4)
 */
export function readTargets(words: readonly string[], into: Targets, most: number): Reading {
  if (words[0] === 'rd') {
    if (!isTarget(words[1] ?? '')) return 'an RD is router-id:number or AS:number';
    into.rd = words[1]!;
    return true;
  }
  if (words[0] !== 'route-target') return false;
  const [, way, ...targets] = words;
  if (targets.length === 0 || !targets.every(isTarget)) return 'a route target is AS:number';
  if (targets.length > most) return 'a VNI takes one route target a line';
  if (way === 'import' || way === 'both') into.imports = into.imports.concat(targets);
  if (way === 'export' || way === 'both') into.exports = into.exports.concat(targets);
  return way === 'import' || way === 'export' || way === 'both' ? true : 'a route target is import, export or both';
}

/** The field such a line speaks of. */
export const targetField = (words: readonly string[]): 'rd' | 'imports' | 'exports' =>
  words[0] === 'rd' ? 'rd' : words[1] === 'export' ? 'exports' : 'imports';

/** Targets of a VNI are the same on all switches; its RD is each one’s own. */
export const alikeByTargets: AlikeBlock<Targets> = {
  own: '\n   rd ',
  isNew: ({ rd, imports, exports }) => rd === undefined && imports.length === 0 && exports.length === 0,
  keep: ({ imports, exports }) => ({ imports, exports }),
  take: (about, kept, own) => {
    if (!isTarget(own)) return false;
    // The lists are of many: they are never added to, but made anew.
    Object.assign(about, kept, { rd: own });
    return true;
  },
};
