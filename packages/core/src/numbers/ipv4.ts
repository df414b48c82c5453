/** An IPv4 address as text, dotted quad. */
export type Ipv4 = string;
/** Address with prefix length, e.g. `10.1.1.0/31`. Host bits may be set (an interface address). */
export type Cidr = string;

export interface Prefix {
  /** Address as an unsigned 32-bit number; host bits are zero in a network prefix. */
  readonly address: number;
  readonly length: number;
}

/** Dotted quad → unsigned 32-bit number, or null when it is no IPv4 address. Leading zeros are refused. */
export function parseIpv4(text: string): number | null {
  let [value, octet, digits, dots] = [0, 0, 0, 0];
  for (let i = 0; i < text.length; i++) {
    const c = text.charCodeAt(i);
    if (c === DOT) {
      if (digits === 0 || ++dots > 3) return null;
      value = value * 256 + octet;
      octet = digits = 0;
    } else {
      const digit = c - ZERO;
      if (digit < 0 || digit > 9 || (digits > 0 && octet === 0)) return null;
      octet = octet * 10 + digit;
      digits++;
      if (octet > 255) return null;
    }
  }
  return dots === 3 && digits > 0 ? value * 256 + octet : null;
}
const [DOT, ZERO] = [46, 48];

/** Unsigned 32-bit number → dotted quad. */
export function formatIpv4(value: number): Ipv4 {
  return `${value >>> 24}.${(value >>> 16) & 255}.${(value >>> 8) & 255}.${value & 255}`;
}

/** Number of addresses in a prefix of this length. */
export const prefixSize = (length: number): number => 2 ** (32 - length);

/** Clears the host bits. */
export const networkOf = (address: number, length: number): number => {
  const size = prefixSize(length);
  return address - (address % size);
};

/** `a.b.c.d/len` → address and length (host bits kept), or null. */
export function parseCidr(text: string): Prefix | null {
  const slash = text.indexOf('/');
  if (slash < 0) return null;
  const address = parseIpv4(text.slice(0, slash));
  const lengthText = text.slice(slash + 1);
  if (address === null || !/^\d{1,2}$/.test(lengthText)) return null;
  const length = Number(lengthText);
  return length > 32 ? null : { address, length };
}

/** As parseCidr, but null unless the host bits are zero. */
export function parsePrefix(text: string): Prefix | null {
  const cidr = parseCidr(text);
  return cidr && networkOf(cidr.address, cidr.length) === cidr.address ? cidr : null;
}

/** The address of an interface address, without its length. */
export const hostPart = (cidr: Cidr): Ipv4 => cidr.slice(0, cidr.indexOf('/'));

export const formatPrefix = (p: Prefix): Cidr => `${formatIpv4(p.address)}/${p.length}`;

/** The prefix an interface address stands in. */
export const prefixOf = (c: Prefix): Prefix => ({ address: networkOf(c.address, c.length), length: c.length });

/** First and last address, inclusive. */
export const span = (p: Prefix): readonly [number, number] => [p.address, p.address + prefixSize(p.length) - 1];

export const overlaps = (a: Prefix, b: Prefix): boolean => {
  const [a0, a1] = span(a);
  const [b0, b1] = span(b);
  return a0 <= b1 && b0 <= a1;
};

/** Is `inner` the same as, or a part of, `outer`? */
export const contains = (outer: Prefix, inner: Prefix): boolean =>
  inner.length >= outer.length && networkOf(inner.address, outer.length) === outer.address;

/** Ranges that must never be a pool (RFC 1122, 3927, 5771): "this" network, loopback, link-local, multicast and up. */
const REFUSED: readonly (readonly [string, string])[] = [
  ['0.0.0.0/8', 'this network'],
  ['127.0.0.0/8', 'loopback'],
  ['169.254.0.0/16', 'link-local'],
  ['224.0.0.0/3', 'multicast and reserved'],
];

/** Why a prefix cannot hold tenant or fabric addresses, or null. */
export function refusedPrefix(p: Prefix): string | null {
  for (const [text, why] of REFUSED) {
    const refused = parsePrefix(text);
    if (refused && overlaps(refused, p)) return `${text} (${why})`;
  }
  return null;
}
