import { upTo } from '../../numbers/order.ts';
import type { Link } from '../links.ts';
import { hostName, type Seat } from '../seats.ts';
import { leavesOf, portsOfModel, type Shape } from './shape.ts';

/**
 * Every leaf joined to every spine. Leaf uplink (s − 1) × parallel + k goes to spine s; on the spine, a leaf in slot n uses
 * ports (n − 1) × parallel + k. Slots are fixed in the intent, so adding or removing a rack moves no cable.
 */
export const threeStages: Shape = (intent) => {
  const { parallel, spines } = intent;
  const leaves = leavesOf(intent, () => spines.count * parallel);
  const ports = portsOfModel(intent, spines.model);
  const used = leaves.flatMap(({ slot }) => upTo(parallel).flatMap((k) => ports[(slot - 1) * parallel + k - 1] ?? []));
  const top = upTo(spines.count).map((s): Seat => ({
    id: `spine-${s}`,
    tier: 'spine',
    host: hostName(intent.namePrefix, 'spine', [s]),
    model: spines.model,
    asGroup: 'spines',
    fabricPorts: used,
  }));
  const links = leaves.flatMap(({ seat, slot, uplinks }) =>
    top.flatMap((spine, s) =>
      upTo(parallel).flatMap((k): Link[] => {
        const [up, down] = [uplinks[s * parallel + k - 1], ports[(slot - 1) * parallel + k - 1]];
        return up !== undefined && down !== undefined
          ? [
              {
                id: `${seat.id}:${spine.id}:${k}`,
                kind: 'fabric',
                a: { seat: seat.id, port: up },
                b: { seat: spine.id, port: down },
              },
            ]
          : [];
      }),
    ),
  );
  return { seats: [...top, ...leaves.map((l) => l.seat)], links };
};
