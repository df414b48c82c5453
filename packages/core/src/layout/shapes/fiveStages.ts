import { podSpine, superSpine } from '../../intent/seatIds.ts';
import { upTo } from '../../numbers/order.ts';
import type { Link } from '../links.ts';
import { hostName, type Seat } from '../seats.ts';
import { leavesOf, portsOfModel, type Shape } from './shape.ts';

/**
 * Pods of leaves and spines, and super-spines above them. Spine n of every pod is in plane n, and joined to the super-spines of
 * that plane only. Within a pod ports are as with three stages; a spine's ports upwards are its last ones, from the end, so
 * that pods, racks and super-spines can be added without moving a cable. On a super-spine pod p uses ports (p − 1) × parallel + k.
 */
export const fiveStages: Shape = (intent) => {
  const { parallel, spines, namePrefix } = intent;
  const [pods, above] = [intent.pods ?? 0, intent.superSpines ?? { count: 0, model: '' }];
  const ports = portsOfModel(intent, spines.model);
  const topPorts = portsOfModel(intent, above.model);
  const reserved = above.count * parallel;
  const leaves = leavesOf(intent, () => spines.count * parallel).filter((l) => (l.seat.pod ?? 0) <= pods);
  const down = (slot: number, k: number): string | undefined => {
    const at = (slot - 1) * parallel + k - 1;
    return at < ports.length - reserved ? ports[at] : undefined;
  };
  const up = (n: number, k: number): string | undefined => ports[ports.length - ((n - 1) * parallel + k)];
  const onSuper = (pod: number, k: number): string | undefined => topPorts[(pod - 1) * parallel + k - 1];
  const present = (names: readonly (string | undefined)[]): string[] => names.flatMap((n) => n ?? []);

  const supers = upTo(spines.count).flatMap((plane) =>
    upTo(above.count).map((n): Seat => ({
      id: superSpine(plane, n),
      tier: 'super-spine',
      host: hostName(namePrefix, 'super-spine', [plane, n]),
      model: above.model,
      plane,
      asGroup: 'super-spines',
      fabricPorts: present(upTo(pods).flatMap((pod) => upTo(parallel).map((k) => onSuper(pod, k)))),
    })),
  );
  const ofPods = upTo(pods).flatMap((pod) => {
    const here = leaves.filter((l) => l.seat.pod === pod);
    const downwards = present(here.flatMap((l) => upTo(parallel).map((k) => down(l.slot, k))));
    const upwards = present(upTo(above.count).flatMap((n) => upTo(parallel).map((k) => up(n, k))));
    return upTo(spines.count).map((plane): Seat => ({
      id: podSpine(pod, plane),
      tier: 'spine',
      host: hostName(namePrefix, 'spine', [pod, plane]),
      model: spines.model,
      pod,
      plane,
      asGroup: `pod-${pod}-spines`,
      fabricPorts: [...downwards, ...upwards],
    }));
  });
  const link = (a: string, aPort: string | undefined, b: string, bPort: string | undefined, k: number): Link[] =>
    aPort !== undefined && bPort !== undefined
      ? [{ id: `${a}:${b}:${k}`, kind: 'fabric', a: { seat: a, port: aPort }, b: { seat: b, port: bPort } }]
      : [];
  const inPods = leaves.flatMap(({ seat, slot, uplinks }) =>
    upTo(spines.count).flatMap((plane) =>
      upTo(parallel).flatMap((k) =>
        link(seat.id, uplinks[(plane - 1) * parallel + k - 1], podSpine(seat.pod!, plane), down(slot, k), k),
      ),
    ),
  );
  const between = ofPods.flatMap((spine) =>
    upTo(above.count).flatMap((n) =>
      upTo(parallel).flatMap((k) => link(spine.id, up(n, k), superSpine(spine.plane!, n), onSuper(spine.pod!, k), k)),
    ),
  );
  return { seats: [...supers, ...ofPods, ...leaves.map((l) => l.seat)], links: [...inPods, ...between] };
};
