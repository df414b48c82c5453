import { layPalmette, PETAL_LENGTH, petalOutline, type Palmette, type Point } from './palmetteGeometry.ts';

/** Up to so many racks each is a petal of its own; above that, groups of racks are. */
export const RACKS_SHOWN = 24;

export interface GroupedRack {
  readonly rack: number;
  /** Where it stands, such as “Mole hall, row C”; empty = nobody said. */
  readonly place: string;
  readonly seats: readonly string[];
}
/** Racks that stand together, drawn as one petal. */
export interface RackGroup {
  /** Stays the same while its racks do: it stands in links. */
  readonly id: string;
  readonly name: string;
  readonly racks: readonly number[];
  readonly seats: readonly string[];
}

/**
 * Groups of racks, at most as many as there is room for petals: by the hall or row they stand in where that is said of
 * all of them and makes a readable number, else by number.
 */
export function groupRacks(racks: readonly GroupedRack[], most = RACKS_SHOWN): RackGroup[] {
  const places = new Map<string, GroupedRack[]>();
  for (const r of racks) places.set(r.place, [...(places.get(r.place) ?? []), r]);
  const byPlace = !places.has('') && places.size > 1 && places.size <= most;
  if (byPlace) return [...places].map(([place, list]) => group(place, place, list));
  const size = Math.ceil(racks.length / most);
  const out: RackGroup[] = [];
  for (let i = 0; i < racks.length; i += size) {
    const list = racks.slice(i, i + size);
    const [first, last] = [list[0]!.rack, list.at(-1)!.rack];
    out.push(group(`${first}-${last}`, first === last ? `rack ${first}` : `racks ${first}–${last}`, list));
  }
  return out;
}
const group = (id: string, name: string, list: readonly GroupedRack[]): RackGroup => ({
  id,
  name,
  racks: list.map((r) => r.rack),
  seats: list.flatMap((r) => r.seats),
});

export interface Seed extends Point {
  readonly seat: string;
}
export interface GroupPetal extends Point {
  readonly group: RackGroup;
  readonly turn: number;
  readonly scale: number;
  readonly label: Point;
  readonly seeds: readonly Seed[];
  /** Size of a seed, pixels. */
  readonly seed: number;
  /** Where its bundles begin. */
  readonly foot: Point;
}
export interface GroupedPalmette extends Pick<Palmette, 'spines' | 'centre' | 'base' | 'link'> {
  readonly petals: readonly GroupPetal[];
}

export const GROUP_WIDTH = 34;
/** Half the width of a petal at a height above its foot (0 = foot, 1 = tip), in shares of its greatest width. */
const halfWidth = (t: number): number => Math.sin(Math.PI * Math.min(1, Math.max(0, t)) ** 0.85);

/** Spots for `n` seeds in an upright petal, foot at the origin's side, row by row from the foot; nothing outside it. */
export function seedSpots(n: number): { readonly spots: readonly Point[]; readonly size: number } {
  if (n === 0) return { spots: [], size: 0 };
  const length = PETAL_LENGTH + 8;
  // So many rows that all seeds find room, each row as wide as the petal is there.
  for (let rows = Math.max(2, Math.ceil(Math.sqrt(n / 2))); rows < 200; rows++) {
    const step = (length * 0.78) / rows;
    const capacity = Array.from({ length: rows }, (_, i) =>
      Math.max(1, Math.floor((2 * GROUP_WIDTH * 0.72 * halfWidth(0.12 + (0.78 * (i + 0.5)) / rows)) / step)),
    );
    if (capacity.reduce((a, b) => a + b, 0) < n) continue;
    const spots: Point[] = [];
    for (let i = 0; i < rows && spots.length < n; i++) {
      const k = Math.min(capacity[i]!, n - spots.length);
      const y = 18 - length * 0.12 - step * (i + 0.5);
      for (let j = 0; j < k; j++) spots.push({ x: (j - (k - 1) / 2) * step, y });
    }
    return { spots, size: Math.min(4.2, step * 0.36) };
  }
  return { spots: [], size: 0 };
}

/** Where the groups of a large fabric stand, and each of their switches as a seed in its petal. */
export function layGroups(
  groups: readonly RackGroup[],
  rows: readonly (readonly string[])[],
  width: number,
  height: number,
): GroupedPalmette {
  const fan = layPalmette(
    groups.map((_, i) => ({ rack: i, seats: [] })),
    rows,
    width,
    height,
  );
  return {
    spines: fan.spines,
    centre: fan.centre,
    base: fan.base,
    link: fan.link,
    petals: fan.petals.map((p): GroupPetal => {
      const g = groups[p.rack]!;
      const turn = (p.turn * Math.PI) / 180;
      const [sin, cos] = [Math.sin(turn), Math.cos(turn)];
      const place = ({ x, y }: Point): Point => ({
        x: p.x + p.scale * (x * cos - y * sin),
        y: p.y + p.scale * (x * sin + y * cos),
      });
      const { spots, size } = seedSpots(g.seats.length);
      return {
        group: g,
        x: p.x,
        y: p.y,
        turn: p.turn,
        scale: p.scale,
        label: p.label,
        seed: Math.max(0.9, size * p.scale),
        seeds: spots.map((s, i) => ({ ...place(s), seat: g.seats[i]! })),
        foot: place({ x: 0, y: 24 }),
      };
    }),
  };
}
export const groupOutline = petalOutline(GROUP_WIDTH);
