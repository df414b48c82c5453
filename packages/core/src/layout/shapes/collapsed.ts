import { upTo } from '../../numbers/order.ts';
import { leavesOf, linkOf, pairLinks, type LeafPlace, type Shape } from './shape.ts';

/**
 * Leaves joined to one another, without a spine. A leaf's ports go by the slots of the others, its own left out:
 * (s − 1) × parallel + k for a lower slot s, (s − 2) × parallel + k for a higher one, so that a new rack moves no cable.
 */
export const collapsed: Shape = (intent) => {
  const { parallel } = intent;
  const leaves = leavesOf(intent);
  const portTo = (from: LeafPlace, to: LeafPlace, k: number): string | undefined =>
    from.uplinks[(to.slot < from.slot ? to.slot - 1 : to.slot - 2) * parallel + k - 1];
  const links = leaves.flatMap((a, i) =>
    leaves
      .slice(i + 1)
      .flatMap((b) =>
        upTo(parallel).flatMap((k) => linkOf('fabric', [a.seat.id, portTo(a, b, k)], [b.seat.id, portTo(b, a, k)], k)),
      ),
  );
  return { seats: leaves.map((l) => l.seat), links: [...links, ...pairLinks(leaves)] };
};
