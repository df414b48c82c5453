import type { Cable } from '../hardware/cable.ts';

/**
 * The switches of a fabric that are run to see a change: those that it changes, and whom they are cabled to. Where they are
 * too many, half of the room is for those that change, in their order; the rest for those with most cables to them, and then to whom is there.
 * @param hosts all switches, in their order
 * @param changed those whose text changes
 * @param most so many are run
 */
export function rehearsalCut(
  hosts: readonly string[],
  changed: ReadonlySet<string>,
  cables: readonly Cable[],
  most: number,
): string[] {
  if (hosts.length <= most) return [...hosts];
  const moved = hosts.filter((h) => changed.has(h));
  const taken = new Set(moved.slice(0, Math.ceil(most / 2)));
  while (taken.size < most) {
    // Cables to switches that change come first, then those to all that are taken.
    const to = new Map<string, number>();
    for (const { a, b } of cables)
      for (const [here, there] of [
        [a.host, b.host],
        [b.host, a.host],
      ] as const)
        if (taken.has(here) && !taken.has(there))
          to.set(there, (to.get(there) ?? 0) + (changed.has(here) ? cables.length : 1));
    const [next] = hosts.filter((h) => to.has(h)).sort((x, y) => to.get(y)! - to.get(x)!);
    const more = next ?? moved.find((h) => !taken.has(h)) ?? hosts.find((h) => !taken.has(h));
    if (more === undefined) break;
    taken.add(more);
  }
  return hosts.filter((h) => taken.has(h));
}
