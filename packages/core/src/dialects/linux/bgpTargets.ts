import { parseIpv4 } from '../../numbers/ipv4.ts';
import type { Reading } from './blocks.ts';
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

export function targetLines(
  x: Readonly<{ rd?: string; imports: readonly string[]; exports: readonly string[] }>,
  indent: string,
): string {
  let out = x.rd === undefined ? '' : `\n${indent}rd ${x.rd}`;
  for (const t of x.imports) out += `\n${indent}route-target import ${t}`;
  for (const t of x.exports) out += `\n${indent}route-target export ${t}`;
  return out;
}

/** Reads `rd` and `route-target` lines. */
export function readTargets(words: readonly string[], into: Targets): Reading {
  if (words[0] === 'rd') {
    if (!isTarget(words[1] ?? '')) return 'an RD is router-id:number or AS:number';
    into.rd = words[1]!;
    return true;
  }
  if (words[0] !== 'route-target') return false;
  const [, way, ...targets] = words;
  if (targets.length === 0 || !targets.every(isTarget)) return 'a route target is AS:number';
  if (way === 'import' || way === 'both') into.imports.push(...targets);
  if (way === 'export' || way === 'both') into.exports.push(...targets);
  return way === 'import' || way === 'export' || way === 'both' ? true : 'a route target is import, export or both';
}

/** The field such a line speaks of. */
export const targetField = (words: readonly string[]): 'rd' | 'imports' | 'exports' =>
  words[0] === 'rd' ? 'rd' : words[1] === 'export' ? 'exports' : 'imports';
