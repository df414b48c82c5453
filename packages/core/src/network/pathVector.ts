import { classesOf, type Alike } from './alike.ts';

/** A router as path-vector routing sees it. */
export interface PathRouter {
  readonly asn: number;
  readonly routerId: number;
  readonly maximumPaths: number;
  /** Paths of equal length may share load though they come from different AS numbers. */
  readonly multipathRelax: boolean;
}

/** A session over which `from` tells `to` its best path. */
export interface PathEdge {
  readonly from: number;
  readonly to: number;
  /** How often the receiver's own AS number may stand in the path. */
  readonly ownAsAllowed: number;
}

/** For every origin and router: how many equal paths the router uses (0 = no route). Index origin × size + router. */
export interface PathCounts {
  readonly size: number;
  readonly counts: Uint16Array;
  /** `BY_CHANCE` where it is another number, had another path been heard first; absent = nowhere. */
  readonly unsure?: Uint8Array;
}
/** Paths that cannot share load, and of which the first that is heard stays (FRR 8.4.4): it is one group of them or another. */
export const BY_CHANCE = 8;

/**
 * Routers that can change places two by two without anything else being otherwise, as class numbers: they have the same
 * neighbours over the same sessions, the same words, and an AS number that nobody else has. (Control-plane compression:
 * Beckett et al., SIGCOMM 2018.) −1 = nobody is like it.
 */
export function alikeRouters(routers: readonly PathRouter[], edges: readonly PathEdge[]): Alike {
  const around: number[][] = routers.map(() => []);
  // Both directions and what may come over each, as one number.
  for (const { from, to, ownAsAllowed } of edges) {
    around[from]!.push((to * 256 + ownAsAllowed) * 2);
    around[to]!.push((from * 256 + ownAsAllowed) * 2 + 1);
  }
  const shared = new Map<number, number>();
  for (const { asn } of routers) shared.set(asn, (shared.get(asn) ?? 0) + 1);
  return classesOf(
    routers.map((r, i) =>
      shared.get(r.asn)! > 1
        ? null
        : `${r.maximumPaths} ${r.multipathRelax} ${Uint32Array.from(around[i]!).sort().join()}`,
    ),
  );
}

/**
 * What eBGP settles to when every router announces its own prefixes: the shortest AS path wins, a path that holds the
 * receiver's own AS number is dropped (RFC 4271 §9.1.2), ties go to the lowest router id, and equal paths share load up
 * to the multipath width. One breadth-first pass per origin, and one for all that are alike: who is next to one of them
 * is next to each, so hears of the origin from itself, and the others only listen. Cost grows with such origins × sessions.
 * @param alike which routers may change places, see `alikeRouters`
 */
export function settlePaths(
  routers: readonly PathRouter[],
  edges: readonly PathEdge[],
  alike: Alike = alikeRouters(routers, edges),
): PathCounts {
  const size = routers.length;
  const counts = new Uint16Array(size * size);
  const starts = new Int32Array(size + 1);
  for (const e of edges) starts[e.from + 1]!++;
  for (let i = 0; i < size; i++) starts[i + 1]! += starts[i]!;
  const fill = starts.slice();
  const to = new Int32Array(edges.length);
  const allowed = new Uint8Array(edges.length);
  for (const e of edges) {
    const at = fill[e.from]!++;
    to[at] = e.to;
    allowed[at] = e.ownAsAllowed;
  }
  const asn = Float64Array.from(routers, (r) => r.asn);
  const widest = Uint16Array.from(routers, (r) => Math.max(1, r.maximumPaths));
  const byId = routers.map((_, i) => i).sort((a, b) => routers[a]!.routerId - routers[b]!.routerId);
  const rank = new Int32Array(size);
  byId.forEach((router, i) => (rank[router] = i));
  const distance = new Int32Array(size);
  /** Router the best path was learnt from; −1 at the origin. */
  const via = new Int32Array(size);
  /** Of routers that share load only within an AS number: paths from each, for one origin. */
  const byAs = new Map<number, Map<number, number>>();
  let unsure: Uint8Array | null = null;
  const noteChances = (row: number): void => {
    for (const [v, sizes] of byAs) {
      const used = new Set([...sizes.values()].map((n) => Math.min(n, widest[v]!)));
      if (used.size > 1) (unsure ??= new Uint8Array(size * size))[row + v] = BY_CHANCE;
    }
    byAs.clear();
  };
  /** The first origin of each class. */
  const settled = new Map<number, number>();

  function settleFrom(origin: number): void {
    distance.fill(-1);
    distance[origin] = 0;
    via[origin] = -1;
    const row = origin * size;
    counts[row + origin] = 1;
    let frontier = [origin];
    for (let length = 1; frontier.length > 0; length++) {
      const next: number[] = [];
      for (const u of frontier)
        for (let e = starts[u]!; e < starts[u + 1]!; e++) {
          const v = to[e]!;
          if (distance[v] !== -1 && distance[v] !== length) continue;
          let own = 0;
          for (let hop = u; hop >= 0; hop = via[hop]!) if (asn[hop] === asn[v]) own++;
          if (own > allowed[e]!) continue;
          if (!routers[v]!.multipathRelax) {
            const sizes = byAs.get(v) ?? new Map<number, number>();
            byAs.set(v, sizes.set(asn[u]!, (sizes.get(asn[u]!) ?? 0) + 1));
          }
          if (distance[v] === -1) {
            distance[v] = length;
            via[v] = u;
            counts[row + v] = 1;
            next.push(v);
          } else if (counts[row + v]! < widest[v]! && (routers[v]!.multipathRelax || asn[u] === asn[via[v]!]))
            counts[row + v]!++;
        }
      frontier = next.sort((a, b) => rank[a]! - rank[b]!);
    }
    if (byAs.size > 0) noteChances(row);
  }

  for (let origin = 0; origin < size; origin++) {
    const like = alike[origin]!;
    const first = settled.get(like);
    if (first === undefined) {
      settleFrom(origin);
      if (like >= 0) settled.set(like, origin);
      continue;
    }
    // The two change places; to all others nothing is otherwise.
    counts.copyWithin(origin * size, first * size, (first + 1) * size);
    counts[origin * size + origin] = 1;
    counts[origin * size + first] = counts[first * size + origin]!;
    const chances = unsure as Uint8Array | null;
    if (!chances) continue;
    chances.copyWithin(origin * size, first * size, (first + 1) * size);
    chances[origin * size + origin] = 0;
    chances[origin * size + first] = chances[first * size + origin]!;
  }
  return unsure ? { size, counts, unsure } : { size, counts };
}
