import { layOut } from '../../layout/layout.ts';
import type { FabricIntent } from '../intent.ts';
import { pastedEdits, type PastedColumn, type PastedEdits } from './pastedEdits.ts';

const COLUMNS: readonly PastedColumn<'seat' | 'serial'>[] = [
  { key: 'seat', called: ['seat', 'name', 'name on the switch', 'host'] },
  { key: 'serial', called: ['serial', 'serial number', 'switch'] },
];

/** Seat (or the name its switch bears) and serial: takes the seat; an empty serial leaves it empty. */
export function pastedSeats(intent: FabricIntent, cells: readonly (readonly string[])[]): PastedEdits {
  const { seats } = layOut(intent);
  const idOf = new Map(seats.flatMap((s) => [[s.id, s.id] as const, [s.host, s.id] as const]));
  return pastedEdits(intent, cells, COLUMNS, ({ seat, serial }, now) => {
    const id = idOf.get(seat ?? '');
    if (id === undefined)
      return `There is no seat ${seat ?? 'without a name'}. Write it as leaf-1 or as the switch is named.`;
    if (now.seating[id] === serial) return [];
    return [serial === undefined ? { kind: 'clearSeat', seat: id } : { kind: 'takeSeat', seat: id, serial }];
  });
}
