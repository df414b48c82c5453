import { portsOf } from '../../hardware/switchModel.ts';
import { rackPatternOf, type FabricIntent, type Rack } from '../../intent/intent.ts';
import { seatIdsOfRack } from '../../intent/seatIds.ts';
import { expandPorts } from '../../numbers/order.ts';
import type { Link } from '../links.ts';
import { hostName, type Seat } from '../seats.ts';

/** What a shape makes of an intent. Seats from the top down, links from the servers up. */
export interface Laid {
  readonly seats: readonly Seat[];
  readonly links: readonly Link[];
}
/** Where the seats of a fabric are and how they are joined. One file each. */
export type Shape = (intent: FabricIntent) => Laid;

/** A leaf before its links are known. */
export interface LeafPlace {
  readonly seat: Seat;
  readonly rack: Rack;
  /** 1-based position among the leaves it shares switches above, or a mesh, with. */
  readonly slot: number;
  /** All ports its pattern has for links. */
  readonly uplinks: readonly string[];
}

/** The leaves of all racks, in order; `used` = how many of its uplinks a leaf has a use for. */
export function leavesOf(intent: FabricIntent, used: (rack: Rack) => number): LeafPlace[] {
  return intent.racks.flatMap((rack): LeafPlace[] => {
    const pattern = rackPatternOf(intent, rack);
    if (!pattern) return [];
    const uplinks = expandPorts(pattern.uplinkPorts) ?? [];
    const ids = seatIdsOfRack(rack, pattern.kind);
    return ids.map((id, i): LeafPlace => {
      const side = pattern.kind === 'single' ? undefined : i === 0 ? ('a' as const) : ('b' as const);
      const seat: Seat = {
        id,
        tier: 'leaf',
        host: hostName(intent.namePrefix, 'leaf', [rack.number], side),
        model: pattern.leafModel,
        rack: rack.number,
        ...(rack.pod === undefined ? {} : { pod: rack.pod }),
        ...(side ? { side, peer: ids[1 - i]! } : {}),
        fabricPorts: uplinks.slice(0, used(rack)),
      };
      return { seat, rack, slot: rack.slot + i, uplinks };
    });
  });
}

/** Port names of a model, in order; none where it is not known. */
export function portsOfModel(intent: FabricIntent, model: string): string[] {
  const found = intent.models.find((m) => m.name === model);
  return found ? [...portsOf(found).keys()] : [];
}
