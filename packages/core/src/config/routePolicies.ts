import { policyKey, type RouteMapEntrySaid, type RoutePolicy } from '../intent/policies.ts';
import { inCommunityOrder, inLargeOrder, isCommunity, isLargeCommunity } from '../numbers/community.ts';
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

/** Which lists are of another sort than the usual one: IPv6, large communities. */
interface Sorts {
  readonly ipv6: ReadonlySet<string>;
  readonly large: ReadonlySet<string>;
}

function matchOf({ match = {} }: RouteMapEntrySaid, { large }: Sorts): RouteMatch | undefined {
  const { communities, exactly, path, prefixes: _, ...rest } = match;
  const made: RouteMatch = {
    ...rest,
    ...(communities === undefined
      ? {}
      : { [large.has(communities) ? 'largeCommunity' : 'community']: { list: communities, exact: exactly === true } }),
    ...(path === undefined ? {} : { asPath: path }),
  };
  return Object.keys(made).length === 0 ? undefined : made;
}
/** Of standard and of large communities each what is said of it; where it is to have none, it has none of both. */
function setOf({ set }: RouteMapEntrySaid, { large }: Sorts): RouteSet | undefined {
  if (set === undefined || Object.keys(set).length === 0) return undefined;
  const { communities, additive, withoutCommunities: without, ...rest } = set;
  const [plain, larger] = [isCommunity, isLargeCommunity].map((is) => (communities ?? []).filter(is));
  const none = communities?.length === 0;
  return {
    ...rest,
    ...(none || plain!.length > 0 ? { communities: inCommunityOrder(plain!) } : {}),
    ...(none || larger!.length > 0 ? { largeCommunities: inLargeOrder(larger!) } : {}),
    ...(additive && plain!.length > 0 ? { additive } : {}),
    ...(additive && larger!.length > 0 ? { largeAdditive: additive } : {}),
    ...(without === undefined ? {} : { [large.has(without) ? 'withoutLarge' : 'withoutCommunities']: without }),
  };
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
  const isLarge = ({ entries }: CommunityList): boolean => isLargeCommunity(entries[0]!.communities[0]!);
  const large = new Set(marks.filter(isLarge).map((l) => l.name));
  const ordered = ({ name, entries }: CommunityList): CommunityList => ({
    name,
    entries: entries.map(({ permit, communities }) => ({
      permit,
      communities: (large.has(name) ? inLargeOrder : inCommunityOrder)(communities),
    })),
  });
  return {
    prefixLists: lists.filter((l) => !sixes.has(l.name)).map(plain),
    ipv6PrefixLists: lists.filter((l) => sixes.has(l.name)).map(plain),
    communityLists: marks.filter((l) => !large.has(l.name)).map(ordered),
    largeCommunityLists: marks.filter((l) => large.has(l.name)).map(ordered),
    asPathLists: policies.flatMap((p) => (p.is === 'path-list' ? { name: p.name, entries: p.entries } : [])),
    routeMaps: policies.flatMap((p) => (p.is === 'route-map' ? mapOf(p, { ipv6: sixes, large }) : [])),
  };
}
