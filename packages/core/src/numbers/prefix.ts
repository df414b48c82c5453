import { formatNetwork, networkOfPrefix, parseAddress, parseInterfaceAddress, type IpFamily } from './address.ts';
import { contains, formatPrefix, parseCidr, parseIpv4, prefixOf, type Prefix } from './ipv4.ts';

/** A prefix of IPv6, its address an unsigned number of 128 bits. */
export interface Prefix6 {
  readonly address: bigint;
  readonly length: number;
}
/**
 * A prefix of either family, told apart by what its address is: fabrics have very many of IPv4, and plain numbers are
 * quick.
 */
export type AnyPrefix = Prefix | Prefix6;

const isIpv6 = (p: AnyPrefix): p is Prefix6 => typeof p.address === 'bigint';
export const familyOf = (p: AnyPrefix): IpFamily => (isIpv6(p) ? 6 : 4);
/** The family of an address or prefix as text, whether it is a sound one or not. */
export const familyOfText = (text: string): IpFamily => (text.includes(':') ? 6 : 4);

/** `ADDRESS/LENGTH` of either family, host bits kept, or null. */
export function parseAnyCidr(text: string): AnyPrefix | null {
  if (familyOfText(text) === 4) return parseCidr(text);
  const p = parseInterfaceAddress(text);
  return p && { address: p.address, length: p.length };
}
/** The same without its host bits. */
export function networkOfAny(p: AnyPrefix): AnyPrefix {
  if (!isIpv6(p)) return prefixOf(p);
  const { address, length } = networkOfPrefix({ family: 6, ...p });
  return { address, length };
}
/** A prefix from text; null where it is none, or has host bits. */
export function parseAnyPrefix(text: string): AnyPrefix | null {
  const p = parseAnyCidr(text);
  return p && networkOfAny(p).address === p.address ? p : null;
}
/** As text; IPv6 in the form of RFC 5952. */
export const formatAny = (p: AnyPrefix): string => (isIpv6(p) ? formatNetwork({ family: 6, ...p }) : formatPrefix(p));

/** The prefix that is one address, of either family; null = the text is none. */
export function hostPrefix(address: string): AnyPrefix | null {
  if (familyOfText(address) === 6) {
    const p = parseAddress(address);
    return p && { address: p.value, length: 128 };
  }
  const value = parseIpv4(address);
  return value === null ? null : { address: value, length: 32 };
}
/** Is it one address? */
export const isHost = (p: AnyPrefix): boolean => p.length === (isIpv6(p) ? 128 : 32);

/** Is `inner` the same as, or a part of, `outer`? Never across families. */
export function holdsAny(outer: AnyPrefix, inner: AnyPrefix): boolean {
  if (!isIpv6(outer)) return !isIpv6(inner) && contains(outer, inner);
  if (!isIpv6(inner) || inner.length < outer.length) return false;
  const apart = BigInt(128 - outer.length);
  return inner.address >> apart === outer.address >> apart;
}

/** Both ends of IPv6 addresses as one writes them: one, a prefix, or two with a dash between; null = they are none. */
export function ipv6Span(text: string): { readonly from: bigint; readonly to: bigint } | null {
  const [first, last, more] = text.split('-').map((t) => (t.includes('/') ? parseAnyCidr(t) : hostPrefix(t)));
  if (!first || !isIpv6(first) || more !== undefined) return null;
  if (last === undefined) {
    const from = networkOfAny(first).address as bigint;
    return { from, to: from + (1n << BigInt(128 - first.length)) - 1n };
  }
  if (last === null || !isIpv6(last) || !isHost(first) || !isHost(last) || first.address > last.address) return null;
  return { from: first.address, to: last.address };
}

/** Default routes of both families. */
export const EVERYTHING: Readonly<Record<IpFamily, AnyPrefix>> = {
  4: { address: 0, length: 0 },
  6: { address: 0n, length: 0 },
};

/** The same as text. */
export const DEFAULT_ROUTE: Readonly<Record<IpFamily, string>> = { 4: '0.0.0.0/0', 6: '::/0' };

const LINK_LOCAL: Prefix6 = { address: 0xfe80n << 112n, length: 10 };
/** An address of one link alone (RFC 4291 §2.5.6), of which no router tells others. */
export const isLinkLocal = (p: AnyPrefix): boolean => holdsAny(LINK_LOCAL, p);
