import type { AccessList, AccessListEntry, CommunityEntry, CommunityPattern, PrefixList } from '../config/policy.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import { bitsOf, type IpFamily } from '../numbers/address.ts';
import { pathExpression } from '../numbers/asPath.ts';
import { inCommunityOrder, type CommunitySort } from '../numbers/community.ts';
import { parseIpv4 } from '../numbers/ipv4.ts';
import { familyOf, holdsAny, networkOfAny, parseAnyCidr, type AnyPrefix } from '../numbers/prefix.ts';
import { onceFor } from '../onceFor.ts';
import { communitiesOf, communityWords, numbersOf, type AsPath } from './routes.ts';

/** What the lists of a switch say of prefixes, paths and communities that they are asked about. */

type PrefixTest = (prefix: AnyPrefix) => boolean;

/** Every prefix list of a switch as a question; the end of a list denies. */
const prefixTests = onceFor((config: SwitchConfig): ReadonlyMap<string, PrefixTest> => {
  return testsOf(config.prefixLists);
});
/** Those of IPv6, with names of their own. */
const ipv6PrefixTests = onceFor(({ ipv6PrefixLists = [] }: SwitchConfig) => testsOf(ipv6PrefixLists));
function testsOf(lists: readonly PrefixList[]): ReadonlyMap<string, PrefixTest> {
  const out = new Map<string, PrefixTest>();
  for (const list of lists) {
    const entries = list.entries.flatMap((e) => {
      const p = parseAnyCidr(e.prefix);
      if (!p) return [];
      const low = e.ge ?? p.length;
      return [
        {
          permit: e.permit,
          around: networkOfAny(p),
          low,
          high: e.le ?? (e.ge === undefined ? p.length : bitsOf(familyOf(p))),
        },
      ];
    });
    out.set(list.name, (prefix) => {
      for (const e of entries)
        if (prefix.length >= e.low && prefix.length <= e.high && holdsAny(e.around, prefix)) return e.permit;
      return false;
    });
  }
  return out;
}

/** Does a prefix list permit the prefix? An undefined list permits nothing. */
export const permits = (config: SwitchConfig, listName: string, prefix: AnyPrefix): boolean =>
  prefixTests(config).get(listName)?.(prefix) ?? false;

/** The same of IPv6. */
export const permits6 = (config: SwitchConfig, listName: string, prefix: AnyPrefix): boolean =>
  ipv6PrefixTests(config).get(listName)?.(prefix) ?? false;

/** Every access list of a switch as a question. */
const accessTests = onceFor(({ accessLists = [] }: SwitchConfig) => accessTestsOf(accessLists));
const ipv6AccessTests = onceFor(({ ipv6AccessLists = [] }: SwitchConfig) => accessTestsOf(ipv6AccessLists));
function accessTestsOf(lists: readonly AccessList[]): ReadonlyMap<string, PrefixTest> {
  return new Map(
    lists.map(({ name, entries }) => {
      const tests = entries.map((e) => ({ permit: e.permit, meets: meetsAccess(e) }));
      return [name, (prefix) => tests.find((t) => t.meets(prefix))?.permit ?? false];
    }),
  );
}
function meetsAccess({ prefix, exact, wildcard }: AccessListEntry): PrefixTest {
  if (wildcard !== undefined) {
    const [address, free] = [parseIpv4(prefix)!, parseIpv4(wildcard)!];
    // Addresses are compared, lengths are not (FRR 8.4.4).
    return (p) => typeof p.address === 'number' && ((p.address ^ address) & ~free) === 0;
  }
  const around = parseAnyCidr(prefix);
  if (!around) return () => false;
  const network = networkOfAny(around);
  return (p) => holdsAny(network, p) && (exact === undefined || p.length === network.length);
}
/** Does an access list of a family permit the prefix? An undefined list permits nothing. */
export const permitsAccess = (config: SwitchConfig, family: IpFamily, listName: string, prefix: AnyPrefix): boolean =>
  (family === 4 ? accessTests : ipv6AccessTests)(config).get(listName)?.(prefix) ?? false;

/** Does a list of AS paths permit the path? Undefined = no. */
export function permitsPath(config: SwitchConfig, listName: string, path: AsPath | null): boolean {
  const text = numbersOf(path).join(' ');
  for (const { permit, expression } of pathTests(config).get(listName) ?? []) if (expression?.test(text)) return permit;
  return false;
}
const pathTests = onceFor(
  ({ asPathLists = [] }: SwitchConfig) =>
    new Map(
      asPathLists.map((l) => [
        l.name,
        l.entries.map(({ permit, pattern }) => ({ permit, expression: pathExpression(pattern) })),
      ]),
    ),
);

/** Lists of communities of a sort. */
type ListsOf = 'communityLists' | 'largeCommunityLists' | 'extendedCommunityLists';
const SORT_OF = {
  communityLists: 'standard',
  largeCommunityLists: 'large',
  extendedCommunityLists: 'extended',
} as const satisfies Readonly<Record<ListsOf, CommunitySort>>;
/** Expressions, each made once. */
const expressionOf = onceFor(({ pattern }: CommunityPattern): RegExp | null => pathExpression(pattern));

/** Does a community list permit the communities? `exact`: a route has those of an entry and no more. */
export function permitsCommunities(
  config: SwitchConfig,
  of: ListsOf,
  listName: string,
  had: string,
  exact: boolean,
): boolean {
  const all = communitiesOf(had);
  const list = config[of]?.find((l) => l.name === listName);
  for (const e of list?.entries ?? []) {
    if ('pattern' in e) {
      if (expressionOf(e)?.test(inCommunityOrder(SORT_OF[of], all).join(' '))) return e.permit;
      continue;
    }
    const { permit, communities } = e;
    const every = communities.every((c) => c === 'internet' || all.includes(c));
    if (every && (!exact || all.length === communities.length)) return permit;
  }
  return false;
}

/** Communities of a route that a list does not permit, each by itself. */
export const withoutListed = (config: SwitchConfig, of: ListsOf, listName: string, had: string): string => {
  const list = config[of]?.find((l) => l.name === listName);
  const isOf = (e: CommunityEntry | CommunityPattern, c: string): boolean =>
    'pattern' in e
      ? (expressionOf(e)?.test(c) ?? false)
      : e.communities.includes(c) || e.communities.includes('internet');
  const goes = (c: string): boolean => list?.entries.find((e) => isOf(e, c))?.permit ?? false;
  return communityWords(communitiesOf(had).filter((c) => !goes(c)));
};

/** Every list of prefixes of a switch that some line uses, by what it says: what policies can tell prefixes apart by. */
export const prefixQuestions = onceFor((config: SwitchConfig): ReadonlyMap<string, PrefixTest> => {
  const tests = prefixTests(config);
  return new Map(config.prefixLists.map((l) => [JSON.stringify(l.entries), tests.get(l.name)!]));
});
