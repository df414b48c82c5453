import type { FabricIntent, SeatId } from '../intent/intent.ts';
import { sameContent } from '../numbers/content.ts';
import { shapeOf, type FabricShape } from '../patterns/patterns.ts';
import type { Layout, Link } from './links.ts';
import { collapsed } from './shapes/collapsed.ts';
import { outwardOf } from './outward.ts';
import { fiveStages } from './shapes/fiveStages.ts';
import type { Shape } from './shapes/shape.ts';
import { switched } from './shapes/switched.ts';
import { threeStages } from './shapes/threeStages.ts';

const SHAPES: Readonly<Record<FabricShape, Shape>> = {
  'three-stages': threeStages,
  'five-stages': fiveStages,
  collapsed,
  switched,
};

/** What of an intent a layout follows from: all but what is known not to matter. */
function laidFrom(intent: FabricIntent): object {
  const { name: _name, pattern: _pattern, pools: _pools, seating: _seating, ...more } = intent;
  const {
    vrfs: _vrfs,
    networks: _networks,
    ports: _ports,
    snippets: _snippets,
    secrets: _secrets,
    waivers: _waivers,
    ...from
  } = more;
  return from;
}
const madeFrom = new WeakMap<Layout, object>();
/** The last layout of these racks: most edits leave them alone. */
const ofRacks = new WeakMap<FabricIntent['racks'], Layout>();

/**
 * Intent → seats and links, by the shape of the fabric. Where nothing changed that it follows from, it is the very layout of
 * before (or the last one of the same racks), so that what is computed once for a layout is not computed again.
 */
export function layOut(intent: FabricIntent, before?: Layout): Layout {
  const from = laidFrom(intent);
  const known = before ?? ofRacks.get(intent.racks);
  if (known && sameContent(madeFrom.get(known), from)) return known;
  const layout = make(intent);
  madeFrom.set(layout, from);
  ofRacks.set(intent.racks, layout);
  return layout;
}

function make(intent: FabricIntent): Layout {
  const { seats, links: all } = SHAPES[shapeOf(intent)](intent);
  const shut = new Set(intent.shutLinks.map((l) => l.link));
  const links = shut.size === 0 ? all : all.map((l): Link => (shut.has(l.id) ? { ...l, shut: true } : l));
  const linksOf = new Map<SeatId, Link[]>(seats.map((s) => [s.id, []]));
  for (const link of links) for (const { seat } of [link.a, link.b]) linksOf.get(seat)?.push(link);
  return { seats, seatById: new Map(seats.map((s) => [s.id, s])), links, linksOf, outward: outwardOf(intent, seats) };
}
