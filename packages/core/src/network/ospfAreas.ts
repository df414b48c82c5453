import type { Place } from '../config/switchConfig.ts';

/** An interface of OSPF that has a cable, and what becomes of it with the router at its other end. */
export interface Adjacency {
  readonly host: string;
  readonly port: string;
  readonly area: string;
  readonly farHost: string | null;
  readonly farPort: string | null;
  readonly up: boolean;
  /** Why not, or why no route leads over it; null = all is well. */
  readonly reason: string | null;
  /** What of the interface that hangs on, or what makes it speak. */
  readonly place: Place;
}

/** One direction of an adjacency that is up. */
export interface OspfEdge {
  readonly from: number;
  readonly to: number;
  readonly area: string;
  readonly cost: number;
  readonly adjacency: Adjacency;
}

export const BACKBONE = '0.0.0.0';

/** Distances of all routers of an area to some of them, and what lies on the ways. */
interface Towards {
  readonly cost: ReadonlyMap<number, number>;
  readonly over: (router: number) => Adjacency[];
}

export class Areas {
  private readonly edges: readonly OspfEdge[];
  /** Edges into each router, by area. */
  private readonly into = new Map<string, Map<number, OspfEdge[]>>();
  private readonly from = new Map<string, Map<number, OspfEdge[]>>();
  readonly members = new Map<string, Set<number>>();
  constructor(edges: readonly OspfEdge[], members: readonly (readonly [area: string, router: number])[]) {
    this.edges = edges;
    const put = (all: Map<string, Map<number, OspfEdge[]>>, router: number, e: OspfEdge): void => {
      let area = all.get(e.area);
      if (!area) all.set(e.area, (area = new Map<number, OspfEdge[]>()));
      const known = area.get(router);
      if (known) known.push(e);
      else area.set(router, [e]);
    };
    for (const e of this.edges) {
      put(this.into, e.to, e);
      put(this.from, e.from, e);
    }
    for (const [area, router] of members) this.members.set(area, (this.members.get(area) ?? new Set()).add(router));
  }
  /** Where a router sends on to one other in an area. */
  private toOne(area: string, router: number): Towards {
    const key = `${area} ${router}`;
    let known = this.ones.get(key);
    if (!known) this.ones.set(key, (known = this.towards(area, new Map([[router, 0]]))));
    return known;
  }
  private readonly ones = new Map<string, Towards>();
  /** Equal ways of a router to one other. */
  private waysToOne(area: string, from: number, router: number): number {
    const out = this.from.get(area)?.get(from) ?? [];
    const least = out.reduce((n, e) => Math.min(n, e.cost), Infinity);
    // Next door, and nobody is nearer: no way over others is as short.
    const direct = out.filter((e) => e.to === router && e.cost === least).length;
    return direct > 0 ? direct : this.toOne(area, router).over(from).length;
  }
  /**
   * Do equal ways of a router to some others meet before they are there, or lead to several? FRR 8.4.4 counts for IPv6 what
   * leads on by the way that it found there first.
   * @param ends those others, each with what is to be added at it; the answer is for any router of the area
   */
  meetOnWay(area: string, ends: ReadonlyMap<number, number>): (from: number) => boolean {
    const { cost } = this.towards(area, ends);
    const known = new Map<number, readonly number[]>();
    const next = (router: number): readonly number[] => {
      let all = known.get(router);
      if (!all) {
        const own = cost.get(router);
        all = (this.from.get(area)?.get(router) ?? []).flatMap((e) =>
          e.cost + (cost.get(e.to) ?? Infinity) === own ? [e.to] : [],
        );
        known.set(router, all);
      }
      return all;
    };
    return (from) => {
      const met = new Set(next(from));
      let arrived = 0;
      for (const router of met) {
        if (ends.has(router)) {
          if (++arrived > 1) return true;
          continue;
        }
        if (this.waysToOne(area, from, router) > 1) return true;
        for (const n of next(router)) met.add(n);
      }
      return false;
    };
  }
  hasNeighbour(area: string, router: number): boolean {
    return (this.from.get(area)?.get(router) ?? []).length > 0;
  }
  areasOf(router: number): string[] {
    return [...this.members].filter(([, m]) => m.has(router)).map(([a]) => a);
  }

  /** Shortest ways within an area to any of some routers, each with what is to be added at it (RFC 2328 §16.1). */
  towards(area: string, ends: ReadonlyMap<number, number>): Towards {
    const cost = new Map<number, number>();
    const open = new Map(ends);
    const into = this.into.get(area);
    // All that are equally near at once: in a fabric they are many, and few distances.
    while (open.size > 0) {
      const least = Math.min(...open.values());
      const nearest = [...open].flatMap(([r, c]) => (c === least ? [r] : []));
      for (const r of nearest) {
        open.delete(r);
        cost.set(r, least);
      }
      for (const r of nearest)
        for (const e of into?.get(r) ?? [])
          if (!cost.has(e.from) && least + e.cost < (open.get(e.from) ?? Infinity)) open.set(e.from, least + e.cost);
    }
    return {
      cost,
      over: (router) =>
        (this.from.get(area)?.get(router) ?? [])
          .filter((e) => e.cost + (cost.get(e.to) ?? Infinity) === cost.get(router))
          .map((e) => e.adjacency),
    };
  }
}

export type Found = Map<
  number,
  { readonly kind: 'own' | 'intra' | 'inter'; readonly cost: number; readonly over: Adjacency[] }
>;

/** Ways of all routers to what some bring into their areas: within an area, then over the backbone (RFC 2328 §16.2). */
export function ways(areas: Areas, ends: ReadonlyMap<string, ReadonlyMap<number, number>>): Found {
  const found: Found = new Map();
  const take = (router: number, kind: 'intra' | 'inter', cost: number, over: Adjacency[]): void => {
    const known = found.get(router);
    if (known && (known.kind !== kind || known.cost < cost)) return;
    if (known && known.cost === cost) known.over.push(...over);
    else found.set(router, { kind, cost, over });
  };
  for (const own of ends.values()) for (const [router, cost] of own) found.set(router, { kind: 'own', cost, over: [] });
  const within = new Map<string, ReadonlyMap<number, number>>();
  for (const [area, own] of ends) {
    const { cost, over } = areas.towards(area, own);
    within.set(area, cost);
    for (const [router, c] of cost) take(router, 'intra', c, over(router));
  }
  const backbone = areas.members.get(BACKBONE);
  if (!backbone) return found;
  /** What routers at the border of an area say of it into another. */
  const told = (into: string): Map<number, number> => {
    const out = new Map<number, number>();
    for (const router of areas.members.get(into) ?? []) {
      const known = found.get(router);
      if (!known || !backbone.has(router) || areas.areasOf(router).length < 2) continue;
      // Of other areas only, and into the backbone only what lies within one of its own.
      const others = [...within].filter(([a, c]) => a !== into && c.has(router)).map(([, c]) => c.get(router)!);
      const stands = known.kind !== 'inter' && within.get(into)?.has(router) === true;
      if (stands) continue;
      if (others.length > 0) out.set(router, Math.min(...others));
      else if (into !== BACKBONE && overBackbone.has(router)) out.set(router, known.cost);
    }
    return out;
  };
  /** Routers that have it over the backbone: of what comes over other areas nothing is told on. */
  const overBackbone = new Set<number>();
  const spread = (area: string, summaries: ReadonlyMap<number, number>): void => {
    const { cost, over } = areas.towards(area, summaries);
    for (const [router, c] of cost) {
      const known = found.get(router);
      if (known && known.kind !== 'inter') continue;
      // A border router goes by the backbone alone, where it has a neighbour in it (RFC 3509 §2.2, as FRR goes by itself).
      if (area !== BACKBONE && areas.hasNeighbour(BACKBONE, router)) continue;
      if (area === BACKBONE) overBackbone.add(router);
      take(router, 'inter', c, over(router));
    }
  };
  spread(BACKBONE, told(BACKBONE));
  const below = [...areas.members.keys()].filter((a) => a !== BACKBONE).map((a) => [a, told(a)] as const);
  for (const [area, summaries] of below) spread(area, summaries);
  return found;
}
