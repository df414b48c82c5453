import type { AsPathList, CommunityList, PrefixList, PrefixListEntry } from '../../config/policy.ts';
import { isTameCommunities, isTamePath, pathExpression } from '../../numbers/asPath.ts';
import { inCommunityOrder, isOfSort, type CommunitySort } from '../../numbers/community.ts';
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
/** Lists of communities by the word of their lines. */
const COMMUNITY_LISTS = {
  'community-list': { part: 'communityLists', sort: 'standard' },
  'large-community-list': { part: 'largeCommunityLists', sort: 'large' },
  'extcommunity-list': { part: 'extendedCommunityLists', sort: 'extended' },
} as const;
type CommunityListWord = keyof typeof COMMUNITY_LISTS;
const isCommunityWord = (word: string): word is CommunityListWord => Object.hasOwn(COMMUNITY_LISTS, word);

/** Of an extended community its kind is a word by itself here: `rt 64700:10`. */
const asWords = (communities: readonly string[]): string =>
  communities.map((c) => c.replace(/^(rt|soo):/, '$1 ')).join(' ');
/** The communities of an entry as they are written; null = they are none of that sort. */
function communitiesIn(text: string, sort: CommunitySort): readonly string[] | null {
  const said = (sort === 'extended' ? text.replaceAll(/\b(rt|soo)\s+/g, '$1:') : text).split(/\s+/);
  return said.every((c) => isOfSort(sort, c)) ? (sort === 'extended' ? inCommunityOrder(sort, said) : said) : null;
}
export const communityListLines = ({ name, entries }: CommunityList, kind: CommunityListWord): string =>
  entries
    .map((e, i) => {
      const [form, says] = 'pattern' in e ? ['expanded', e.pattern] : ['standard', asWords(e.communities)];
      return `\nbgp ${kind} ${form} ${name} seq ${numbered(i)} ${way(e.permit)} ${says}`;
    })
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
export const FORMS: Readonly<Record<CommunitySort, string>> = {
  standard: 'a community is NUMBER:NUMBER or a well-known word',
  large: 'a large community is NUMBER:NUMBER:NUMBER',
  extended: 'an extended community is rt or soo, and NUMBER:NUMBER or ADDRESS:NUMBER',
};

const ASKED_ELSEWHERE = harmless('the line that asks such a list is judged where it stands');

/** A list of expressions; of a name that has another kind of list already nothing is taken (FRR 8.4.4). */
function readExpanded(line: string, kind: CommunityListWord, reading: FrrReading): Answer {
  const m =
    /^bgp \S+ expanded (\S+)(?: seq (\d+))? (permit|deny) (.+)$/.exec(line) ??
    /^bgp \S+ ([1-4]\d\d|500)(?: seq (\d+))? (permit|deny) (.+)$/.exec(line);
  if (!m) return ASKED_ELSEWHERE;
  const [, name = '', seq, permit, pattern = ''] = m;
  const { part, sort } = COMMUNITY_LISTS[kind];
  const lists = reading.draft[part];
  if (pathExpression(pattern) === null) return failed('the daemon takes no expression that is not whole');
  if (lists.get(name)?.some((e) => !('pattern' in e))) return failed(`${name} is a list of communities already`);
  // What else is in the line of extended ones, EVPN’s own, is not modelled.
  if (sort === 'extended' || !isTameCommunities(pattern))
    return { ...unmodelled(`the expression “${pattern}” is not modelled`), doubts: [part, name] };
  add(lists, name, {
    seq: seq === undefined ? nextSeq(lists.get(name)) : Number(seq),
    permit: permit === 'permit',
    pattern,
  });
  return reading.at([part, name]);
}

/** Lists of communities of each sort, and `bgp as-path access-list`. */
function readBgpList(w: readonly string[], line: string, reading: FrrReading): Answer {
  const m =
    /^bgp (?:(?:large-|ext)?community-list standard|(as-path) access-list) (\S+)(?: seq (\d+))? (permit|deny) (.+)$/.exec(
      line,
    ) ??
    /^bgp (?:(?:large-|ext)?community-list|(as-path) access-list) (\d{1,2})(?: seq (\d+))? (permit|deny) (.+)$/.exec(
      line,
    );
  const [, kind = ''] = w;
  if (!m) {
    // Of every BGP there is.
    if (line === 'bgp graceful-shutdown')
      return { ...unmodelled('it is not modelled for all of BGP at once'), doubts: ['bgp'] };
    if (!isCommunityWord(kind)) return kind === 'as-path' ? ASKED_ELSEWHERE : false;
    return readExpanded(line, kind, reading);
  }
  const [, ofPaths, name = '', seqSaid, permitWord, rest = ''] = m;
  const list = ofPaths || !isCommunityWord(kind) ? null : COMMUNITY_LISTS[kind];
  const lists = reading.draft[list?.part ?? 'asPathLists'];
  const seq = seqSaid === undefined ? nextSeq(lists.get(name)) : Number(seqSaid);
  const permit = permitWord === 'permit';
  if (!list) {
    if (pathExpression(rest) === null) return failed('the daemon takes no expression that is not whole');
    if (!isTamePath(rest))
      return { ...unmodelled(`the expression “${rest}” is not modelled`), doubts: ['asPathLists', name] };
    add(reading.draft.asPathLists, name, { seq, permit, pattern: rest });
    return reading.at(['asPathLists', name]);
  }
  const communities = communitiesIn(rest, list.sort);
  if (!communities) return FORMS[list.sort];
  const others = reading.draft[list.part];
  if (others.get(name)?.some((e) => 'pattern' in e)) return failed(`${name} is a list of expressions already`);
  add(others, name, { seq, permit, communities });
  return reading.at([list.part, name]);
}

export const policyListLines: TopLines = {
  ip: (w, line, reading) => (w[1] === 'prefix-list' ? readPrefixList(line, reading) : false),
  ipv6: (w, line, reading) => (w[1] === 'prefix-list' ? readPrefixList(line, reading) : false),
  bgp: (w, line, reading) => readBgpList(w, line, reading),
};
