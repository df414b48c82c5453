import type { SeatId } from '../intent/intent.ts';
import { layOut } from '../layout/layout.ts';
import type { Table } from './table.ts';

/** Seat (or the name its switch bears) and serial: takes the seat; an empty serial leaves it empty. */
export const seatTable: Table<'seat'> = {
  kind: 'seat',
  rows: (intent) => layOut(intent).seats.map((s) => [s.id, intent.seating[s.id] ?? ''] as const),
  columns: [
    {
      id: 'seat',
      title: 'seat',
      called: ['name', 'name on the switch', 'host'],
      text: (_serial, seat) => seat,
      read: (text) => text,
    },
    {
      id: 'serial',
      title: 'serial',
      called: ['serial number', 'switch'],
      text: (serial) => serial,
      read: (text) => text,
    },
  ],
  reader: (before) => {
    const idOf = new Map(layOut(before).seats.flatMap((s) => [[s.id, s.id] as const, [s.host, s.id] as const]));
    return (row) => {
      const { seat, serial } = row as { readonly seat?: SeatId; readonly serial?: string };
      const key = idOf.get(seat ?? '');
      if (key !== undefined) return { key, item: serial ?? null };
      return `There is no seat ${seat ?? 'without a name'}. Write it as leaf-1 or as the switch is named.`;
    };
  },
};
