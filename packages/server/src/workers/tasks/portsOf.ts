import { endAt, farEnd, isOn, layOut } from '@anthemion/core';
import type { Db } from '../../store/database.ts';
import { liveState, snapshot } from './state.ts';

/** The ports of one switch that lead somewhere, by what is live. */
export interface PortsOfTask {
  readonly do: 'ports of';
  readonly fabric: string;
  readonly seat: string;
}
export interface PortsOf {
  readonly host: string;
  /** Null = the seat is empty. */
  readonly serial: string | null;
  /** Who is at the far end, by port. */
  readonly ends: ReadonlyMap<string, string>;
}

/** Null = there is no such seat in what is live. */
export const portsOfTask = (db: Db, { fabric, seat: id }: PortsOfTask): Promise<PortsOf | null> =>
  snapshot(db, async (tx) => {
    const { intent } = await liveState(tx, fabric);
    const layout = layOut(intent);
    const seat = layout.seatById.get(id);
    if (!seat) return null;
    const ends = new Map<string, string>();
    for (const link of layout.linksOf.get(id) ?? []) {
      const far = farEnd(link, id);
      ends.set(endAt(link, id).port, `${layout.seatById.get(far.seat)!.host} ${far.port}`);
    }
    for (const { a, far } of layout.outward) if (a.seat === id) ends.set(a.port, `${far.name} ${far.port}`);
    for (const p of intent.ports) if (p.rack === seat.rack && isOn(p, seat)) ends.set(p.port, p.server);
    return { host: seat.host, serial: intent.seating[id] ?? null, ends };
  });
