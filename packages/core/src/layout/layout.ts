import type { FabricIntent, SeatId } from '../intent/intent.ts';
import { shapeOf, type FabricShape } from '../patterns/patterns.ts';
import type { Layout, Link } from './links.ts';
import { collapsed } from './shapes/collapsed.ts';
import { fiveStages } from './shapes/fiveStages.ts';
import type { Shape } from './shapes/shape.ts';
import { threeStages } from './shapes/threeStages.ts';

const SHAPES: Readonly<Record<FabricShape, Shape>> = {
  'three-stages': threeStages,
  'five-stages': fiveStages,
  collapsed,
};

/** Intent → seats and links, by the shape of the fabric. */
export function layOut(intent: FabricIntent): Layout {
  const { seats, links } = SHAPES[shapeOf(intent)](intent);
  const linksOf = new Map<SeatId, Link[]>(seats.map((s) => [s.id, []]));
  for (const link of links) for (const { seat } of [link.a, link.b]) linksOf.get(seat)?.push(link);
  return { seats, seatById: new Map(seats.map((s) => [s.id, s])), links, linksOf };
}
