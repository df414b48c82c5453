import { hostPrefix } from '../numbers/prefix.ts';
import type { NetworkModel } from './networkModel.ts';
import type { TenantWay } from './tenantRoute.ts';
import { ospfWays } from './underlayWays.ts';

/**
 * May a switch take some of several ways through EVPN only, that are as good else? Those of the nearest VTEPs count (RFC 4271
 * §9.1.2.2 e), of eBGP as of iBGP, where OSPF leads to them; what BGP leads to is equally near. Within an AS FRR goes by how near
 * each was when it heard of it: where one is next door, or they are not equally far, it hangs on what came first (seen on 8.4.4).
 */
export function apartByCost(model: NetworkModel, host: string, ways: readonly TenantWay[]): boolean {
  const { ospf } = model;
  if (!ospf || ways.length < 2) return false;
  const at = model.index.get(host)!;
  const near = new Set(ospf.adjacencies.flatMap((a) => (a.host === host && a.up ? a.farHost : [])));
  const costs = new Set<number | undefined>();
  for (const { session, to, held } of ways) {
    if (session !== null || to?.vrf === undefined) return false;
    if (held.internal && near.has(to.host)) return true;
    const vtep = model.views.get(to.host)!.vrfs.get(to.vrf)?.vtep;
    const route =
      vtep === undefined
        ? undefined
        : held.internal
          ? ospf.routesTo(`${vtep}/32`, to.host)[at]
          : ospfWays(model, host, hostPrefix(vtep)!);
    costs.add(route?.cost);
  }
  return costs.size > 1;
}
