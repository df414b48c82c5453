import { podSpine, superSpine } from '../../intent/seatIds.ts';
import { upTo } from '../../numbers/order.ts';
import { nameBy } from '../../patterns/names.ts';
import { NO_SWITCHES } from '../../patterns/patterns.ts';
import type { Seat } from '../seats.ts';
import { leavesOf, linkOf, pairLinks, switchesOf, type Shape } from './shape.ts';

/**
 * Pods of leaves and spines, and super-spines above them. Spine n of every pod is in plane n, and joined to the super-spines of
 * that plane only. Within a pod ports are as with three stages; a spine's ports upwards are its last ones, from the end, so
 * that pods, racks and super-spines can be added without moving a cable. On a super-spine pod p uses ports (p − 1) × parallel + k.
 */
export const fiveStages: Shape = (intent) => {
  const { parallel, spines, namePrefix: prefix, settings } = intent;
  const [pods, above] = [intent.pods ?? 0, intent.superSpines ?? NO_SWITCHES];
  const [spine, top] = [switchesOf(intent, spines), switchesOf(intent, above)];
  const reserved = above.count * parallel;
  const leaves = leavesOf(intent).filter((l) => (l.seat.pod ?? 0) <= pods);
  const down = (plane: number, slot: number, k: number): string | undefined => {
    const { ports } = spine(plane);
    const at = (slot - 1) * parallel + k - 1;
    return at < ports.length - reserved ? ports[at] : undefined;
  };
  const up = (plane: number, n: number, k: number): string | undefined => {
    const { ports } = spine(plane);
    return ports[ports.length - ((n - 1) * parallel + k)];
  };
  const onSuper = (n: number, pod: number, k: number): string | undefined => top(n).ports[(pod - 1) * parallel + k - 1];
  const supers = upTo(spines.count).flatMap((plane) =>
    upTo(above.count).map((n): Seat => ({
      id: superSpine(plane, n),
      tier: 'super-spine',
      host: nameBy(settings.superSpineName, { prefix, plane, number: n }),
      model: top(n).model,
      plane,
      asGroup: 'super-spines',
    })),
  );
  const ofPods = upTo(pods).flatMap((pod) =>
    upTo(spines.count).map((plane): Seat => ({
      id: podSpine(pod, plane),
      tier: 'spine',
      host: nameBy(settings.spineName, { prefix, pod, plane, number: plane }),
      model: spine(plane).model,
      pod,
      plane,
      asGroup: `pod-${pod}-spines`,
    })),
  );
  const inPods = leaves.flatMap(({ seat, slot, uplinks }) =>
    upTo(spines.count).flatMap((plane) =>
      upTo(parallel).flatMap((k) =>
        linkOf(
          'fabric',
          [seat.id, uplinks[(plane - 1) * parallel + k - 1]],
          [podSpine(seat.pod!, plane), down(plane, slot, k)],
          k,
        ),
      ),
    ),
  );
  const between = ofPods.flatMap(({ id, pod, plane }) =>
    upTo(above.count).flatMap((n) =>
      upTo(parallel).flatMap((k) =>
        linkOf('fabric', [id, up(plane!, n, k)], [superSpine(plane!, n), onSuper(n, pod!, k)], k),
      ),
    ),
  );
  return {
    seats: [...supers, ...ofPods, ...leaves.map((l) => l.seat)],
    links: [...inPods, ...between, ...pairLinks(leaves)],
  };
};
