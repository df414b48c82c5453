import type { AsPathList, CommunityList, PrefixList, PrefixListEntry } from '../../config/policy.ts';
import { isTamePath, pathExpression } from '../../numbers/asPath.ts';
import { isCommunity, isLargeCommunity } from '../../numbers/community.ts';
import { familyOf, parseAnyCidr } from '../../numbers/prefix.ts';
import { failed, harmless, unmodelled, type Answer, type FrrReading, type TopLines } from './blocks.ts';
import type { Draft } from './draft.ts';

export const way = (permit: boolean): string => (permit ? 'permit' : 'deny');

/** The word that lines of a family begin with. */
export type FamilyWord = 'ip' | 'ipv6';

export function prefixListLines({ name, entries }: PrefixList, family: FamilyWord): string {
  let out = '';
  for (const e of entries)
    out +=
      `\n${family} prefix-list ${name} seq ${e.seq} ${way(e.permit)} ${e.prefix}` +
      (e.ge === undefined ? '' : ` ge ${e.ge}`) +
      (e.le === undefined ? '' : ` le ${e.le}`);
  return `${out}\n!`;
}

const numbered = (i: number): number => (i + 1) * 5;
export const communityListLines = (
  { name, entries }: CommunityList,
  kind: 'community-list' | 'large-community-list',
): string =>
  entries
    .map((e, i) => `\nbgp ${kind} standard ${name} seq ${numbered(i)} ${way(e.permit)} ${e.communities.join(' ')}`)
    .join('') + '\n!';
export const asPathListLines = ({ name, entries }: AsPathList): string =>
  entries.map((e, i) => `\nbgp as-path access-list ${name} seq ${numbered(i)} ${way(e.permit)} ${e.pattern}`).join('') +
  '\n!';

/** A line without a number comes after the last one, at the next five. */
export const nextSeq = (entries: readonly { readonly seq: number }[] = []): number =>
  Math.floor(Math.max(0, ...entries.map((e) => e.seq)) / 5) * 5 + 5;

/** Adds to a list of a name; what had its number gives way. */
export function add<T extends { readonly seq: number }>(lists: Map<string, T[]>, name: string, item: T): void {
  const list = lists.get(name);
  if (list) list.push(item);
  else lists.set(name, [item]);
}

const LISTS = {
  ip: { part: 'prefixLists', family: 4, all: '0.0.0.0/0', most: 32 },
  ipv6: { part: 'ipv6PrefixLists', family: 6, all: '::/0', most: 128 },
} as const;

function readPrefixList(line: string, reading: FrrReading): Answer {
  const m = /^ipv?6? prefix-list (\S+)(?: seq (\d+))? (permit|deny) (\S+)(?: ge (\d+))?(?: le (\d+))?$/.exec(line);
  const kind: FamilyWord = line.startsWith('ipv6') ? 'ipv6' : 'ip';
  const { part, family, all, most } = LISTS[kind];
  const lists = reading.draft[part];
  if (/^ipv?6? prefix-list \S+ description /.test(line)) return reading.at([part]);
  const any = m?.[4] === 'any';
  const cidr = m && parseAnyCidr(any ? all : m[4]!);
  if (!m || !cidr || familyOf(cidr) !== family)
    return `a prefix list line is: ${kind} prefix-list NAME [seq N] permit|deny PREFIX [ge N] [le N]`;
  const entry: Draft<PrefixListEntry> = {
    seq: m[2] === undefined ? nextSeq(lists.get(m[1]!)) : Number(m[2]),
    permit: m[3] === 'permit',
    prefix: any ? all : m[4]!,
  };
  if (m[5] !== undefined) entry.ge = Number(m[5]);
  if (m[6] !== undefined || any) entry.le = any ? most : Number(m[6]);
  const { length } = cidr;
  if (
    (entry.ge !== undefined && (entry.ge <= length || entry.ge > most)) ||
    (entry.le !== undefined && (entry.le < (entry.ge ?? length) || entry.le > most))
  )
    return {
      why: `the daemon refuses it, and with it what is sent in one piece with it: length ${length} < ge ≤ le ≤ ${most} must hold`,
      taken: false,
      // Lists and maps in a row are one transaction: which of them are lost depends on what stands around (FRR 8.4.4).
      doubts: ['prefixLists'],
    };
  add(lists, m[1]!, entry);
  return reading.at([part, m[1]!]);
}

/** How communities are written, where they cannot be read. */
export const STANDARD_FORM = 'a community is NUMBER:NUMBER or a well-known word';
export const LARGE_FORM = 'a large community is NUMBER:NUMBER:NUMBER';

/** `bgp community-list`, `bgp large-community-list` and `bgp as-path access-list`. */
function readBgpList(w: readonly string[], line: string, reading: FrrReading): Answer {
  const m =
    /^bgp (?:(?:large-)?community-list standard|(as-path) access-list) (\S+)(?: seq (\d+))? (permit|deny) (.+)$/.exec(
      line,
    ) ??
    /^bgp (?:(?:large-)?community-list|(as-path) access-list) (\d{1,2})(?: seq (\d+))? (permit|deny) (.+)$/.exec(line);
  if (!m) {
    const [, kind] = w;
    // Of every BGP there is.
    if (line === 'bgp graceful-shutdown')
      return { ...unmodelled('it is not modelled for all of BGP at once'), doubts: ['bgp'] };
    if (!/^(community-list|large-community-list|extcommunity-list|as-path)$/.test(kind ?? '')) return false;
    const expanded = /^bgp (large-)?community-list (?:expanded )?(\S+) (?:seq \d+ )?(?:permit|deny) /.exec(line);
    if (expanded)
      return {
        ...unmodelled('expressions over communities are not modelled'),
        doubts: [expanded[1] ? 'largeCommunityLists' : 'communityLists', expanded[2]!],
      };
    return harmless('the line that asks such a list is judged where it stands');
  }
  const [, ofPaths, name = '', seqSaid, permitWord, rest = ''] = m;
  const large = w[1] === 'large-community-list';
  const part = ofPaths ? 'asPathLists' : large ? 'largeCommunityLists' : 'communityLists';
  const lists = reading.draft[part];
  const seq = seqSaid === undefined ? nextSeq(lists.get(name)) : Number(seqSaid);
  const permit = permitWord === 'permit';
  if (ofPaths) {
    if (pathExpression(rest) === null) return failed('the daemon takes no expression that is not whole');
    if (!isTamePath(rest))
      return { ...unmodelled(`the expression “${rest}” is not modelled`), doubts: ['asPathLists', name] };
    add(reading.draft.asPathLists, name, { seq, permit, pattern: rest });
    return reading.at(['asPathLists', name]);
  }
  const communities = rest.split(/\s+/);
  if (part === 'asPathLists') return false;
  if (!communities.every(large ? isLargeCommunity : isCommunity)) return large ? LARGE_FORM : STANDARD_FORM;
  add(reading.draft[part], name, { seq, permit, communities });
  return reading.at([part, name]);
}

export const policyListLines: TopLines = {
  ip: (w, line, reading) => (w[1] === 'prefix-list' ? readPrefixList(line, reading) : false),
  ipv6: (w, line, reading) => (w[1] === 'prefix-list' ? readPrefixList(line, reading) : false),
  bgp: (w, line, reading) => readBgpList(w, line, reading),
};
