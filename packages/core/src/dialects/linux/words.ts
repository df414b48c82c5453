import { isNeat6 } from '../../numbers/address.ts';
import { familyOf, formatAny, isLinkLocal, parseAnyCidr } from '../../numbers/prefix.ts';
import { harmless } from './blocks.ts';
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

/** Adds the address of a line, which may say more behind it, to those of its family; or says why it is none. */
export function readAddress(value: string, ipv4: (address: string) => void, ipv6: (address: string) => void) {
  const first = value.split(/\s+/)[0]!;
  if (!first.startsWith('fe') && isNeat6(first)) {
    ipv6(first);
    return null;
  }
  const address = parseAnyCidr(first);
  if (!address) return 'it is not an address with its length';
  if (familyOf(address) === 4) ipv4(first);
  // Every interface has one of its link by itself, and no router tells others of it.
  else if (isLinkLocal(address)) return harmless('it is of one link alone');
  else ipv6(formatAny(address));
  return null;
}
export const vrfWord = <T extends { vrf?: string }>(): Word<T> =>
  word('vrf', (item, value) => {
    item.vrf = value;
    return null;
  });
