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

/** Hexadecimal groups and colons, with an IPv4 tail at most: no zone, no brackets (RFC 4291 §2.2). */
const IPV6_WORDS = /^[0-9a-fA-F:]{2,39}(?:[\d.]{7,15})?$/;
const GROUPS = 8;

/** The groups of an address of IPv6; null = it is none. Fabrics have very many: each is read once, not first asked whether it is one. */
function groupsOf(text: string): readonly number[] | null {
  if (!IPV6_WORDS.test(text)) return null;
  try {
    return ipaddr.IPv6.parse(text).parts;
  } catch {
    return null;
  }
}

/** An address of either family from text, or null. Leading zeros of IPv4 and zones of IPv6 are refused. */
export function parseAddress(text: string): IpAddress | null {
  const ipv4 = parseIpv4(text);
  if (ipv4 !== null) return { family: 4, value: BigInt(ipv4) };
  const groups = text.includes(':') ? groupsOf(text) : null;
  if (!groups) return null;
  // Its tail, where it has one, is an IPv4 address as we read them.
  if (text.includes('.') && parseIpv4(text.slice(text.lastIndexOf(':') + 1)) === null) return null;
  let digits = '0x';
  for (const group of groups) digits += group.toString(16).padStart(4, '0');
  return { family: 6, value: BigInt(digits) };
}

/** As text; IPv6 in the form of RFC 5952. */
export function formatAddress({ family, value }: IpAddress): string {
  if (family === 4) return formatIpv4(Number(value));
  const digits = value.toString(16).padStart(4 * GROUPS, '0');
  const groups: number[] = [];
  for (let at = 0; at < digits.length; at += 4) groups.push(Number.parseInt(digits.slice(at, at + 4), 16));
  return new ipaddr.IPv6(groups).toRFC5952String();
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

/** Up to three groups, `::`, and up to three more, none of them 0: no other zeros are as many as those left out. */
const NEAT =
  /^[1-9a-f][\da-f]{0,3}(?::[1-9a-f][\da-f]{0,3}){0,2}::[1-9a-f][\da-f]{0,3}(?::[1-9a-f][\da-f]{0,3}){0,2}\/(?:\d|[1-9]\d|1[01]\d|12[0-8])$/;
/**
 * Is a text seen at once to be `ADDRESS/LENGTH` of IPv6, written as it is written here? Most are, and need not be taken
 * apart; others may be as well.
 */
export const isNeat6 = (text: string): boolean => NEAT.test(text);

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
