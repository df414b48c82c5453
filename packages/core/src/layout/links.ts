import type { Cable } from '../hardware/cable.ts';
import type { SeatId } from '../intent/intent.ts';
import { onceFor } from '../onceFor.ts';
import type { Seat } from './seats.ts';

/** One end of a link. */
export interface LinkEnd {
  readonly seat: SeatId;
  readonly port: string;
}
/** A cable between two seats. */
export interface Link {
  /** `leaf-1:spine-2:1`: the two seats, and which of the links between them. */
  readonly id: string;
  /** `fabric` carries the underlay; `peer` joins the halves of a pair. */
  readonly kind: 'fabric' | 'peer';
  /** The end nearer to the servers; between equals, the one that comes first. */
  readonly a: LinkEnd;
  readonly b: LinkEnd;
}

export const endAt = (link: Link, seat: SeatId): LinkEnd => (link.a.seat === seat ? link.a : link.b);
export const farEnd = (link: Link, seat: SeatId): LinkEnd => (link.a.seat === seat ? link.b : link.a);

/** Seats and links of a fabric. */
export interface Layout {
  readonly seats: readonly Seat[];
  readonly seatById: ReadonlyMap<SeatId, Seat>;
  readonly links: readonly Link[];
  readonly linksOf: ReadonlyMap<SeatId, readonly Link[]>;
}

/** The cables a layout plans, between switches by name, each with the id of its link. */
export const cablesOf = onceFor((layout: Layout): readonly (Cable & { readonly id: string })[] => {
  const end = ({ seat, port }: LinkEnd) => ({ host: layout.seatById.get(seat)!.host, port });
  return layout.links.map((l) => ({ id: l.id, a: end(l.a), b: end(l.b) }));
});

/** The cables between switches that are seated, by serial. */
export function cablesBySerial(
  layout: Layout,
  seating: Readonly<Record<SeatId, string>>,
): { readonly a: { serial: string; port: string }; readonly b: { serial: string; port: string } }[] {
  return layout.links.flatMap(({ a, b }) => {
    const [at, to] = [seating[a.seat], seating[b.seat]];
    return at !== undefined && to !== undefined
      ? [{ a: { serial: at, port: a.port }, b: { serial: to, port: b.port } }]
      : [];
  });
}
