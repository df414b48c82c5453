import type { AlikeRouters } from './alikeOutside.ts';
import type { PathCounts } from './pathVector.ts';
import type { Routed } from './routedFamily.ts';

/** Equal paths to one thing that is announced, by router, and how sure they are. */
export interface PathRow {
  readonly counts: Uint16Array;
  readonly unsure: Uint8Array;
}

/** Paths of a family: to what each switch announces, origin × size + router. */
export interface FamilyPaths extends PathCounts {
  /** Where policies come in: by address; `counts` then has the least of what a switch announces. */
  readonly byAddress?: ReadonlyMap<string, PathRow>;
  /** As `counts`; absent = all is certain. */
  readonly unsure?: Uint8Array;
}

/** Rows of one switch: the least of what it announces, and each address by itself. */
export interface OriginRows extends PathRow {
  readonly byAddress: ReadonlyMap<string, PathRow>;
}
/** Two that change places, and nobody else with them. */
export const bySelf: AlikeRouters['swaps'] = (one, other) => [[one, other]];
type Swaps = ReturnType<AlikeRouters['swaps']>;
/** The same with these in one another’s place. */
export function swapped<A extends Uint16Array | Uint8Array>(row: A, swaps: Swaps): A {
  const out = row.slice() as A;
  for (const [one, other] of swaps) [out[other], out[one]] = [row[one]!, row[other]!];
  return out;
}
/** The row of one of two routers that may change places, from that of the other. */
export const inPlaceOf = ({ counts, unsure }: PathRow, swaps: Swaps): PathRow => ({
  counts: swapped(counts, swaps),
  unsure: swapped(unsure, swaps),
});
/** The same of all its addresses: the first of one is as the first of the other, and so on. */
export function originInPlaceOf(
  { switches, views }: Pick<Routed, 'switches' | 'views'>,
  row: OriginRows,
  swaps: Swaps,
): OriginRows {
  const [[other, origin]] = swaps as readonly [readonly [number, number]];
  const made = new Map<PathRow, PathRow>();
  const rowOfAddress = (address: string): PathRow => {
    const of = row.byAddress.get(address)!;
    let mine = made.get(of);
    if (!mine) made.set(of, (mine = inPlaceOf(of, swaps)));
    return mine;
  };
  const theirs = [...views.get(switches[other]!.host)!.announced];
  const own = [...views.get(switches[origin]!.host)!.announced];
  return {
    ...inPlaceOf(row, swaps),
    byAddress: new Map(own.map((address, i) => [address, rowOfAddress(theirs[i]!)])),
  };
}

/** Which origins are alike, and how the row of one is had from that of another. */
export interface Likeness<R> extends AlikeRouters {
  /** @param swaps first the one that was settled and the one that is asked about */
  readonly inPlaceOf: (row: R, swaps: Swaps) => R;
}
/** The rows of every switch, one after the other; of those that are alike the first is settled. */
export function together<R extends PathRow & Partial<OriginRows>>(
  size: number,
  rowAt: (origin: number) => R,
  likeness: Likeness<R> | undefined,
): FamilyPaths {
  const counts = new Uint16Array(size * size);
  const unsure = new Uint8Array(size * size);
  const byAddress = new Map<string, PathRow>();
  /** The first of each class, with its row. */
  const settled = new Map<number, readonly [number, R]>();
  for (let o = 0; o < size; o++) {
    const like = likeness?.classes[o] ?? -1;
    const first = settled.get(like);
    const row = first ? likeness!.inPlaceOf(first[1], likeness!.swaps(first[0], o)) : rowAt(o);
    if (like >= 0 && !first) settled.set(like, [o, row]);
    counts.set(row.counts, o * size);
    unsure.set(row.unsure, o * size);
    for (const [address, paths] of row.byAddress ?? []) byAddress.set(address, paths);
  }
  return { size, counts, unsure, ...(byAddress.size > 0 ? { byAddress } : {}) };
}
