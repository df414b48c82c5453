import { parseInterfaceAddress } from '../../numbers/address.ts';
import { parseCidr } from '../../numbers/ipv4.ts';
import { harmless, type Harmless } from './blocks.ts';
import { word, type Word } from './stanzas.ts';

/** A whole number between two bounds, or null. */
export function whole(text: string | undefined, from: number, to: number): number | null {
  if (text === undefined || text.length === 0 || text.length > 10) return null;
  let n = 0;
  for (let i = 0; i < text.length; i++) {
    const digit = text.charCodeAt(i) - 48;
    if (digit < 0 || digit > 9) return null;
    n = n * 10 + digit;
  }
  return n >= from && n <= to ? n : null;
}

/** Words that several kinds of interface have alike. */
export const mtuWord = <T extends { mtu?: number }>(): Word<T> =>
  word('mtu', (item, value) => {
    const n = whole(value, 68, 65535);
    if (n === null) return 'an MTU is 68–65535';
    item.mtu = n;
    return null;
  });
export const aliasWord = <T extends { description?: string }>(): Word<T> =>
  word('description', (item, value) => {
    item.description = value;
    return null;
  });

/** The address of a line, which may say more behind it; null = it is none. */
export function addressOf(value: string): string | null {
  const first = value.split(/\s+/)[0]!;
  return parseCidr(first) ? first : null;
}
/** Why the value of an address line is not taken. */
export const noAddress = (value: string): string | Harmless =>
  parseInterfaceAddress(value.split(/\s+/)[0]!)?.family === 6
    ? harmless('of IPv6 nothing is computed')
    : 'it is not an address with its length';
export const vrfWord = <T extends { vrf?: string }>(): Word<T> =>
  word('vrf', (item, value) => {
    item.vrf = value;
    return null;
  });
