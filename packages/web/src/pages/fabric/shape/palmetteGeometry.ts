/** A rack as the palmette draws it. */
export interface PetalInput {
  readonly rack: number;
  readonly seats: readonly string[];
}
export interface Point {
  readonly x: number;
  readonly y: number;
}
export interface Petal extends Point {
  readonly rack: number;
  /** Degrees to turn an upright petal. */
  readonly turn: number;
  /** Size against a petal of a small fabric, 0–1. */
  readonly scale: number;
  readonly leaves: readonly (Point & { readonly seat: string })[];
  readonly label: Point;
}
export type Placed = Point & { readonly row?: number };
export interface Palmette {
  readonly petals: readonly Petal[];
  /** Seats above the racks, row by row, the one next to the racks first. */
  readonly spines: readonly (Point & { readonly seat: string; readonly row: number })[];
  readonly centre: Point;
  /** Where the scrolls that carry it all lie. */
  readonly base: Point;
  /** Curve of a link, as an SVG path, from the end nearer to the servers; what has no row is a leaf. */
  readonly link: (from: Placed, to: Placed) => string;
}

/** Length of an upright petal at scale 1; its foot stands 26 below its origin. */
export const PETAL_LENGTH = 104;
const FAN_FROM = -182;
const FAN_TO = 2;
/** Racks that one arc holds at full size, and how much smaller an inner arc is than the outermost. */
const PER_ARC = 14;
const INNERMOST = 0.5;
const rad = (deg: number): number => (deg * Math.PI) / 180;

/** Between two rows of seats above the racks. */
const ROW_HEIGHT = 54;

/** How many arcs a number of racks is drawn on: more racks take more, smaller, arcs. */
export function arcsFor(racks: number): number {
  let arcs = 1;
  while (racks > PER_ARC * arcs * arcs && arcs < 9) arcs++;
  return arcs;
}

/** Where everything stands: spines in the base, racks as petals fanned out over them on one or more arcs. */
export function layPalmette(
  racks: readonly PetalInput[],
  rows: readonly (readonly string[])[],
  width: number,
  height: number,
): Palmette {
  const below = ROW_HEIGHT * Math.max(0, rows.length - 1);
  const centre = { x: width / 2, y: height - 106 - below };
  const rx = width / 2 - 142;
  const ry = height - 106 - below - 152;
  const arcs = arcsFor(racks.length);
  const radii = Array.from({ length: arcs }, (_, k) => (arcs === 1 ? 1 : 1 - ((1 - INNERMOST) * k) / (arcs - 1)));
  const total = radii.reduce((a, b) => a + b, 0);
  const petals: Petal[] = [];
  let next = 0;
  radii.forEach((radius, k) => {
    const share = k === arcs - 1 ? racks.length - next : Math.round((racks.length * radius) / total);
    const part = racks.slice(next, next + share);
    next += share;
    const unit = (FAN_TO - FAN_FROM) / Math.max(1, part.length);
    const room = (rad(unit) * ((rx + ry) / 2) * radius) / 64;
    const scale = Math.max(0.12, Math.min(1, room, arcs === 1 ? 1 : 1.6 / arcs));
    part.forEach((rack, i) => {
      const angle = rad(FAN_FROM + unit * (i + 0.5));
      const x = centre.x + rx * radius * Math.cos(angle);
      const y = centre.y - 20 + ry * radius * Math.sin(angle);
      const offsets = rack.seats.length === 2 ? [-1, 1] : [0];
      petals.push({
        rack: rack.rack,
        x,
        y,
        turn: (angle * 180) / Math.PI + 90,
        scale,
        leaves: rack.seats.map((seat, s) => ({
          seat,
          x: x + (offsets[s] ?? 0) * 14 * scale * -Math.sin(angle),
          y: y + (offsets[s] ?? 0) * 14 * scale * Math.cos(angle),
        })),
        label: { x: x + Math.cos(angle) * 112 * scale, y: y + Math.sin(angle) * 108 * scale },
      });
    });
  });
  const placed = rows.flatMap((seats, row) => {
    const gap = Math.min(row === 0 ? 80 : 124, (width - 200) / Math.max(1, seats.length));
    return seats.map((seat, i) => {
      const t = seats.length === 1 ? 0 : (2 * i) / (seats.length - 1) - 1;
      const x = centre.x + (i - (seats.length - 1) / 2) * gap;
      return { seat, row, x, y: centre.y + 6 + 10 * t * t + row * ROW_HEIGHT };
    });
  });
  const n = (v: number): string => v.toFixed(1);
  const fanned = (leaf: Point, spine: Point): string => {
    const c1 = { x: spine.x + (centre.x - spine.x) * 0.1 + (leaf.x - spine.x) * 0.06, y: spine.y - 110 };
    const c2 = { x: leaf.x - (leaf.x - centre.x) * 0.34, y: leaf.y - (leaf.y - centre.y) * 0.34 };
    return `M${n(spine.x)} ${n(spine.y - 9)}C${n(c1.x)} ${n(c1.y)} ${n(c2.x)} ${n(c2.y)} ${n(leaf.x)} ${n(leaf.y)}`;
  };
  const downwards = (upper: Point, lower: Point): string => {
    const middle = (upper.y + lower.y) / 2;
    return `M${n(upper.x)} ${n(upper.y)}C${n(upper.x)} ${n(middle)} ${n(lower.x)} ${n(middle)} ${n(lower.x)} ${n(lower.y)}`;
  };
  // Leaves that are joined to one another: through the middle of the fan.
  const across = (a: Point, b: Point): string => {
    const [x, y] = [(a.x + b.x) / 2, (a.y + b.y) / 2];
    const pull = Math.min(0.5, Math.hypot(a.x - b.x, a.y - b.y) / 500);
    const bend = { x: x + (centre.x - x) * pull, y: y + (centre.y - y) * pull };
    return `M${n(a.x)} ${n(a.y)}Q${n(bend.x)} ${n(bend.y)} ${n(b.x)} ${n(b.y)}`;
  };
  const link = (from: Placed, to: Placed): string =>
    to.row === undefined ? across(from, to) : from.row === undefined ? fanned(from, to) : downwards(from, to);
  return { petals, spines: placed, centre, base: { x: centre.x, y: centre.y + below }, link };
}

/** Outline of an upright petal, foot at the origin's side, for a width at scale 1. */
export const petalOutline = (width: number): string =>
  `M0 26C${-width} 8 ${-width} ${-PETAL_LENGTH * 0.55} 0 ${-PETAL_LENGTH + 18}C${width} ${-PETAL_LENGTH * 0.55} ${width} 8 0 26Z`;
