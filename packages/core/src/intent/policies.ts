import type { Asn } from '../numbers/asn.ts';
import { communitySort, type CommunitySort } from '../numbers/community.ts';
import type { Cidr, Ipv4 } from '../numbers/ipv4.ts';
import type { Vrf } from './intent.ts';

/** How a route came about (RFC 4271 §5.1.1). */
export type RouteOrigin = 'igp' | 'egp' | 'incomplete';

/** Prefixes of one family: the first entry that a prefix meets decides, and what meets none is denied. */
export interface PrefixListEntry {
  readonly seq: number;
  readonly permit: boolean;
  readonly prefix: Cidr;
  /** Shortest and longest length within the prefix; neither = just the prefix. */
  readonly ge?: number;
  readonly le?: number;
}
/** A route meets it that has all of these communities, and others or not. */
export interface CommunityEntrySaid {
  readonly permit: boolean;
  /** Standard communities (RFC 1997), large ones (RFC 8092) or extended ones (RFC 4360); a list is of one sort. */
  readonly communities: readonly string[];
}
/** A route meets it whose communities of a sort, in one line, are as the expression says. */
export interface CommunityExpressionSaid {
  readonly permit: boolean;
  /** A regular expression, in which `_` is a gap between communities or an end. */
  readonly expression: string;
  /** It is about large communities; absent = about standard ones. */
  readonly large?: true;
}
export interface PathEntrySaid {
  readonly permit: boolean;
  /** A regular expression over the AS numbers of a path, in which `_` is a gap between them or an end. */
  readonly pattern: string;
}

/** What a route must be for an entry to speak of it: all that is said must hold. */
export interface PolicyMatch {
  /** Name of a prefix list, of either family. */
  readonly prefixes?: string;
  /** Name of a community list. */
  readonly communities?: string;
  /** It has those of an entry of that list, and no others. */
  readonly exactly?: true;
  /** Name of an AS path list. */
  readonly path?: string;
  readonly origin?: RouteOrigin;
  readonly metric?: number;
  readonly localPreference?: number;
  /** That of a static route, on the switches that say it: sessions carry none. */
  readonly tag?: number;
  /** Address of a router outside that it was heard from. */
  readonly peer?: string;
  /** Name of a prefix list of IPv4 that its next hop is in; 0.0.0.0 is the switch itself. */
  readonly nextHops?: string;
}
/** Tags up to this one are those by which texts of ours tell routes apart; people choose others. */
export const LAST_OWN_TAG = 9;
/** What an entry makes of a route that it permits. */
export interface PolicySet {
  readonly localPreference?: number;
  readonly metric?: number;
  /** Added to the metric it has; below 0, taken from it. */
  readonly metricBy?: number;
  readonly weight?: number;
  readonly origin?: RouteOrigin;
  /** Put before the path, the first foremost. */
  readonly prepend?: readonly Asn[];
  /** How often the first number of the path is put before it once more. */
  readonly prependFirst?: number;
  /** Taken out of the path, wherever they stand in it. */
  readonly exclude?: readonly Asn[];
  /** In place of those of their sort that it has, extended ones beside them; empty = none of any. */
  readonly communities?: readonly string[];
  /** They are added to those it has. */
  readonly additive?: true;
  /** Name of a community list whose communities are taken away. */
  readonly withoutCommunities?: string;
  /** What its link carries, in Mb/s: load is shared by it where all ways say one. */
  readonly bandwidth?: number;
  /** Where a route of IPv4 leads: to an address next door, to the neighbour who tells it (or is told, to us), or to where it led. */
  readonly nextHop?: Ipv4 | 'neighbour' | 'unchanged';
}
export interface RouteMapEntrySaid {
  readonly seq: number;
  readonly permit: boolean;
  readonly match?: PolicyMatch;
  readonly set?: PolicySet;
  /** Name of another route map that has to permit the route too. */
  readonly call?: string;
  /** Where it permits, the next entry is asked as well … */
  readonly next?: true;
  /** … or the one of this number, or the first above it. */
  readonly goTo?: number;
}

interface Named<Is extends string, Entry> {
  readonly is: Is;
  /** No other of its kind has it. */
  readonly name: string;
  readonly entries: readonly Entry[];
}
export type PrefixListSaid = Named<'prefix-list', PrefixListEntry>;
/** All of its entries name communities, or all are expressions. */
export type CommunityListSaid = Named<'community-list', CommunityEntrySaid | CommunityExpressionSaid>;
/** The sort of communities that a list is about: its entries are all of one. */
export function sortOfList({ entries }: Pick<CommunityListSaid, 'entries'>): CommunitySort {
  const [first] = entries as readonly [CommunityEntrySaid | CommunityExpressionSaid];
  if ('expression' in first) return first.large ? 'large' : 'standard';
  return communitySort(first.communities[0]!) ?? 'standard';
}
export type PathListSaid = Named<'path-list', PathEntrySaid>;
export type RouteMapSaid = Named<'route-map', RouteMapEntrySaid>;
/**
 * A list, or a route map, that is said once for a fabric and used by its name. A switch has those that its sessions with
 * routers outside use.
 */
export type RoutePolicy = PrefixListSaid | CommunityListSaid | PathListSaid | RouteMapSaid;

export const POLICY_KINDS = ['prefix-list', 'community-list', 'path-list', 'route-map'] as const;
export type PolicyIs = RoutePolicy['is'];
/** What people call one. */
export const POLICY_WORDS: Readonly<Record<PolicyIs, string>> = {
  'prefix-list': 'prefix list',
  'community-list': 'community list',
  'path-list': 'AS path list',
  'route-map': 'route map',
};

/** `route-map.far-exit`: kinds have names of their own. */
export const policyKey = ({ is, name }: Pick<RoutePolicy, 'is' | 'name'>): string => `${is}.${name}`;
/** The kind and name of a key. */
export function policyOfKey(key: string): Pick<RoutePolicy, 'is' | 'name'> {
  const at = key.indexOf('.');
  return { is: key.slice(0, at) as PolicyIs, name: key.slice(at + 1) };
}

/** Names of the route maps that a tenant goes through. */
export const mapsOfVrf = ({ connectedMap, staticMap }: Pick<Vrf, 'connectedMap' | 'staticMap'>): string[] =>
  [connectedMap, staticMap].filter((name): name is string => name !== undefined);

/** What a policy names: lists and maps, by key. */
export const policiesNamed = (policy: RoutePolicy): string[] =>
  policy.is !== 'route-map'
    ? []
    : policy.entries.flatMap(({ match, set, call }) =>
        (
          [
            ['prefix-list', match?.prefixes],
            ['prefix-list', match?.nextHops],
            ['community-list', match?.communities],
            ['community-list', set?.withoutCommunities],
            ['path-list', match?.path],
            ['route-map', call],
          ] as const
        ).flatMap(([is, name]) => (name === undefined ? [] : policyKey({ is, name }))),
      );

/**
 * Some policies with all that they name, all the way down, each after what it names; what is not there is left out, and a
 * circle ends where it began.
 */
export function policiesBehind(all: readonly RoutePolicy[], keys: readonly string[]): RoutePolicy[] {
  const byKey = new Map(all.map((p) => [policyKey(p), p]));
  const out = new Map<string, RoutePolicy>();
  const begun = new Set<string>();
  const take = (key: string): void => {
    const policy = byKey.get(key);
    if (!policy || begun.has(key)) return;
    begun.add(key);
    for (const named of policiesNamed(policy)) take(named);
    out.set(key, policy);
  };
  for (const key of keys) take(key);
  return [...out.values()];
}
