import type { SwitchConfig } from '../config/switchConfig.ts';
import type { IpFamily } from '../numbers/address.ts';
import { formatAny, type AnyPrefix } from '../numbers/prefix.ts';
import type { HeldRoute } from './bestRoute.ts';
import { settleRoutes, type BgpEdge } from './bgpRoutes.ts';
import { subnetsIn, writtenIn } from './localRoutes.ts';
import type { bgpRouter } from './routedFamily.ts';
import type { Attributes } from './routes.ts';

/** Administrative distances of BGP and OSPF (FRR): of several that bring a prefix into a table the lowest does. */
const EXTERNAL = 20;
const INTERNAL = 200;
export const OSPF = 110;

/**
 * The distance at which BGP brings what it holds.
 * @param isOwn is it a route that the router has from elsewhere? Then it is in the table by that, not by BGP
 */
export function distanceOf([best]: readonly HeldRoute[], isOwn: boolean): number {
  if (best === undefined) return Infinity;
  if (best.over < 0) return isOwn ? Infinity : INTERNAL;
  return best.internal ? INTERNAL : EXTERNAL;
}

/** A table of routes, and what its switch says. */
export interface Table {
  readonly vrf: string | undefined;
  readonly config: SwitchConfig;
  /** Routes that its BGP has from elsewhere, by prefix. */
  readonly own: { readonly has: (prefix: string) => boolean } | undefined;
}
/** What the routes of a prefix were settled from, table by table. */
export interface SettledFrom {
  readonly own: ReadonlyMap<number, Attributes>;
  readonly routers: readonly ReturnType<typeof bgpRouter>[];
  readonly edges: readonly BgpEdge[];
  readonly quiet: readonly boolean[];
}

/**
 * Does a table tell a route that is written down, and would BGP bring that prefix nearer if it did not? While the written
 * one is told it is the best of BGP, which then brings none; where BGP was first, the written one is not used and not told.
 */
export function standsOrFalls(
  { own, routers, edges, quiet }: SettledFrom,
  tables: readonly Table[],
  prefix: AnyPrefix,
  family: IpFamily,
): boolean {
  const text = formatAny(prefix);
  return tables.some((table, i) => {
    if (table.own?.has(text) !== true) return false;
    if (subnetsIn(table.config, table.vrf, family).some((c) => formatAny(c.prefix) === text)) return false;
    const distances = writtenIn(table.config, table.vrf, family).flatMap(({ route, state }) =>
      route.prefix === text && state !== 'inactive' ? (route.distance ?? 1) : [],
    );
    const nearest = Math.min(...distances);
    if (distances.length === 0 || nearest < EXTERNAL) return false;
    const others = new Map([...own].filter(([from]) => from !== i));
    const { held } = settleRoutes(routers, edges, prefix, others, (r) => !quiet[r]);
    return distanceOf(held[i]!, false) <= nearest;
  });
}
