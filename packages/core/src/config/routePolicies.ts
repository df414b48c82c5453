import { policyKey, sortOfList, type RouteMapEntrySaid, type RoutePolicy } from '../intent/policies.ts';
import { COMMUNITY_SORTS, inCommunityOrder, isOfSort, type CommunitySort } from '../numbers/community.ts';
import { naturally } from '../numbers/order.ts';
import { familyOfText } from '../numbers/prefix.ts';
import type {
  CommunityList,
  PolicyPart,
  PrefixList,
  RouteMap,
  RouteMapEntry,
  RouteMatch,
  RouteSet,
} from './policyParts.ts';

/** What all who are spoken to, and tenants, use of the fabric’s lists and maps, each once, in the order of their names. */
export function policiesFor(users: readonly { readonly policies: readonly RoutePolicy[] }[]): readonly RoutePolicy[] {
  const all = new Map(users.flatMap((n) => n.policies.map((p) => [policyKey(p), p] as const)));
  return [...all.values()].sort((a, b) => naturally(a.name, b.name));
}

/** Which lists are of IPv6, and of what sort those of communities are. */
interface Sorts {
  readonly ipv6: ReadonlySet<string>;
  readonly of: ReadonlyMap<string, CommunitySort>;
}

function askedOf(list: string, exact: boolean, sort: CommunitySort | undefined): RouteMatch {
  if (sort === 'extended') return { extendedCommunity: list };
  return { [sort === 'large' ? 'largeCommunity' : 'community']: { list, exact } };
}
function matchOf({ match = {} }: RouteMapEntrySaid, { of }: Sorts): RouteMatch | undefined {
  const { communities, exactly, path, prefixes: _, nextHops, ...rest } = match;
  const made: RouteMatch = {
    ...rest,
    ...(communities === undefined ? {} : askedOf(communities, exactly === true, of.get(communities))),
    ...(path === undefined ? {} : { asPath: path }),
    ...(nextHops === undefined ? {} : { nextHops: { list: nextHops } }),
  };
  return Object.keys(made).length === 0 ? undefined : made;
}
/** What an entry gives of each sort, and whether beside what is there: extended ones are beside it always. */
const GIVEN = {
  standard: ['communities', 'additive'],
  large: ['largeCommunities', 'largeAdditive'],
  extended: ['extendedCommunities', null],
} as const satisfies Readonly<Record<CommunitySort, readonly [keyof RouteSet, keyof RouteSet | null]>>;
/** Of communities of each sort what is said of it; where it is to have none, it has none of any. */
function setOf({ set }: RouteMapEntrySaid, { of }: Sorts): RouteSet | undefined {
  if (set === undefined || Object.keys(set).length === 0) return undefined;
  const { communities, additive, withoutCommunities: without, nextHop, ...rest } = set;
  const given = COMMUNITY_SORTS.flatMap((sort): RouteSet[] => {
    const [field, beside] = GIVEN[sort];
    const said = (communities ?? []).filter((c) => isOfSort(sort, c));
    if (said.length === 0 && communities?.length !== 0) return [];
    const adds = additive && beside !== null && said.length > 0;
    return [{ [field]: inCommunityOrder(sort, said), ...(adds ? { [beside]: additive } : {}) }];
  });
  return Object.assign(
    { ...rest, ...(nextHop === undefined ? {} : { nextHop: nextHop === 'neighbour' ? 'peer-address' : nextHop }) },
    ...given,
    without === undefined ? {} : { [of.get(without) === 'large' ? 'withoutLarge' : 'withoutCommunities']: without },
  ) as RouteSet;
}

/** A map of the fabric as a switch has it; a list of prefixes is asked for by its family. */
function mapOf({ name, entries }: Extract<RoutePolicy, { readonly is: 'route-map' }>, sorts: Sorts): RouteMap {
  return {
    name,
    entries: entries.map((e): RouteMapEntry => {
      const [list, match, set] = [e.match?.prefixes, matchOf(e, sorts), setOf(e, sorts)];
      const onMatch = e.next === true ? 'next' : e.goTo;
      return {
        seq: e.seq,
        permit: e.permit,
        ...(list === undefined ? {} : sorts.ipv6.has(list) ? { matchIpv6PrefixList: list } : { matchPrefixList: list }),
        ...(match === undefined ? {} : { match }),
        ...(set === undefined ? {} : { set }),
        ...(e.call === undefined ? {} : { call: e.call }),
        ...(onMatch === undefined ? {} : { onMatch }),
      };
    }),
  };
}

/** The lists and maps of a fabric as a switch has them. */
export function partsOf(
  policies: readonly RoutePolicy[],
): Omit<Required<PolicyPart>, 'accessLists' | 'ipv6AccessLists'> {
  const lists = policies.flatMap((p) => (p.is === 'prefix-list' ? p : []));
  const isIpv6 = ({ entries }: Pick<PrefixList, 'entries'>): boolean => familyOfText(entries[0]!.prefix) === 6;
  const sixes = new Set(lists.filter(isIpv6).map((l) => l.name));
  const plain = ({ name, entries }: PrefixList): PrefixList => ({ name, entries });
  const marks = policies.flatMap((p) => (p.is === 'community-list' ? p : []));
  const of = new Map(marks.map((l) => [l.name, sortOfList(l)]));
  const listsOf = (sort: CommunitySort): CommunityList[] =>
    marks.flatMap(({ name, entries }) =>
      of.get(name) !== sort
        ? []
        : {
            name,
            entries: entries.map((e) =>
              'expression' in e
                ? { permit: e.permit, pattern: e.expression }
                : { permit: e.permit, communities: inCommunityOrder(sort, e.communities) },
            ),
          },
    );
  return {
    prefixLists: lists.filter((l) => !sixes.has(l.name)).map(plain),
    ipv6PrefixLists: lists.filter((l) => sixes.has(l.name)).map(plain),
    communityLists: listsOf('standard'),
    largeCommunityLists: listsOf('large'),
    extendedCommunityLists: listsOf('extended'),
    asPathLists: policies.flatMap((p) => (p.is === 'path-list' ? { name: p.name, entries: p.entries } : [])),
    routeMaps: policies.flatMap((p) => (p.is === 'route-map' ? mapOf(p, { ipv6: sixes, of }) : [])),
  };
}
