import { lookup } from 'node:dns/promises';
import { BlockList, isIP } from 'node:net';
import { SwitchTrouble } from './driver.ts';

/** A range has at least so many bits: wider ones hold half the world. */
const FEWEST_BITS = { 4: 8, 6: 16 } as const;

/** Why a text is no range of management addresses, or null. */
export function rangeTrouble(text: string): string | null {
  const [net = '', bits = ''] = text.split('/');
  const family = isIP(net) as 0 | 4 | 6;
  if (family === 0 || !/^\d{1,3}$/.test(bits) || Number(bits) > (family === 4 ? 32 : 128))
    return 'a range is written 10.99.0.0/24';
  return Number(bits) < FEWEST_BITS[family]
    ? `a range of /${bits} is too wide: what is sent there must be your own network`
    : null;
}

const listOf = (ranges: readonly string[]): BlockList => {
  const list = new BlockList();
  for (const r of ranges) {
    const [net = '', bits = ''] = r.split('/');
    list.addSubnet(net, Number(bits), isIP(net) === 4 ? 'ipv4' : 'ipv6');
  }
  return list;
};
export const within = (address: string, ranges: readonly string[]): boolean =>
  listOf(ranges).check(address, isIP(address) === 4 ? 'ipv4' : 'ipv6');

/** Does a range lie within one of others? */
export const insideOf = (range: string, others: readonly string[]): boolean => {
  const [net = '', bits = ''] = range.split('/');
  return others.some((o) => Number(o.split('/')[1]) <= Number(bits) && within(net, [o]));
};

/** Length of the longest range that holds an address; -1 = none does. */
export const fitOf = (address: string, ranges: readonly string[]): number =>
  Math.max(-1, ...ranges.filter((r) => within(address, [r])).map((r) => Number(r.split('/')[1])));

/** The addresses a switch's address or host name stands for now. */
export async function addressesOf(name: string): Promise<string[]> {
  if (isIP(name) !== 0) return [name];
  try {
    return (await lookup(name, { all: true })).map((a) => a.address);
  } catch {
    throw new SwitchTrouble(`the host name ${name} has no address`);
  }
}
