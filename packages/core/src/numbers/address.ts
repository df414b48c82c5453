import ipaddr from 'ipaddr.js';
import { formatIpv4, parseIpv4, refusedPrefix, type Ipv4 } from './ipv4.ts';

export type IpFamily = 4 | 6;

/** Bytes of a packet of IPv6 that every link carries (RFC 8200 §5); Linux takes IPv6 off an interface that carries less. */
export const LEAST_IPV6_MTU = 1280;

/** An address of either family: an unsigned number of 32 or 128 bits. */
export interface IpAddress {
  readonly family: IpFamily;
  readonly value: bigint;
}
/** An address with the length of its prefix. Host bits may be set: then it is that of an interface. */
export interface IpPrefix {
  readonly family: IpFamily;
  readonly address: bigint;
  readonly length: number;
}

const BITS: Readonly<Record<IpFamily, number>> = { 4: 32, 6: 128 };
export const bitsOf = (family: IpFamily): number => BITS[family];

const GROUPS = 8;
const GROUP = /^[0-9a-fA-F]{1,4}$/;
const NO_GROUPS: readonly string[] = [];
const groupsOf = (text: string): readonly string[] => (text === '' ? NO_GROUPS : text.split(':'));
/**
 * Groups of four hexadecimal digits with colons between, one row of which `::` stands for (RFC 4291 §2.2), as a number; null = it is
 * written otherwise. Fabrics have very many of them, and a library that knows every form takes twenty times as long.
 */
function parseGroups(text: string): bigint | null {
  const gap = text.indexOf('::');
  const left = groupsOf(gap < 0 ? text : text.slice(0, gap));
  const right = gap < 0 ? NO_GROUPS : groupsOf(text.slice(gap + 2));
  const missing = GROUPS - left.length - right.length;
  // The gap stands for one group at least.
  if (gap < 0 ? missing !== 0 : missing < 1) return null;
  let digits = '0x';
  for (const group of left) {
    if (!GROUP.test(group)) return null;
    digits += group.padStart(4, '0');
  }
  digits += '0000'.repeat(missing);
  for (const group of right) {
    if (!GROUP.test(group)) return null;
    digits += group.padStart(4, '0');
  }
  return BigInt(digits);
}
/** The same with a tail written as IPv4 is; no zone, no brackets. */
const WITH_TAIL = /^[0-9a-fA-F:]{2,39}[\d.]{7,15}$/;

/** An address of either family from text, or null. Leading zeros of IPv4 and zones of IPv6 are refused. */
export function parseAddress(text: string): IpAddress | null {
  const ipv4 = parseIpv4(text);
  if (ipv4 !== null) return { family: 4, value: BigInt(ipv4) };
  if (!text.includes(':')) return null;
  if (!text.includes('.')) {
    const value = parseGroups(text);
    return value === null ? null : { family: 6, value };
  }
  if (!WITH_TAIL.test(text) || !ipaddr.IPv6.isValid(text)) return null;
  // Its tail is an IPv4 address as we read them.
  if (parseIpv4(text.slice(text.lastIndexOf(':') + 1)) === null) return null;
  const value = ipaddr.IPv6.parse(text).parts.reduce((all, part) => (all << 16n) | BigInt(part), 0n);
  return { family: 6, value };
}

/** As text; IPv6 in the form of RFC 5952: small letters, no zeros in front, the first of the longest rows of zero groups left out. */
export function formatAddress({ family, value }: IpAddress): string {
  if (family === 4) return formatIpv4(Number(value));
  const digits = value.toString(16).padStart(4 * GROUPS, '0');
  const groups: string[] = [];
  /** The longest row of zeros so far: where it begins, and how many groups it has. */
  let [from, count] = [0, 1];
  let row = 0;
  for (let i = 0; i < GROUPS; i++) {
    const group = Number.parseInt(digits.slice(4 * i, 4 * i + 4), 16);
    groups.push(group.toString(16));
    row = group === 0 ? row + 1 : 0;
    if (row > count) [from, count] = [i - row + 1, row];
  }
  return count < 2 ? groups.join(':') : `${groups.slice(0, from).join(':')}::${groups.slice(from + count).join(':')}`;
}

/** `ADDRESS/LENGTH` of either family, host bits kept, or null. */
export function parseInterfaceAddress(text: string): IpPrefix | null {
  const slash = text.indexOf('/');
  const address = parseAddress(text.slice(0, slash < 0 ? 0 : slash));
  const said = text.slice(slash + 1);
  if (!address || !/^(0|[1-9]\d{0,2})$/.test(said)) return null;
  const length = Number(said);
  return length > bitsOf(address.family) ? null : { family: address.family, address: address.value, length };
}

/** The same without its host bits. */
export function networkOfPrefix({ family, address, length }: IpPrefix): IpPrefix {
  const hostBits = BigInt(bitsOf(family) - length);
  return { family, address: (address >> hostBits) << hostBits, length };
}

/** A prefix from text; null where it is none, or has host bits. */
export function parseNetwork(text: string): IpPrefix | null {
  const p = parseInterfaceAddress(text);
  return p && networkOfPrefix(p).address === p.address ? p : null;
}

export const formatNetwork = ({ family, address, length }: IpPrefix): string =>
  `${formatAddress({ family, value: address })}/${length}`;

/** Is `inner` the same as, or a part of, `outer`? Never across families. */
export const holds = (outer: IpPrefix, inner: IpPrefix): boolean =>
  outer.family === inner.family &&
  inner.length >= outer.length &&
  networkOfPrefix({ ...inner, length: outer.length }).address === networkOfPrefix(outer).address;

/** Do two prefixes have an address in common? */
export const overlap = (a: IpPrefix, b: IpPrefix): boolean => holds(a, b) || holds(b, a);

/** An address as the prefix that holds it alone; null = it is none. */
export function aloneIn(text: string): IpPrefix | null {
  const read = parseAddress(text);
  return read && { family: read.family, address: read.value, length: bitsOf(read.family) };
}
/** Is an address, of either family, in a prefix? */
export function holdsAddress(prefix: IpPrefix, text: string): boolean {
  const alone = aloneIn(text);
  return alone !== null && holds(prefix, alone);
}

/**
 * The two ends of a link of two addresses: /31 (RFC 3021) or /127 (RFC 6164).
 * @returns lower and upper address with their length; null where the prefix has not just two
 */
export function linkEnds(prefix: IpPrefix): readonly [lower: string, upper: string] | null {
  if (prefix.length !== bitsOf(prefix.family) - 1) return null;
  const { family, address, length } = networkOfPrefix(prefix);
  const end = (n: bigint): string => `${formatAddress({ family, value: address + n })}/${length}`;
  return [end(0n), end(1n)];
}

/** How many addresses lie in a prefix; of IPv6 as nearly as a number tells. */
export const addressesIn = ({ family, length }: IpPrefix): number => 2 ** (bitsOf(family) - length);

/** What of IPv6 no fabric and no tenant may have (RFC 4291): unspecified and loopback, IPv4-mapped, link-local, multicast. */
const REFUSED_IPV6: readonly (readonly [string, string])[] = [
  ['::/127', 'unspecified and loopback'],
  ['::ffff:0:0/96', 'IPv4-mapped'],
  ['fe80::/10', 'link-local'],
  ['ff00::/8', 'multicast'],
];

/** Why a prefix of either family cannot hold tenant or fabric addresses, or null. */
export function refusedNetwork(prefix: IpPrefix): string | null {
  if (prefix.family === 4) return refusedPrefix({ address: Number(prefix.address), length: prefix.length });
  const found = REFUSED_IPV6.find(([text]) => overlap(parseNetwork(text)!, prefix));
  return found ? `${found[0]} (${found[1]})` : null;
}

const MAPPED: IpPrefix = { family: 6, address: 0xffff_0000_0000n, length: 96 };
/** The address of IPv4 that one of IPv6 stands for (RFC 4291 §2.5.5.2), or null. */
export function mappedIpv4(text: string): Ipv4 | null {
  const address = parseAddress(text);
  return address?.family === 6 && holds(MAPPED, { family: 6, address: address.value, length: 128 })
    ? formatIpv4(Number(address.value & 0xffff_ffffn))
    : null;
}
