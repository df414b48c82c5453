import { asksAround } from '../config/drained.ts';
import type { IpFamily } from '../numbers/address.ts';
import { modelNetwork } from './modelNetwork.ts';
import type { NetworkModel } from './networkModel.ts';
import { underlay6Of } from './underlay6.ts';

/** Two switches of which one reaches the other in fewer ways, or in none, without a third. */
export interface StillOver {
  readonly from: string;
  readonly to: string;
  readonly family: IpFamily;
  /** Has it no other way at all? */
  readonly alone: boolean;
}

/** Each switch that asks costs a network without it: so many switches are modelled for that at most. */
const MOST_MODELLED = 1500;

/**
 * Who still goes over a switch in the underlay: of any two others those that have fewer equal ways to one another once
 * nothing is cabled to it. Ways that are not certain are left aside. Empty = the network is the same without it; null = there
 * are too many switches, or too many of them ask, to look at it.
 */
export function stillOver(model: NetworkModel, host: string): StillOver[] | null {
  const { switches, index, underlay } = model;
  const own = index.get(host);
  if (own === undefined) return [];
  const asking = switches.filter((s) => asksAround(s.config)).length;
  if (switches.length * Math.max(1, asking) > MOST_MODELLED) return null;
  const without = modelNetwork(
    switches,
    model.cables.filter(({ a, b }) => a.host !== host && b.host !== host),
  );
  const size = switches.length;
  const [rows6, left6] = [underlay6Of(model), underlay6Of(without)];
  const out: StillOver[] = [];
  for (let to = 0; to < size; to++) {
    if (to === own) continue;
    const [six, then6] = [rows6(to), left6(to)];
    for (let from = 0; from < size; from++) {
      if (from === own || from === to) continue;
      const say = (family: IpFamily, was: number, is: number): void => {
        if (is < was) out.push({ from: switches[from]!.host, to: switches[to]!.host, family, alone: is === 0 });
      };
      const at = to * size + from;
      if (!underlay.unsure?.[at] && !without.underlay.unsure?.[at])
        say(4, underlay.counts[at]!, without.underlay.counts[at]!);
      if (six) say(6, six[from]!, then6?.[from] ?? 0);
    }
  }
  return out;
}

/** The pairs of switches among them, whichever of the two goes to the other. */
export const pairsOf = (still: readonly StillOver[]): Set<string> =>
  new Set(still.map((s) => [s.from, s.to].sort().join(' ')));
