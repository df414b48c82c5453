import type { BridgeConfig } from '../../config/bridging.ts';
import type { LagConfig, SviConfig } from '../../config/interfaces.ts';
import type { VxlanConfig } from '../../config/overlay.ts';
import { naturally } from '../../numbers/order.ts';

/** What devices are called on a switch of this dialect, where the text does not say otherwise. */
export const lagName = (l: Pick<LagConfig, 'number' | 'called'>): string => l.called ?? `bond${l.number}`;
export const vxlanName = (v: Pick<VxlanConfig, 'vni' | 'called'>): string => v.called ?? `vni${v.vni}`;
export const sviName = (s: Pick<SviConfig, 'vlan' | 'called'>): string => s.called ?? `vlan${s.vlan}`;
export const bridgeName = (b: Pick<BridgeConfig, 'called'>): string => b.called ?? 'bridge';

/** A key of a list as the name of what it is of: numbers are what the dialect names, other words are names. */
const isNumber = (key: string): boolean => /^\d+$/.test(key);
const nameOfLag = (key: string): string => lagName(isNumber(key) ? { number: Number(key) } : { called: key });
const nameOfVxlan = (key: string): string =>
  isNumber(key) ? vxlanName({ vni: Number(key) }) : vxlanName({ vni: 0, called: key });
/** Names of all devices in a bridge, in their natural order. */
export function bridgeMembers(b: BridgeConfig): string[] {
  const lists = [b.lags.map(nameOfLag), b.ports, b.vxlans.map(nameOfVxlan)].filter((l) => l.length > 0);
  const all = lists.flat();
  // Each list is in order by itself where all names are the dialect’s, and mostly one follows the other.
  const named = [...b.lags, ...b.vxlans].every(isNumber);
  const follow = lists.every((l, i) => i === 0 || naturally(lists[i - 1]!.at(-1)!, l[0]!) < 0);
  return named && follow ? all : all.sort(naturally);
}

/** The other way: what a name says of what it names. */
export const readLagName = (name: string): Pick<LagConfig, 'number' | 'called'> => {
  const number = /^bond(0|[1-9]\d*)$/.exec(name)?.[1];
  return number === undefined ? { called: name } : { number: Number(number) };
};
