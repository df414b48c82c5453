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

/** What of an intent seats and links follow from: all but what is known not to matter. */
function laidFrom(intent: FabricIntent): object {
  const {
    name: _name,
    pattern: _pattern,
    pools: _pools,
    seating: _seating,
    shutLinks: _shutLinks,
    drained: _drained,
    ...more
  } = intent;
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
/** How a layout was made. */
interface Making {
  readonly from: object;
  /** With all of its links open. */
  readonly open: Layout;
  readonly shut: FabricIntent['shutLinks'];
}
const makings = new WeakMap<Layout, Making>();
/** The last layout of these racks: most edits leave them alone. */
const ofRacks = new WeakMap<FabricIntent['racks'], Layout>();

/**
 * Intent → seats and links, by the shape of the fabric. Where nothing changed that it follows from, it is the very layout of
 * before (or the last one of the same racks), so that what is computed once for a layout is not computed again; where links
 * are shut or opened, so are the seats, and the links of those at none of them.
 */
export function layOut(intent: FabricIntent, before?: Layout): Layout {
  const from = laidFrom(intent);
  const { shutLinks: shut } = intent;
  const known = before ?? ofRacks.get(intent.racks);
  const making = known && makings.get(known);
  const same = making !== undefined && sameContent(making.from, from);
  if (same && sameContent(making.shut, shut)) return known!;
  const open = same ? making.open : make(intent);
  const layout = shut.length === 0 ? open : withShut(open, new Set(shut.map((l) => l.link)));
  makings.set(layout, { from, open, shut });
  ofRacks.set(intent.racks, layout);
  return layout;
}

function make(intent: FabricIntent): Layout {
  const { seats, links } = SHAPES[shapeOf(intent)](intent);
  const linksOf = new Map<SeatId, Link[]>(seats.map((s) => [s.id, []]));
  for (const link of links) for (const { seat } of [link.a, link.b]) linksOf.get(seat)?.push(link);
  return { seats, seatById: new Map(seats.map((s) => [s.id, s])), links, linksOf, outward: outwardOf(intent, seats) };
}

/** A layout of which some links are shut. */
function withShut(open: Layout, shut: ReadonlySet<string>): Layout {
  const turned = new Map<Link, Link>();
  for (const link of open.links) if (shut.has(link.id)) turned.set(link, { ...link, shut: true });
  const said = (links: readonly Link[]): Link[] => links.map((l) => turned.get(l) ?? l);
  const linksOf = new Map(open.linksOf);
  for (const { a, b } of turned.keys()) for (const { seat } of [a, b]) linksOf.set(seat, said(open.linksOf.get(seat)!));
  return { ...open, links: said(open.links), linksOf };
}
