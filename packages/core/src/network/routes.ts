import type { RouteOrigin } from '../config/policy.ts';
import type { Ipv4 } from '../numbers/ipv4.ts';
import { type AnyPrefix } from '../numbers/prefix.ts';

/** What routes of BGP are of. */
export type Family = 'ipv4' | 'ipv6' | 'evpn';

/** An AS path (RFC 4271 §4.3), the last number added foremost. The same path is the same object. */
export interface AsPath {
  readonly as: number;
  readonly rest: AsPath | null;
  readonly length: number;
}

const byRest = new WeakMap<AsPath, Map<number, AsPath>>();
const single = new Map<number, AsPath>();
/** A path with a number put before it. */
export function prepended(as: number, rest: AsPath | null): AsPath {
  let known = single;
  if (rest) {
    known = byRest.get(rest) ?? new Map<number, AsPath>();
    byRest.set(rest, known);
  }
  let path = known.get(as);
  if (!path) known.set(as, (path = { as, rest, length: (rest?.length ?? 0) + 1 }));
  return path;
}
export const lengthOf = (path: AsPath | null): number => path?.length ?? 0;
/** How often a number stands in a path. */
export function countIn(path: AsPath | null, as: number): number {
  let n = 0;
  for (let at = path; at; at = at.rest) if (at.as === as) n++;
  return n;
}
/** Its numbers, the last added first. */
export function numbersOf(path: AsPath | null): number[] {
  const out: number[] = [];
  for (let at = path; at; at = at.rest) out.push(at.as);
  return out;
}
/** The path with one number in the place of another. */
export function replaced(path: AsPath | null, from: number, to: number): AsPath | null {
  if (path === null || countIn(path, from) === 0) return path;
  return prepended(path.as === from ? to : path.as, replaced(path.rest, from, to));
}

/** The path without some numbers, wherever they stand in it. */
export function withoutNumbers(path: AsPath | null, numbers: readonly number[]): AsPath | null {
  if (path === null) return null;
  const rest = withoutNumbers(path.rest, numbers);
  return numbers.includes(path.as) ? rest : rest === path.rest ? path : prepended(path.as, rest);
}

/** What is said of a route, and what policies look at and change. */
export interface Attributes {
  readonly path: AsPath | null;
  /** Sorted, one blank between two: `65000:70 no-export`. Empty = none. */
  readonly communities: string;
  /** Large ones in the same way (RFC 8092). */
  readonly large: string;
  /** Extended ones: `rt:64700:10 soo:64700:7` (RFC 4360). */
  readonly extended: string;
  readonly localPreference: number;
  /** RFC 4271 §5.1.4; absent counts as 0. */
  readonly med: number;
  readonly weight: number;
  readonly origin: RouteOrigin;
  readonly tag: number;
  /** Of a connected route, where. */
  readonly port: string | null;
  /** Next hop, of IPv4 where policies speak of it; null = the router itself, or nobody asks. */
  readonly nextHop: Ipv4 | null;
  /** What a map made of it, until it is told or taken: it gave that one; the neighbour is; it stays what it is. */
  readonly hopBy: 'address' | 'peer' | 'unchanged' | null;
}

/** Of routes that say none (RFC 4271 §9.1.1). */
export const LOCAL_PREFERENCE = 100;
/** What stands for a route that is announced by a line of the switch itself. */
export const OWN_WEIGHT = 32768;

/** What a switch says of a route of its own where no line says more. */
export const OWN_ATTRIBUTES: Attributes = {
  path: null,
  communities: '',
  large: '',
  extended: '',
  localPreference: LOCAL_PREFERENCE,
  med: 0,
  weight: OWN_WEIGHT,
  origin: 'incomplete',
  tag: 0,
  port: null,
  nextHop: null,
  hopBy: null,
};

/** The attributes with others in the place of some. */
export const withAttributes = (a: Attributes, changes: Partial<Attributes>): Attributes => ({ ...a, ...changes });

export const sameAttributes = (a: Attributes, b: Attributes): boolean =>
  a === b ||
  (a.path === b.path &&
    a.communities === b.communities &&
    a.large === b.large &&
    a.extended === b.extended &&
    a.localPreference === b.localPreference &&
    a.med === b.med &&
    a.weight === b.weight &&
    a.origin === b.origin &&
    a.tag === b.tag &&
    a.nextHop === b.nextHop &&
    a.hopBy === b.hopBy);

/** A community list of a route as words. */
export const communitiesOf = (communities: string): string[] => (communities === '' ? [] : communities.split(' '));
/** Words as a community list of a route. */
export const communityWords = (words: readonly string[]): string => [...new Set(words)].sort().join(' ');
export const hasCommunity = (communities: string, word: string): boolean =>
  communities !== '' && communitiesOf(communities).includes(word);

/** What lets a route through, changed or not; null = it does not. */
export type Policy = (route: Attributes, prefix: AnyPrefix) => Attributes | null;
