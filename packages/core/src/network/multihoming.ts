import { PING, type Traffic } from './traffic.ts';
import { filtersAnywhere } from './filters.ts';
import { bothWays, oneWay, reachBy, type BothWays, type Reach } from './hostReach.ts';
import type { HostPort, NetworkModel } from './networkModel.ts';
import { forwardsFloods, halvesOf, segmentOfHost } from './segments.ts';

/** A switch that a server sends by, and one by which the other gets it. */
type Ends = readonly [HostPort, HostPort];
/** What two servers say to one another, by the ends that packets and answers take. */
export interface WayBetween {
  readonly asks: Ends;
  readonly tells: Ends;
  readonly both: BothWays;
}

/**
 * Ends of a server that packets of a switch go to: its own, or else all from which it has heard of it (RFC 7432 §8.4); where
 * there is none that works, each of them.
 */
function takenBy(model: NetworkModel, from: HostPort, halves: readonly HostPort[]): readonly HostPort[] {
  if (halves.length === 1) return halves;
  const fine = halves.filter((h) => oneWay(model, from, h).trouble === null);
  const own = fine.find((h) => h.switch === from.switch);
  if (own) return [own];
  return fine.length > 0 ? fine : halves;
}

/** Every way that packets between two servers may take, which have one switch or several: they send by any that is up. */
export function waysBetween(
  model: NetworkModel,
  a: HostPort,
  b: HostPort,
  traffic: Traffic = PING,
): readonly WayBetween[] {
  const [froms, tos] = [halvesOf(model, a), halvesOf(model, b)];
  const way = (asks: Ends, tells: Ends): WayBetween => ({
    asks,
    tells,
    both: bothWays(model, asks[0], asks[1], traffic, tells),
  });
  if (froms.length === 1 && tos.length === 1) return [way([froms[0]!, tos[0]!], [tos[0]!, froms[0]!])];
  const asks = froms.flatMap((f) => takenBy(model, f, tos).map((t): Ends => [f, t]));
  const tells = tos.flatMap((t) => takenBy(model, t, froms).map((f): Ends => [t, f]));
  // What a filter knows of a flow, and what size an answer may have, hangs on the way it came.
  if (filtersAnywhere(model) || traffic.size !== undefined)
    return asks.flatMap((there) => tells.map((back) => way(there, back)));
  const most = Math.max(asks.length, tells.length);
  return Array.from({ length: most }, (_, i) => way(asks[i % asks.length]!, tells[i % tells.length]!));
}

/**
 * Frames that look for an address are flooded: why it is not known whether a server hears them, where the end that forwards
 * these to it is not one that carries its network.
 */
function floodDoubt(model: NetworkModel, { asks, both }: WayBetween): string | null {
  const [from, to] = asks;
  if (!both.there.bridged || from.switch === to.switch) return null;
  for (const half of halvesOf(model, to)) {
    const end = segmentOfHost(model, half);
    if (!end || !forwardsFloods(model, end)) continue;
    const trouble = oneWay(model, from, half).trouble;
    if (trouble) return `${half.switch} forwards what is flooded to ${to.host}, and ${trouble.words}`;
  }
  return null;
}

/** Reach between two servers, both ways: a packet there and an answer back, by whichever of their switches. */
export const hostReach = (model: NetworkModel, a: HostPort, b: HostPort, traffic: Traffic = PING): Reach =>
  reachOver(model, waysBetween(model, a, b, traffic));

/** Were filters asked about packets on any of the ways? If not, all traffic fares alike. */
export const meetsFilters = (ways: readonly WayBetween[]): boolean =>
  ways.some(({ both: { there, back } }) => there.filtered === true || back?.filtered === true);

/** Reach between two servers by all ways that their packets may take. */
export function reachOver(model: NetworkModel, ways: readonly WayBetween[]): Reach {
  const all = ways.map((way) => ({ way, reach: reachBy(model, ...way.asks, way.both) }));
  const lost = all.find(({ reach }) => !reach.ok);
  const unsure =
    all.find(({ reach }) => reach.unsure !== null)?.reach.unsure ??
    (ways.length > 1 ? ways.map((w) => floodDoubt(model, w)).find((d) => d !== null) : null) ??
    null;
  if (!lost) return { ...all[0]!.reach, unsure };
  if (all.every(({ reach }) => !reach.ok)) return { ...lost.reach, unsure };
  const by = [...new Set(lost.way.asks.map((h) => h.switch))].join(' and ');
  return {
    ...lost.reach,
    unsure: unsure ?? `servers of several switches use any of them, and by ${by} ${lost.reach.how}`,
  };
}
