import { capital, groupBy, TIER_WORDS, type Layout, type Link, type OutwardLink, type Seat } from '@anthemion/core';

/** A column: the switch at the upper end of links, or what is at the far end of cables that go elsewhere. */
export interface LatticeColumn {
  readonly key: string;
  readonly title: string;
  /** Absent = each cell says who is at the far end. */
  readonly seat?: Seat;
}
/** What one cable of a cell says. */
export interface LatticeCable {
  readonly id: string;
  readonly words: string;
}
export interface LatticeRow {
  readonly seat: Seat;
  /** By column. */
  readonly cells: ReadonlyMap<string, readonly LatticeCable[]>;
}
/** Links of one kind: all between two floors (of a pod, where there are pods), within racks, or out of the fabric. */
export interface LatticeSection {
  readonly title: string;
  readonly columns: readonly LatticeColumn[];
  readonly rows: readonly LatticeRow[];
}

const OUTWARD: Readonly<Record<OutwardLink['kind'], string>> = {
  outside: 'outside',
  site: 'another site',
  management: 'management',
};

/** A cable by where it stands: the section, the column there, and the row. */
interface Placed extends LatticeCable {
  readonly section: string;
  readonly column: LatticeColumn;
  readonly row: string;
}

function placeLink(link: Link, { seatById }: Layout): Placed {
  const [low, up] = [seatById.get(link.a.seat)!, seatById.get(link.b.seat)!];
  const ports = `${link.a.port} – ${link.b.port}`;
  const at = { id: link.id, row: low.id };
  // Halves of racks meet nobody else so: a column for each would be empty but for one cell.
  if (link.kind !== 'fabric')
    return {
      ...at,
      words: `${link.a.port} – ${up.host} ${link.b.port}`,
      section: 'Within racks',
      column: { key: link.kind, title: link.kind },
    };
  const pod = up.tier === 'spine' && up.pod !== undefined ? `pod ${up.pod}: ` : '';
  const between =
    low.tier === up.tier
      ? `${TIER_WORDS[up.tier]} side by side`
      : `${TIER_WORDS[up.tier]} over ${TIER_WORDS[low.tier]}`;
  return { ...at, words: ports, section: capital(`${pod}${between}`), column: { key: up.id, title: up.id, seat: up } };
}
const placeOutward = ({ id, kind, a, far }: OutwardLink): Placed => ({
  id,
  words: `${a.port} – ${far.name} ${far.port}`,
  section: 'Out of the fabric',
  column: { key: kind, title: OUTWARD[kind] },
  row: a.seat,
});

/** Every cable of a fabric in one cell of one section; switches without a cable there are not in it. */
export function latticeSections(layout: Layout): LatticeSection[] {
  const placed = [...layout.links.map((l) => placeLink(l, layout)), ...layout.outward.map(placeOutward)];
  const inOrder = new Map(layout.seats.map((s, i) => [s.id, i]));
  const orderOf = (key: string): number => inOrder.get(key) ?? -1;
  const sections = [...groupBy(placed, (p) => p.section)].map(([title, all]): LatticeSection => ({
    title,
    columns: [...new Map(all.map((p) => [p.column.key, p.column])).values()].sort(
      (a, b) => orderOf(a.key) - orderOf(b.key),
    ),
    rows: [...groupBy(all, (p) => p.row)]
      .sort(([a], [b]) => orderOf(a) - orderOf(b))
      .map(([seat, own]) => ({ seat: layout.seatById.get(seat)!, cells: groupBy(own, (p) => p.column.key) })),
  }));
  const isRest = (s: LatticeSection): boolean => s.columns.some((c) => c.seat === undefined);
  return [...sections.filter((s) => !isRest(s)), ...sections.filter(isRest)].sort((a, b) => rank(a) - rank(b));
}
/** From the top of the fabric down, then within racks, then out of it. */
const rank = ({ title }: LatticeSection): number =>
  title === 'Out of the fabric' ? 3 : title === 'Within racks' ? 2 : title.startsWith('Super') ? 0 : 1;
