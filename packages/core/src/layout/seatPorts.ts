import { portsOf } from '../hardware/switchModel.ts';
import type { FabricIntent } from '../intent/intent.ts';
import type { Seat } from './seats.ts';

/** What a switch in a seat has for ports. */
export interface SeatPorts {
  /** The same for all seats that are alike in this. */
  readonly kind: string;
  /** Speed in Gb/s by name, in order, parts of split ones in the place of their cage; none where the model is not known. */
  readonly ports: ReadonlyMap<string, number>;
}

/** The ports of any seat of a fabric: of its model, split as its rack pattern or its tier says. Made once for seats that are alike. */
export function portsOfSeats(intent: FabricIntent): (seat: Seat) => SeatPorts {
  const models = new Map(intent.models.map((m) => [m.name, m]));
  const patterns = new Map(intent.rackPatterns.map((p) => [p.name, p]));
  const patternOfRack = new Map(intent.racks.map((r) => [r.number, r.pattern]));
  const known = new Map<string, SeatPorts>();
  return (seat) => {
    const pattern = seat.rack === undefined ? undefined : patterns.get(patternOfRack.get(seat.rack) ?? '');
    const kind = `${seat.model} ${pattern?.name ?? seat.tier}`;
    const found = known.get(kind);
    if (found) return found;
    const tier = seat.tier === 'super-spine' ? intent.superSpines : intent.spines;
    const model = models.get(seat.model);
    const made = { kind, ports: model ? portsOf(model, (pattern ?? tier)?.breakouts) : new Map<string, number>() };
    known.set(kind, made);
    return made;
  };
}
