import type { AccessList, AccessListEntry } from '../../config/policy.ts';
import { parseIpv4 } from '../../numbers/ipv4.ts';
import { familyOf, parseAnyCidr } from '../../numbers/prefix.ts';
import { harmless, unmodelled, type Answer, type FrrReading, type TopLines } from './blocks.ts';
import type { Draft } from './draft.ts';
import { add, nextSeq, way, type FamilyWord } from './policyLists.ts';

/** Access lists of routes, in both forms that FRR has: prefixes, and addresses with a wildcard (lists 1–99 and 1300–1999). */

const EVERYTHING = { ip: '0.0.0.0/0', ipv6: '::/0' } as const;
const PARTS = { ip: 'accessLists', ipv6: 'ipv6AccessLists' } as const;
const HOST = '0.0.0.0';
const WORD = { ip: 'access-list', ipv6: 'ipv6 access-list' } as const;

function entryWords({ prefix, exact, wildcard }: AccessListEntry, family: FamilyWord): string {
  if (wildcard !== undefined) return wildcard === HOST ? prefix : `${prefix} ${wildcard}`;
  return exact ? `${prefix} exact-match` : prefix === EVERYTHING[family] ? 'any' : prefix;
}
export const accessListLines = ({ name, entries }: AccessList, family: FamilyWord): string =>
  entries.map((e) => `\n${WORD[family]} ${name} seq ${e.seq} ${way(e.permit)} ${entryWords(e, family)}`).join('') +
  '\n!';

/** Numbers of lists that ask for source and target, as filters of packets do. */
const isExtended = (name: string): boolean => /^(1\d\d|2[0-6]\d\d)$/.test(name);

/** What an entry speaks of; null = it is written otherwise. */
function spokenOf(
  words: readonly string[],
  family: FamilyWord,
): Pick<Draft<AccessListEntry>, 'prefix' | 'exact' | 'wildcard'> | null {
  const [first = '', second, ...more] = words;
  if (more.length > 0) return null;
  if (first === 'any' && second === undefined) return { prefix: EVERYTHING[family] };
  const cidr = first.includes('/') ? parseAnyCidr(first) : null;
  if (cidr && familyOf(cidr) === (family === 'ip' ? 4 : 6)) {
    if (second === undefined) return { prefix: first };
    return second === 'exact-match' ? { prefix: first, exact: true } : null;
  }
  if (family === 'ipv6') return null;
  const [address, wildcard] = first === 'host' ? [second, HOST] : [first, second ?? HOST];
  return address !== undefined && parseIpv4(address) !== null && parseIpv4(wildcard) !== null
    ? { prefix: address, wildcard }
    : null;
}

function read(words: readonly string[], family: FamilyWord, reading: FrrReading): Answer {
  const [name, ...rest] = words;
  const part = PARTS[family];
  if (name === undefined) return 'the access list has no name';
  if (rest[0] === 'remark') return harmless('it says something to people');
  const lists = reading.draft[part];
  const numbered = rest[0] === 'seq';
  const [wayWord, ...spoken] = numbered ? rest.slice(2) : rest;
  const seq = numbered ? Number(rest[1]) : nextSeq(lists.get(name));
  const permit = wayWord === 'permit';
  if ((!permit && wayWord !== 'deny') || !Number.isInteger(seq) || seq < 1)
    return `an access list line is: ${WORD[family]} NAME [seq N] permit|deny PREFIX [exact-match]`;
  if (family === 'ip' && isExtended(name) && spoken[0] === 'ip')
    return { ...unmodelled('lists of source and target are not modelled for routes'), doubts: [part, name] };
  const of = spokenOf(spoken, family);
  if (!of) return `an access list line is: ${WORD[family]} NAME [seq N] permit|deny PREFIX [exact-match]`;
  add(lists, name, { seq, permit, ...of });
  return reading.at([part, name]);
}

export const accessLines: TopLines = {
  'access-list': (w, _line, reading) => read(w.slice(1), 'ip', reading),
  ipv6: (w, _line, reading) => (w[1] === 'access-list' ? read(w.slice(2), 'ipv6', reading) : false),
};
