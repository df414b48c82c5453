import { shapeOf, type RackPattern, type UpperTiers } from '../patterns/patterns.ts';
import { upTo } from '../numbers/order.ts';
import type { FabricIntent, Rack, SeatId } from './intent.ts';

/** Seats a rack has, by its pattern. */
export const seatIdsOfRack = (rack: Pick<Rack, 'number'>, kind: RackPattern['kind']): string[] =>
  kind === 'single' ? [`leaf-${rack.number}`] : [`leaf-${rack.number}a`, `leaf-${rack.number}b`];

/** The rack a leaf's seat belongs to; null = it is no leaf's. */
export const rackOfSeat = (seat: string): number | null => {
  const number = /^leaf-(\d+)[ab]?$/.exec(seat)?.[1];
  return number === undefined ? null : Number(number);
};

export const podSpine = (pod: number, plane: number): SeatId => `spine-${pod}.${plane}`;
export const superSpine = (plane: number, n: number): SeatId => `super-spine-${plane}.${n}`;

/** Seats above the racks, the highest first. */
export function upperSeats(intent: UpperTiers): SeatId[] {
  const planes = upTo(intent.spines.count);
  switch (shapeOf(intent)) {
    case 'three-stages':
    case 'switched':
      return planes.map((n) => `spine-${n}`);
    case 'collapsed':
      return [];
    case 'five-stages':
      return [
        ...planes.flatMap((plane) => upTo(intent.superSpines?.count ?? 0).map((n) => superSpine(plane, n))),
        ...upTo(intent.pods ?? 0).flatMap((pod) => planes.map((plane) => podSpine(pod, plane))),
      ];
  }
}

/** Every seat of an intent, from the top down. */
export function seatIds(intent: FabricIntent): SeatId[] {
  const kinds = new Map(intent.rackPatterns.map((p) => [p.name, p.kind]));
  return [...upperSeats(intent), ...intent.racks.flatMap((r) => seatIdsOfRack(r, kinds.get(r.pattern) ?? 'single'))];
}
