import { floorOf, groupBy, hasServers, type Layout } from '@anthemion/core';

/** Seats above the racks, a row for each tier, the one next to the racks first. */
export function rowsAbove(layout: Layout): string[][] {
  const upper = layout.seats.filter((s) => !hasServers(s));
  return [...groupBy(upper, floorOf)].sort(([a], [b]) => a - b).map(([, seats]) => seats.map((s) => s.id));
}
