import { seatIdsOfRack } from '../intent/seatIds.ts';
import { rackPatternOf, type FabricIntent, type SeatId } from '../intent/intent.ts';
import { expandPorts } from '../numbers/order.ts';
import { portsOf, type SwitchModel } from '../hardware/switchModel.ts';

export type SeatRole = 'spine' | 'leaf';

/** A logical position with all that follows from where it is. */
export interface Seat {
  readonly id: SeatId;
  readonly role: SeatRole;
  /** Name of the switch that sits here, e.g. `sk-lf-07a`. */
  readonly host: string;
  readonly model: string;
  /** Leaves: the rack, the side in a pair, and the seat on the other side. */
  readonly rack?: number;
  readonly side?: 'a' | 'b';
  readonly peer?: SeatId;
  /** Ports to the other tier, in order. */
  readonly fabricPorts: readonly string[];
}

/** A cable between a leaf and a spine, with the port at both ends. */
export interface Link {
  /** `leaf-1:spine-2:1`: leaf, spine, which of the parallel ones. */
  readonly id: string;
  readonly leaf: SeatId;
  readonly leafPort: string;
  readonly spine: SeatId;
  readonly spinePort: string;
}

export interface Layout {
  readonly seats: readonly Seat[];
  readonly seatById: ReadonlyMap<SeatId, Seat>;
  readonly links: readonly Link[];
  readonly linksOf: ReadonlyMap<SeatId, readonly Link[]>;
}

const two = (n: number): string => String(n).padStart(2, '0');

/** Name of the switch in a seat: prefix, `sp` or `lf`, two digits, side. */
export function hostName(prefix: string, role: SeatRole, number: number, side = ''): string {
  return `${prefix}-${role === 'spine' ? 'sp' : 'lf'}-${two(number)}${side}`;
}

/**
 * Intent → seats and links. Leaf uplink (s − 1) × parallel + k goes to spine s; on the spine, a leaf in slot n uses
 * ports (n − 1) × parallel + k. Slots are fixed in the intent, so adding or removing a rack moves no cable.
 */
export function layOut(intent: FabricIntent): Layout {
  const seats: Seat[] = [];
  const links: Link[] = [];
  const models = new Map<string, SwitchModel>(intent.models.map((m) => [m.name, m]));
  const spineModel = models.get(intent.spines.model);
  const spinePorts = spineModel ? [...portsOf(spineModel).keys()] : [];
  const usedOnSpine: string[] = [];
  const leafSeats: { seat: Seat; slot: number; uplinks: readonly string[] }[] = [];
  const wanted = intent.spines.count * intent.parallel;
  for (const rack of intent.racks) {
    const pattern = rackPatternOf(intent, rack);
    if (!pattern) continue;
    const ids = seatIdsOfRack(rack, pattern.kind);
    const uplinks = (expandPorts(pattern.uplinkPorts) ?? []).slice(0, wanted);
    ids.forEach((id, i) => {
      const side = pattern.kind === 'single' ? undefined : i === 0 ? ('a' as const) : ('b' as const);
      const seat: Seat = {
        id,
        role: 'leaf',
        host: hostName(intent.namePrefix, 'leaf', rack.number, side),
        model: pattern.leafModel,
        rack: rack.number,
        ...(side ? { side, peer: ids[1 - i]! } : {}),
        fabricPorts: uplinks,
      };
      leafSeats.push({ seat, slot: rack.slot + i, uplinks });
    });
  }
  for (const { slot } of leafSeats)
    for (let k = 0; k < intent.parallel; k++) {
      const port = spinePorts[(slot - 1) * intent.parallel + k];
      if (port) usedOnSpine.push(port);
    }
  for (let s = 1; s <= intent.spines.count; s++)
    seats.push({
      id: `spine-${s}`,
      role: 'spine',
      host: hostName(intent.namePrefix, 'spine', s),
      model: intent.spines.model,
      fabricPorts: usedOnSpine,
    });
  const linksOf = new Map<SeatId, Link[]>(seats.map((s) => [s.id, []]));
  for (const { seat, slot, uplinks } of leafSeats) {
    seats.push(seat);
    const own: Link[] = [];
    for (let s = 1; s <= intent.spines.count; s++)
      for (let k = 0; k < intent.parallel; k++) {
        const leafPort = uplinks[(s - 1) * intent.parallel + k];
        const spinePort = spinePorts[(slot - 1) * intent.parallel + k];
        if (!leafPort || !spinePort) continue;
        const link: Link = {
          id: `${seat.id}:spine-${s}:${k + 1}`,
          leaf: seat.id,
          leafPort,
          spine: `spine-${s}`,
          spinePort,
        };
        own.push(link);
        linksOf.get(link.spine)!.push(link);
        links.push(link);
      }
    linksOf.set(seat.id, own);
  }
  return { seats, seatById: new Map(seats.map((s) => [s.id, s])), links, linksOf };
}
