import type { Cable } from '../hardware/cable.ts';
import type { OutsideLink, SeatId } from '../intent/intent.ts';
import { onceFor } from '../onceFor.ts';
import type { Seat } from './seats.ts';

/** One end of a link. */
export interface LinkEnd {
  readonly seat: SeatId;
  readonly port: string;
}
/**
 * What a link between two seats is for: `fabric` carries what the fabric carries; `peer` does so too, between the halves of a
 * pair; by a `keep-alive` they learn that the other lives.
 */
export type LinkKind = 'fabric' | 'peer' | 'keep-alive';

/** A cable between two seats. */
export interface Link {
  /** `leaf-1:spine-2:1`: the two seats, and which of the links between them. */
  readonly id: string;
  readonly kind: LinkKind;
  /** Its ports are shut on purpose. */
  readonly shut?: true;
  /** The end nearer to the servers; between equals, the one that comes first. */
  readonly a: LinkEnd;
  readonly b: LinkEnd;
}
/** A cable from a seat to something that has no seat here. */
export interface OutwardLink {
  /** `leaf-1a:p47`, `leaf-1a:management`. */
  readonly id: string;
  /** To an outside system, to a gateway of another site, or to a management switch. */
  readonly kind: 'outside' | 'site' | 'management';
  readonly a: LinkEnd;
  /** What is at the other end, by the name it bears. */
  readonly far: { readonly name: string; readonly port: string };
  /** How our port is driven, and whether it is open. */
  readonly driven: Pick<OutsideLink, 'shut' | 'speed' | 'fec'>;
  /** It is one of a LAG: the port that this is known by. */
  readonly lag?: string;
}

export const endAt = (link: Link, seat: SeatId): LinkEnd => (link.a.seat === seat ? link.a : link.b);
export const farEnd = (link: Link, seat: SeatId): LinkEnd => (link.a.seat === seat ? link.b : link.a);
/** Is it there to carry the underlay (or, where nothing is routed, the VLANs)? */
export const isForTraffic = (link: Pick<Link, 'kind'>): boolean => link.kind !== 'keep-alive';
/** Does it carry it now? */
export const carries = (link: Pick<Link, 'kind' | 'shut'>): boolean => isForTraffic(link) && !link.shut;

/** Seats and links of a fabric. */
export interface Layout {
  readonly seats: readonly Seat[];
  readonly seatById: ReadonlyMap<SeatId, Seat>;
  readonly links: readonly Link[];
  readonly linksOf: ReadonlyMap<SeatId, readonly Link[]>;
  readonly outward: readonly OutwardLink[];
}

/** The cables a layout plans between switches by name, each with the id of its link. */
export const cablesOf = onceFor((layout: Layout): readonly (Cable & { readonly id: string })[] => {
  const end = ({ seat, port }: LinkEnd) => ({ host: layout.seatById.get(seat)!.host, port });
  return layout.links.map((l) => ({ id: l.id, a: end(l.a), b: end(l.b) }));
});

/** Those of them that carry something, for the network model. */
export const carryingCablesOf = onceFor((layout: Layout): readonly Cable[] =>
  cablesOf(layout).flatMap(({ a, b }, i) => (carries(layout.links[i]!) ? [{ a, b }] : [])),
);
