import { parseAnyCidr } from '../numbers/prefix.ts';
import { communitySort } from '../numbers/community.ts';
import type {
  CommunityEntrySaid,
  CommunityExpressionSaid,
  PathEntrySaid,
  PolicyIs,
  PrefixListEntry,
  RoutePolicy,
} from './policies.ts';

/** Kinds that are written line by line. */
export type ListIs = Exclude<PolicyIs, 'route-map'>;
type ListEntry = PrefixListEntry | CommunityEntrySaid | CommunityExpressionSaid | PathEntrySaid;

/** How a line of a list is written. */
export const LINE_FORMS: Readonly<Record<ListIs, string>> = {
  'prefix-list': '10 permit 198.51.100.0/24 le 28',
  'community-list': 'permit 64701:7',
  'path-list': 'permit ^64701_',
};
const NUMBERS_APART = 10;

function prefixLine(line: string, after: number): PrefixListEntry | null {
  const m = /^(?:seq )?(?:(\d{1,5}) )?(permit|deny) (\S+)(?: ge (\d{1,3}))?(?: le (\d{1,3}))?$/.exec(line);
  if (!m || parseAnyCidr(m[3]!) === null) return null;
  return {
    seq: m[1] === undefined ? Math.floor(after / NUMBERS_APART) * NUMBERS_APART + NUMBERS_APART : Number(m[1]),
    permit: m[2] === 'permit',
    prefix: m[3]!,
    ...(m[4] === undefined ? {} : { ge: Number(m[4]) }),
    ...(m[5] === undefined ? {} : { le: Number(m[5]) }),
  };
}
function entryOf(is: ListIs, line: string, after: number): ListEntry | null {
  if (is === 'prefix-list') return prefixLine(line, after);
  const m = /^(permit|deny) (.+)$/.exec(line);
  if (!m) return null;
  const permit = m[1] === 'permit';
  if (is === 'path-list') return { permit, pattern: m[2]!.trim() };
  const expression = /^(large )?\/(.+)\/$/.exec(m[2]!.trim());
  if (expression)
    return { permit, expression: expression[2]!, ...(expression[1] === undefined ? {} : { large: true as const }) };
  const communities = m[2]!.trim().split(' ');
  return communities.every((c) => communitySort(c) !== null) ? { permit, communities } : null;
}

/**
 * The entries of a list, one a line: `10 permit 198.51.100.0/24 le 28`, where the number is the next ten if it is left out;
 * `permit 64701:7`, or an expression over all that a route has, `permit /64701:7[0-9]/`, over large ones
 * `permit large /64701:7:/`; `permit ^64701_`. Empty lines say nothing.
 */
export function listEntries(
  is: ListIs,
  text: string,
): { readonly entries: readonly ListEntry[] } | { readonly wrong: string } {
  const entries: ListEntry[] = [];
  let after = 0;
  for (const [i, raw] of text.split('\n').entries()) {
    const line = raw.trim().replace(/\s+/g, ' ');
    if (line === '') continue;
    const entry = entryOf(is, line, after);
    if (!entry) return { wrong: `Line ${i + 1}, “${line.slice(0, 60)}”, cannot be read: write ${LINE_FORMS[is]}.` };
    if ('seq' in entry) after = entry.seq;
    entries.push(entry);
  }
  return entries.length > 0 ? { entries } : { wrong: `Write an entry, such as ${LINE_FORMS[is]}.` };
}

const way = (permit: boolean): string => (permit ? 'permit' : 'deny');
/** The entries of a list as `listEntries` reads them. */
export function listLines(policy: Exclude<RoutePolicy, { readonly is: 'route-map' }>): string {
  switch (policy.is) {
    case 'prefix-list':
      return policy.entries
        .map(
          (e) =>
            `${e.seq} ${way(e.permit)} ${e.prefix}${e.ge === undefined ? '' : ` ge ${e.ge}`}${e.le === undefined ? '' : ` le ${e.le}`}`,
        )
        .join('\n');
    case 'community-list':
      return policy.entries
        .map((e) =>
          'expression' in e
            ? `${way(e.permit)} ${e.large ? 'large ' : ''}/${e.expression}/`
            : `${way(e.permit)} ${e.communities.join(' ')}`,
        )
        .join('\n');
    case 'path-list':
      return policy.entries.map((e) => `${way(e.permit)} ${e.pattern}`).join('\n');
  }
}
