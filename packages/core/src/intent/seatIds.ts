import type { RackPattern } from '../patterns/patterns.ts';
import type { FabricIntent, Rack } from './intent.ts';

/** Seats a rack has, by its pattern. */
export const seatIdsOfRack = (rack: Pick<Rack, 'number'>, kind: RackPattern['kind']): string[] =>
  kind === 'single' ? [`leaf-${rack.number}`] : [`leaf-${rack.number}a`, `leaf-${rack.number}b`];

/** Seats of so many spines. */
export const spineSeats = (count: number): string[] => Array.from({ length: count }, (_, i) => `spine-${i + 1}`);

/** Every seat of an intent, spines first. */
export function seatIds(intent: FabricIntent): string[] {
  const kinds = new Map(intent.rackPatterns.map((p) => [p.name, p.kind]));
  return [
    ...spineSeats(intent.spines.count),
    ...intent.racks.flatMap((r) => seatIdsOfRack(r, kinds.get(r.pattern) ?? 'single')),
  ];
}

/** The rack a leaf's seat belongs to; null = it is no leaf's. */
export const rackOfSeat = (seat: string): number | null => {
  const number = /^leaf-(\d+)[ab]?$/.exec(seat)?.[1];
  return number === undefined ? null : Number(number);
};
