import { upTo } from '../../numbers/order.ts';
import type { Link } from '../links.ts';
import { leavesOf, type LeafPlace, type Shape } from './shape.ts';

/**
 * Leaves joined to one another, without a spine. A leaf's ports go by the slots of the others, its own left out:
 * (s − 1) × parallel + k for a lower slot s, (s − 2) × parallel + k for a higher one, so that a new rack moves no cable.
 */
export const collapsed: Shape = (intent) => {
  const { parallel } = intent;
  const leaves = leavesOf(intent, () => 0);
  const portTo = (from: LeafPlace, to: LeafPlace, k: number): string | undefined =>
    from.uplinks[(to.slot < from.slot ? to.slot - 1 : to.slot - 2) * parallel + k - 1];
  const links = leaves.flatMap((a, i) =>
    leaves.slice(i + 1).flatMap((b) =>
      upTo(parallel).flatMap((k): Link[] => {
        const [at, to] = [portTo(a, b, k), portTo(b, a, k)];
        return at !== undefined && to !== undefined
          ? [
              {
                id: `${a.seat.id}:${b.seat.id}:${k}`,
                kind: 'fabric',
                a: { seat: a.seat.id, port: at },
                b: { seat: b.seat.id, port: to },
              },
            ]
          : [];
      }),
    ),
  );
  const usedBy = new Map<string, Set<string>>(leaves.map((l) => [l.seat.id, new Set()]));
  for (const { a, b } of links) for (const end of [a, b]) usedBy.get(end.seat)!.add(end.port);
  const seats = leaves.map(({ seat, uplinks }) => ({
    ...seat,
    fabricPorts: uplinks.filter((p) => usedBy.get(seat.id)!.has(p)),
  }));
  return { seats, links };
};
