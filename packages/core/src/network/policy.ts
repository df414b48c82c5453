import type { NextHopAsked, RouteMap, RouteMapEntry, RouteMatch, RouteSet } from '../config/policy.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import type { IpFamily } from '../numbers/address.ts';
import { familyOf, hostPrefix, type AnyPrefix } from '../numbers/prefix.ts';
import { onceFor } from '../onceFor.ts';
import { permits, permits6, permitsAccess, permitsCommunities, permitsPath, withoutListed } from './policyLists.ts';
import {
  communitiesOf,
  communityWords,
  prepended,
  withAttributes,
  withoutNumbers,
  type AsPath,
  type Attributes,
  type Policy,
} from './routes.ts';

/**
 * Who a map is asked about, as `match peer` knows it: of what is heard the neighbour’s address; `local` of what a switch tells
 * on of its own tables, and of networks that it names; null = nobody (of what is told, leaks and aggregates, FRR 8.4.4).
 */
export type HeardFrom = string | null;

/** What stands for a route’s next hop where the router itself is, or its neighbour has no address. */
export const NO_HOP = '0.0.0.0';
/** Does a route lead to where it is asked to? One of IPv6 is in no list of addresses (FRR 8.4.4). */
function leadsTo(config: SwitchConfig, asked: NextHopAsked, { nextHop }: Attributes, prefix: AnyPrefix): boolean {
  if (familyOf(prefix) !== 4) return false;
  const hop = nextHop ?? NO_HOP;
  if ('address' in asked) return asked.address === hop;
  const alone = hostPrefix(hop)!;
  return 'list' in asked ? permits(config, asked.list, alone) : permitsAccess(config, 4, asked.access, alone);
}

function matches(config: SwitchConfig, m: RouteMatch, a: Attributes, from: HeardFrom, prefix: AnyPrefix): boolean {
  return (
    (m.community === undefined ||
      permitsCommunities(config, 'communityLists', m.community.list, a.communities, m.community.exact)) &&
    (m.largeCommunity === undefined ||
      permitsCommunities(config, 'largeCommunityLists', m.largeCommunity.list, a.large, m.largeCommunity.exact)) &&
    (m.asPath === undefined || permitsPath(config, m.asPath, a.path)) &&
    (m.metric === undefined || m.metric === a.med) &&
    (m.localPreference === undefined || m.localPreference === a.localPreference) &&
    (m.tag === undefined || m.tag === a.tag) &&
    (m.origin === undefined || m.origin === a.origin) &&
    (m.interface === undefined || m.interface === a.port) &&
    (m.extendedCommunity === undefined ||
      permitsCommunities(config, 'extendedCommunityLists', m.extendedCommunity, a.extended, false)) &&
    (m.peer === undefined || m.peer === from) &&
    (m.nextHops === undefined || leadsTo(config, m.nextHops, a, prefix))
  );
}

const MOST_METRIC = 4294967295;
/** What a path becomes, as a map says it. */
function pathBy(s: RouteSet, path: AsPath | null): AsPath | null {
  const left = s.exclude ? withoutNumbers(path, s.exclude) : path;
  let out = (s.prepend ?? []).reduceRight<AsPath | null>((p, as) => prepended(as, p), left);
  for (let n = 0; path && n < (s.prependFirst ?? 0); n++) out = prepended(path.as, out);
  return out;
}

/** Extended communities that a route has once it was given some: they are beside its own, and none takes all away. */
const extendedBy = (given: readonly string[], had: string): string =>
  given.length === 0 ? '' : communityWords([...communitiesOf(had), ...given]);

function hopSet(said: string): Pick<Attributes, 'hopBy'> & Partial<Pick<Attributes, 'nextHop'>> {
  if (said === 'unchanged') return { hopBy: 'unchanged' };
  return said === 'peer-address' ? { hopBy: 'peer' } : { hopBy: 'address', nextHop: said };
}

function applied(config: SwitchConfig, s: RouteSet, a: Attributes): Attributes {
  const had = s.additive ? communitiesOf(a.communities) : [];
  const hadLarge = s.largeAdditive ? communitiesOf(a.large) : [];
  return withAttributes(a, {
    ...(s.localPreference === undefined ? {} : { localPreference: s.localPreference }),
    ...(s.metric === undefined ? {} : { med: s.metric }),
    ...(s.metricBy === undefined ? {} : { med: Math.min(MOST_METRIC, Math.max(0, a.med + s.metricBy)) }),
    ...(s.weight === undefined ? {} : { weight: s.weight }),
    ...(s.tag === undefined ? {} : { tag: s.tag }),
    ...(s.origin === undefined ? {} : { origin: s.origin }),
    ...(s.communities === undefined ? {} : { communities: communityWords([...had, ...s.communities]) }),
    ...(s.withoutCommunities === undefined
      ? {}
      : { communities: withoutListed(config, 'communityLists', s.withoutCommunities, a.communities) }),
    ...(s.largeCommunities === undefined ? {} : { large: communityWords([...hadLarge, ...s.largeCommunities]) }),
    ...(s.withoutLarge === undefined
      ? {}
      : { large: withoutListed(config, 'largeCommunityLists', s.withoutLarge, a.large) }),
    ...(s.extendedCommunities === undefined ? {} : { extended: extendedBy(s.extendedCommunities, a.extended) }),
    ...(s.nextHop === undefined ? {} : hopSet(s.nextHop)),
    ...((s.prepend ?? s.prependFirst ?? s.exclude) === undefined ? {} : { path: pathBy(s, a.path) }),
  });
}

/**
 * How many maps may ask one another: more is a circle. Seen on FRR 8.4.4: it gives up after ten and denies, so that of a
 * circle nothing gets through; of a row that is longer than that only the first route is lost.
 */
const MOST_CALLS = 32;

/** Does a route match an entry? */
const speaksOf = (
  config: SwitchConfig,
  e: RouteMapEntry,
  prefix: AnyPrefix,
  at: Attributes,
  from: HeardFrom,
): boolean =>
  (e.matchPrefixList === undefined || permits(config, e.matchPrefixList, prefix)) &&
  (e.matchIpv6PrefixList === undefined || permits6(config, e.matchIpv6PrefixList, prefix)) &&
  (e.matchAccessList === undefined || permitsAccess(config, 4, e.matchAccessList, prefix)) &&
  (e.matchIpv6AccessList === undefined || permitsAccess(config, 6, e.matchIpv6AccessList, prefix)) &&
  (!e.match || matches(config, e.match, at, from, prefix));

/**
 * What becomes of a route in a map, entry by entry as FRR 8.4 goes: the first entry that matches decides, unless it says
 * to go on; a map it calls must let the route through too. The end of a map denies what the entry before did not match.
 */
function walk(
  config: SwitchConfig,
  map: RouteMap,
  prefix: AnyPrefix,
  route: Attributes,
  from: HeardFrom,
  calls: number,
): Attributes | null {
  let at = route;
  let permitted = false;
  const { entries } = map;
  for (let i = 0; i < entries.length; i++) {
    const e: RouteMapEntry = entries[i]!;
    // Where the last one that is asked does not match, it counts for nothing that one before has permitted (FRR 8.4.4).
    permitted = speaksOf(config, e, prefix, at, from);
    if (!permitted) continue;
    if (!e.permit) return null;
    if (e.set) at = applied(config, e.set, at);
    const called = e.call === undefined ? undefined : mapsOf(config).get(e.call);
    if (called) {
      if (calls === 0) return null;
      const let_ = walk(config, called, prefix, at, from, calls - 1);
      if (let_ === null) return null;
      at = let_;
    }
    const { onMatch } = e;
    if (onMatch === undefined) return at;
    if (onMatch !== 'next') {
      const to = entries.findIndex((x) => x.seq >= onMatch);
      if (to < 0) return at;
      i = to - 1;
    }
  }
  return permitted ? at : null;
}
const mapsOf = onceFor(({ routeMaps }: SwitchConfig) => new Map(routeMaps.map((m) => [m.name, m])));

/** A route map as a policy, asked of what is heard from somebody; an undefined map lets nothing through. */
export function mapPolicy(config: SwitchConfig, mapName: string, from: HeardFrom = null): Policy {
  const map = mapsOf(config).get(mapName);
  return (route, prefix) => (map ? walk(config, map, prefix, route, from, MOST_CALLS) : null);
}

/** What a neighbour’s filters and map let through one way, one after the other; null = everything, as it is. */
export function peerPolicy(
  config: SwitchConfig,
  family: IpFamily,
  said: { readonly list?: string; readonly access?: string; readonly asPath?: string; readonly map?: string },
  from: HeardFrom = null,
): Policy | null {
  const { list, access, asPath, map } = said;
  if ([list, access, asPath, map].every((name) => name === undefined)) return null;
  const asked = family === 4 ? permits : permits6;
  const then = map === undefined ? null : mapPolicy(config, map, from);
  return (route, prefix) => {
    if (list !== undefined && !asked(config, list, prefix)) return null;
    if (access !== undefined && !permitsAccess(config, family, access, prefix)) return null;
    if (asPath !== undefined && !permitsPath(config, asPath, route.path)) return null;
    return then ? then(route, prefix) : route;
  };
}
