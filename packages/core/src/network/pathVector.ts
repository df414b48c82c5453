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
}

/**
 * What eBGP settles to when every router announces its own prefixes: the shortest AS path wins, a path that holds the
 * receiver's own AS number is dropped (RFC 4271 §9.1.2), ties go to the lowest router id, and equal paths share load up
 * to the multipath width. One breadth-first pass per origin; cost grows with origins × sessions.
 */
export function settlePaths(routers: readonly PathRouter[], edges: readonly PathEdge[]): PathCounts {
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

  for (let origin = 0; origin < size; origin++) {
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
  }
  return { size, counts };
}
