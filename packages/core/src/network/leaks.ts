import { unicastOf } from '../config/bgpParts.ts';
import type { IpFamily } from '../numbers/address.ts';
import type { HeldRoute } from './bestRoute.ts';
import { PLAIN_EDGE, type BgpEdge, type LeakEdge } from './bgpRoutes.ts';
import type { NetworkModel } from './networkModel.ts';
import type { TenantNode } from './nextHop.ts';
import { mapPolicy } from './policy.ts';
import { OWN_ATTRIBUTES } from './routes.ts';
import type { AnyPrefix } from '../numbers/prefix.ts';

/** A table of a switch that has the routes of another there as well. */
export interface Leakage {
  /** The other, and itself, by their indices. */
  readonly from: number;
  readonly to: number;
  readonly change: LeakChange;
  /** Does the map ask for prefixes alone, so that all routes to one fare alike? */
  readonly byPrefix: boolean;
  /** May a route to a prefix come through? */
  readonly lets: (prefix: AnyPrefix) => boolean;
}
/** What a route becomes on its way from table to table; null = it does not come there. */
export type LeakChange = (prefix: AnyPrefix) => LeakEdge['change'];

/** VRFs whose routes a table has as well, and what becomes of these on the way. */
export function leaksInto(
  { views }: Pick<NetworkModel, 'views'>,
  { host, vrf }: TenantNode,
  family: IpFamily,
): readonly ({ readonly vrf: string } & Omit<Leakage, 'from' | 'to'>)[] {
  const view = views.get(host)!;
  const said = vrf === undefined ? null : view.router(vrf);
  const of = said && unicastOf(said.speaker, family);
  if (!of?.importsFrom) return [];
  const { importsFrom, importMap } = of;
  const policy = importMap === undefined ? null : mapPolicy(view.config, importMap);
  const change: LeakChange = (prefix) => (had: HeldRoute, over) => {
    // What is there from another table already goes no further (seen on FRR 8.4.4).
    const attributes = had.leaked ? null : policy ? policy(had.attributes, prefix) : had.attributes;
    if (!attributes) return null;
    const { favoured, handedOn, teller, internal } = had;
    return { attributes, over, internal, teller, favoured, handedOn, leaked: had };
  };
  const map = view.config.routeMaps.find((m) => m.name === importMap);
  const byPrefix = map?.entries.every((e) => !e.match && e.call === undefined) ?? true;
  const lets = (prefix: AnyPrefix): boolean => !byPrefix || !policy || policy(OWN_ATTRIBUTES, prefix) !== null;
  return importsFrom.flatMap((other) => (view.router(other) ? { vrf: other, change, byPrefix, lets } : []));
}

/** The edges of such tables, behind the others of a settlement: one for each that leads to where they have routes from, and one for what is its own. */
export function leakEdges(leakages: readonly Leakage[], edges: readonly BgpEdge[], prefix: AnyPrefix): BgpEdge[] {
  const into = new Map<number, number[]>(leakages.map((l) => [l.from, [-1]]));
  if (into.size > 0) edges.forEach((e, i) => into.get(e.to)?.push(i));
  return leakages.flatMap(({ from, to, change }) => {
    const through = change(prefix);
    return into.get(from)!.map((of): BgpEdge => ({ ...PLAIN_EDGE, from, to, leak: { of, change: through } }));
  });
}

/** Tables of its switch that routes of a table come from, or go to. */
export function leakNeighbours(model: Pick<NetworkModel, 'views'>, node: TenantNode, family: IpFamily): TenantNode[] {
  const { host, vrf } = node;
  if (vrf === undefined) return [];
  const out = leaksInto(model, node, family).map((l) => l.vrf);
  for (const other of model.views.get(host)!.config.bgp?.vrfs ?? [])
    if (unicastOf(other, family)?.importsFrom?.includes(vrf)) out.push(other.vrf);
  return out.map((other) => ({ host, vrf: other }));
}
