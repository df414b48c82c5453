import { asksAround } from '../config/drained.ts';
import { pairsOf, stillOver } from '../network/goneRound.ts';
import type { NetworkModel } from '../network/networkModel.ts';
import { naturally } from '../numbers/order.ts';
import type { ServerLeg } from './hanging.ts';
import type { WatchedSwitch } from './seen.ts';

/** How far a switch is drained that is meant to be. */
export interface DrainStand {
  readonly host: string;
  /** Does what it runs ask others to go round it? Null = it was not read. */
  readonly asks: boolean | null;
  /** Pairs of other switches that still go over it, by what all of them run; null = it was not looked at, with so many switches. */
  readonly stillOver: number | null;
  /** Servers that have an open port here and on no other switch that is not drained. */
  readonly serversAlone: readonly string[];
}

/** Legs on ports that are not meant to be shut: the others carry nobody. */
export function openLegs(
  servers: readonly ServerLeg[],
  byHost: ReadonlyMap<string, WatchedSwitch>,
): readonly ServerLeg[] {
  const shut = new Set(
    [...byHost.values()].flatMap(({ host, meant }) =>
      (meant?.ports ?? []).flatMap((p) => (p.shut ? `${host} ${p.name}` : [])),
    ),
  );
  return shut.size === 0 ? servers : servers.filter((leg) => !shut.has(`${leg.host} ${leg.port}`));
}

/**
 * The switches that are meant to be drained, with what still hangs on each.
 * @param runs the network of what all switches run
 */
export function drainStands(
  switches: readonly WatchedSwitch[],
  legs: readonly ServerLeg[],
  runs: NetworkModel,
): DrainStand[] {
  const drained = new Set(switches.flatMap((s) => (s.meant && asksAround(s.meant) ? s.host : [])));
  if (drained.size === 0) return [];
  const carried = new Set(legs.flatMap((leg) => (drained.has(leg.host) ? [] : leg.server)));
  return switches
    .filter((s) => drained.has(s.host))
    .map(({ host, runs: config }) => {
      const still = stillOver(runs, host);
      const alone = legs.flatMap((leg) => (leg.host === host && !carried.has(leg.server) ? leg.server : []));
      return {
        host,
        asks: config && asksAround(config),
        stillOver: still && pairsOf(still).size,
        serversAlone: [...new Set(alone)].sort(naturally),
      };
    });
}
