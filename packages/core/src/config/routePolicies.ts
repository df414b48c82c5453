import { policyKey, type RouteMapEntrySaid, type RoutePolicy } from '../intent/policies.ts';
import { inCommunityOrder } from '../numbers/community.ts';
import { naturally } from '../numbers/order.ts';
import { familyOfText } from '../numbers/prefix.ts';
import type { PolicyPart, PrefixList, RouteMap, RouteMapEntry, RouteMatch, RouteSet } from './policyParts.ts';
import type { SeatNeighbour } from './seatNeighbours.ts';

/** What neighbours outside use of the fabric’s lists and maps, each once, in the order of their names. */
export function policiesFor(neighbours: readonly SeatNeighbour[]): readonly RoutePolicy[] {
  const all = new Map(neighbours.flatMap((n) => n.policies.map((p) => [policyKey(p), p] as const)));
  return [...all.values()].sort((a, b) => naturally(a.name, b.name));
}

function matchOf({ match = {} }: RouteMapEntrySaid): RouteMatch | undefined {
  const { communities, exactly, path, prefixes: _, ...rest } = match;
  const made: RouteMatch = {
    ...rest,
    ...(communities === undefined ? {} : { community: { list: communities, exact: exactly === true } }),
    ...(path === undefined ? {} : { asPath: path }),
  };
  return Object.keys(made).length === 0 ? undefined : made;
}
function setOf({ set }: RouteMapEntrySaid): RouteSet | undefined {
  if (set === undefined || Object.keys(set).length === 0) return undefined;
  return set.communities === undefined ? set : { ...set, communities: inCommunityOrder(set.communities) };
}

/** A map of the fabric as a switch has it; a list of prefixes is asked for by its family. */
function mapOf(
  { name, entries }: Extract<RoutePolicy, { readonly is: 'route-map' }>,
  isIpv6: (list: string) => boolean,
): RouteMap {
  return {
    name,
    entries: entries.map((e): RouteMapEntry => {
      const [list, match, set] = [e.match?.prefixes, matchOf(e), setOf(e)];
      const onMatch = e.next === true ? 'next' : e.goTo;
      return {
        seq: e.seq,
        permit: e.permit,
        ...(list === undefined ? {} : isIpv6(list) ? { matchIpv6PrefixList: list } : { matchPrefixList: list }),
        ...(match === undefined ? {} : { match }),
        ...(set === undefined ? {} : { set }),
        ...(e.call === undefined ? {} : { call: e.call }),
        ...(onMatch === undefined ? {} : { onMatch }),
      };
    }),
  };
}

/** The lists and maps of a fabric as a switch has them. */
export function partsOf(policies: readonly RoutePolicy[]): Required<PolicyPart> {
  const lists = policies.flatMap((p) => (p.is === 'prefix-list' ? p : []));
  const isIpv6 = ({ entries }: Pick<PrefixList, 'entries'>): boolean => familyOfText(entries[0]!.prefix) === 6;
  const sixes = new Set(lists.filter(isIpv6).map((l) => l.name));
  const plain = ({ name, entries }: PrefixList): PrefixList => ({ name, entries });
  return {
    prefixLists: lists.filter((l) => !sixes.has(l.name)).map(plain),
    ipv6PrefixLists: lists.filter((l) => sixes.has(l.name)).map(plain),
    communityLists: policies.flatMap((p) =>
      p.is === 'community-list'
        ? {
            name: p.name,
            entries: p.entries.map((e) => ({ permit: e.permit, communities: inCommunityOrder(e.communities) })),
          }
        : [],
    ),
    asPathLists: policies.flatMap((p) => (p.is === 'path-list' ? { name: p.name, entries: p.entries } : [])),
    routeMaps: policies.flatMap((p) => (p.is === 'route-map' ? mapOf(p, (name) => sixes.has(name)) : [])),
  };
}
