import type { NetworkModel } from './networkModel.ts';
import type { TenantWay } from './tenantRoute.ts';

/**
 * May a switch take some of several ways through EVPN only, that are as good else? Within an AS those of the nearest VTEPs
 * count (RFC 4271 §9.1.2.2 e), and FRR goes by how near each was when it heard of it: where one is next door, or they are not
 * equally far, it hangs on what came first (seen on 8.4.4).
 */
export function apartByCost(model: NetworkModel, host: string, ways: readonly TenantWay[]): boolean {
  const { ospf } = model;
  if (!ospf || ways.length < 2) return false;
  const at = model.index.get(host)!;
  const near = new Set(ospf.adjacencies.flatMap((a) => (a.host === host && a.up ? a.farHost : [])));
  const costs = new Set<number | undefined>();
  for (const { session, to, held } of ways) {
    if (session !== null || to?.vrf === undefined || !held.internal) return false;
    if (near.has(to.host)) return true;
    const vtep = model.views.get(to.host)!.vrfs.get(to.vrf)?.vtep;
    costs.add(vtep === undefined ? undefined : ospf.routesTo(`${vtep}/32`, to.host)[at]?.cost);
  }
  return costs.size > 1;
}
