import { upTo } from '../../numbers/order.ts';
import { nameBy } from '../../patterns/names.ts';
import type { Seat } from '../seats.ts';
import { leavesOf, linkOf, pairLinks, switchesOf, type Shape } from './shape.ts';

/**
 * Every leaf joined to every spine. Leaf uplink (s − 1) × parallel + k goes to spine s; on the spine, a leaf in slot n uses
 * ports (n − 1) × parallel + k. Slots are fixed in the intent, so adding or removing a rack moves no cable.
 */
export const threeStages: Shape = (intent) => {
  const { parallel, spines, namePrefix: prefix, settings } = intent;
  const leaves = leavesOf(intent);
  const spine = switchesOf(intent, spines);
  const top = upTo(spines.count).map((number) => {
    const { model, ports } = spine(number);
    const seat: Seat = {
      id: `spine-${number}`,
      tier: 'spine',
      host: nameBy(settings.spineName, { prefix, number }),
      model,
      asGroup: 'spines',
    };
    return { seat, ports };
  });
  const links = leaves.flatMap(({ seat, slot, uplinks }) =>
    top.flatMap(({ seat: { id }, ports }, s) =>
      upTo(parallel).flatMap((k) =>
        linkOf('fabric', [seat.id, uplinks[s * parallel + k - 1]], [id, ports[(slot - 1) * parallel + k - 1]], k),
      ),
    ),
  );
  return { seats: [...top.map((t) => t.seat), ...leaves.map((l) => l.seat)], links: [...links, ...pairLinks(leaves)] };
};
