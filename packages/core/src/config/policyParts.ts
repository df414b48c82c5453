import type { PrefixListEntry, RouteOrigin } from '../intent/policies.ts';
import type { Asn } from '../numbers/asn.ts';
import type { Cidr, Ipv4 } from '../numbers/ipv4.ts';

export type { PrefixListEntry, RouteOrigin };

export interface PrefixList {
  readonly name: string;
  readonly entries: readonly PrefixListEntry[];
}
/**
 * An entry of an access list: prefixes within one, or that one alone; or, where it has a wildcard, all whose address is this one
 * but for the bits of that, of whatever length.
 */
export interface AccessListEntry {
  readonly seq: number;
  readonly permit: boolean;
  /** A prefix, or an address where there is a wildcard. */
  readonly prefix: Cidr;
  readonly exact?: true;
  /** Bits that do not count: `0.0.255.255`. */
  readonly wildcard?: Ipv4;
}
/** The first entry that a prefix meets decides, and what meets none is denied. */
export interface AccessList {
  readonly name: string;
  readonly entries: readonly AccessListEntry[];
}
/** Standard communities as they are written: `65000:70`, or a well-known word. */
export type Community = string;
/** An entry matches a route that has every one of its communities. */
export interface CommunityEntry {
  readonly permit: boolean;
  readonly communities: readonly Community[];
}
/**
 * It matches a route whose communities, in the order in which a daemon keeps them and with blanks between, are as the expression
 * says, in which `_` is a gap or an end; of a route without any, that is an empty line.
 */
export interface CommunityPattern {
  readonly permit: boolean;
  readonly pattern: string;
}
/** A list of one sort; all of its entries name communities, or all are expressions. */
export interface CommunityList {
  readonly name: string;
  readonly entries: readonly (CommunityEntry | CommunityPattern)[];
}
/** An entry matches a path as its regular expression does, in which `_` is a gap between numbers or an end. */
export interface AsPathList {
  readonly name: string;
  readonly entries: readonly { readonly permit: boolean; readonly pattern: string }[];
}

/** What else a route must be for an entry of a route map to speak of it; all must hold. */
export interface RouteMatch {
  readonly community?: { readonly list: string; readonly exact: boolean };
  /** The same of large communities (RFC 8092). */
  readonly largeCommunity?: { readonly list: string; readonly exact: boolean };
  /** Those of an entry of a list of extended communities (RFC 4360), and others beside them. */
  readonly extendedCommunity?: string;
  readonly asPath?: string;
  readonly metric?: number;
  readonly localPreference?: number;
  readonly tag?: number;
  readonly origin?: RouteOrigin;
  /** Of connected routes: where they are connected. */
  readonly interface?: string;
  /** Who it was heard from, by his address; `local` = the switch itself: of what it tells on, and of networks that it names. */
  readonly peer?: string;
  /** Where it leads, of IPv4: to an address that a list of prefixes, or an access list, lets through; or to that one. */
  readonly nextHops?: NextHopAsked;
}
export type NextHopAsked = { readonly list: string } | { readonly access: string } | { readonly address: Ipv4 };
/** What an entry of a route map does to a route that it lets through. */
export interface RouteSet {
  readonly localPreference?: number;
  readonly metric?: number;
  /** Added to the metric it has, or taken from it; never below 0. */
  readonly metricBy?: number;
  readonly weight?: number;
  readonly tag?: number;
  readonly origin?: RouteOrigin;
  /** Put before the path, the first foremost. */
  readonly prepend?: readonly Asn[];
  /** How often the first number of the path is put before it once more. */
  readonly prependFirst?: number;
  /** Taken out of the path, wherever they stand in it. */
  readonly exclude?: readonly Asn[];
  /** Empty = all are taken away. */
  readonly communities?: readonly Community[];
  /** Are they added to those it has? */
  readonly additive?: boolean;
  /** Those of this list are taken away. */
  readonly withoutCommunities?: string;
  /** The same of large ones: `64701:1:20`. */
  readonly largeCommunities?: readonly string[];
  readonly largeAdditive?: boolean;
  readonly withoutLarge?: string;
  /** Extended ones, always beside those it has: `soo:64700:7`; empty = all are taken away. */
  readonly extendedCommunities?: readonly string[];
  /** What its link carries, in Mb/s: by it load is shared where all ways say one. It is an extended community. */
  readonly bandwidth?: number;
  /** Where a route of IPv4 leads: to an address; to the neighbour it is told by, or is told to by us; to where it led before. */
  readonly nextHop?: Ipv4 | 'peer-address' | 'unchanged';
}
export interface RouteMapEntry {
  readonly seq: number;
  readonly permit: boolean;
  readonly matchPrefixList?: string;
  /** A list of IPv6 prefixes. */
  readonly matchIpv6PrefixList?: string;
  /** An access list. */
  readonly matchAccessList?: string;
  readonly matchIpv6AccessList?: string;
  readonly match?: RouteMatch;
  readonly set?: RouteSet;
  /** Another map that must let the route through too. */
  readonly call?: string;
  /** Goes on with the next entry, or with one of that number or above, where this one matches and permits. */
  readonly onMatch?: 'next' | number;
}
export interface RouteMap {
  readonly name: string;
  readonly entries: readonly RouteMapEntry[];
}
export interface PolicyPart {
  readonly prefixLists: readonly PrefixList[];
  /** Of IPv6, with names of their own; absent = none. */
  readonly ipv6PrefixLists?: readonly PrefixList[];
  readonly routeMaps: readonly RouteMap[];
  /** Absent = none. */
  readonly communityLists?: readonly CommunityList[];
  /** Of large communities, with names of their own. */
  readonly largeCommunityLists?: readonly CommunityList[];
  /** Of extended ones, with names of their own. */
  readonly extendedCommunityLists?: readonly CommunityList[];
  readonly asPathLists?: readonly AsPathList[];
  /** Absent = none. */
  readonly accessLists?: readonly AccessList[];
  /** Of IPv6, with names of their own. */
  readonly ipv6AccessLists?: readonly AccessList[];
}
