import type { BridgeConfig } from '../../config/bridging.ts';
import type { LagConfig, SviConfig } from '../../config/interfaces.ts';
import type { VxlanConfig } from '../../config/overlay.ts';
import { PORT_NAMING } from '../../hardware/dialects.ts';
import { naturally } from '../../numbers/order.ts';
import { onceFor } from '../../onceFor.ts';
import { isPlain } from './sheet.ts';

/** What devices are called on a switch of this dialect, where the text does not say otherwise. */
export const lagName = (l: Pick<LagConfig, 'number' | 'called'>): string =>
  l.called ?? PORT_NAMING.linux.lag(l.number!);
export const vxlanName = (v: Pick<VxlanConfig, 'vni' | 'called'>): string => v.called ?? `vni${v.vni}`;
export const sviName = (s: Pick<SviConfig, 'vlan' | 'called'>): string => s.called ?? `vlan${s.vlan}`;
export const bridgeName = (b: Pick<BridgeConfig, 'called'>): string => b.called ?? 'bridge';

/** A key of a list as the name of what it is of: numbers are what the dialect names, other words are names. */
const isNumber = (key: string): boolean => /^\d+$/.test(key);
const nameOfLag = (key: string): string => lagName(isNumber(key) ? { number: Number(key) } : { called: key });
const nameOfVxlan = (key: string): string =>
  isNumber(key) ? vxlanName({ vni: Number(key) }) : vxlanName({ vni: 0, called: key });
/** Names of the VXLAN interfaces of a list of keys, and whether all are the dialect’s; switches share such lists. */
const vxlanNames = onceFor((keys: readonly string[]) => {
  const names = keys.map(nameOfVxlan);
  return { names, words: names.join(' '), ours: keys.every(isNumber) };
});
/** Names of a bridge’s devices in lists; `inOrder`: one follows the other as they stand, and all names are the dialect’s. */
function memberLists(b: BridgeConfig) {
  const vxlans = vxlanNames(b.vxlans);
  const lists = [b.lags.map(nameOfLag), b.ports, vxlans.names].filter((l) => l.length > 0);
  // Each list is in order by itself where all names are the dialect’s, and mostly one follows the other.
  const ours = vxlans.ours && b.lags.every(isNumber);
  const inOrder = ours && lists.every((l, i) => i === 0 || naturally(lists[i - 1]!.at(-1)!, l[0]!) < 0);
  return { lists, ours, inOrder, vxlans };
}
/** Names of all devices in a bridge, in their natural order. */
export function bridgeMembers(b: BridgeConfig): readonly string[] {
  const { lists, inOrder } = memberLists(b);
  return inOrder ? lists.flat() : lists.flat().sort(naturally);
}
/** The same one after the other; `plain`: each of them is a word of letters, digits and marks. */
export function bridgeWords(b: BridgeConfig): { readonly words: string; readonly plain: boolean } {
  const { lists, ours, inOrder, vxlans } = memberLists(b);
  return {
    words: inOrder
      ? lists.map((l) => (l === vxlans.names ? vxlans.words : l.join(' '))).join(' ')
      : bridgeMembers(b).join(' '),
    plain: ours ? b.ports.every(isPlain) : lists.flat().every(isPlain),
  };
}

/** The other way: what a name says of what it names. */
export const readLagName = (name: string): Pick<LagConfig, 'number' | 'called'> => {
  const number = /^bond(0|[1-9]\d*)$/.exec(name)?.[1];
  return number === undefined ? { called: name } : { number: Number(number) };
};
