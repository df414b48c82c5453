import { unicastOf, type BgpVrf } from '../config/bgp.ts';
import type { IpFamily } from '../numbers/address.ts';
import type { Cidr } from '../numbers/ipv4.ts';
import type { OwnRoute, RouterView } from './bgp.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import { aggregatesOf, type OwnAggregate } from './families.ts';
import type { NetworkModel } from './networkModel.ts';
import type { TenantNode } from './nextHop.ts';
import { mapPolicy } from './policy.ts';
import type { Policy } from './routes.ts';

/** What a router says of its routes of one family of addresses, wherever its configuration keeps that. */

/** The router of a table; null = it has none. */
export const routerAt = ({ views }: Pick<NetworkModel, 'views'>, { host, vrf }: TenantNode): RouterView | null =>
  views.get(host)!.router(vrf);
/** What is said of the router of a VRF; undefined = it has none, or the table is outside of VRFs. */
export const saidAt = ({ views }: Pick<NetworkModel, 'views'>, { host, vrf }: TenantNode): BgpVrf | undefined =>
  vrf === undefined ? undefined : views.get(host)!.config.bgp?.vrfs.find((v) => v.vrf === vrf);

/** Does EVPN tell the prefixes of a VRF? */
export const advertises = (said: BgpVrf | undefined, family: IpFamily): boolean =>
  (family === 4 ? said?.advertiseIpv4 : said?.advertiseIpv6) ?? false;
/** What of them it tells, and how; null = all, as they are. */
export function advertisePolicy(config: SwitchConfig, said: BgpVrf | undefined, family: IpFamily): Policy | null {
  const map = family === 4 ? said?.advertiseIpv4Map : said?.advertiseIpv6Map;
  return map === undefined ? null : mapPolicy(config, map);
}
/** Does EVPN tell a default route of it, whether there is one or not? */
export const tellsDefault = (said: BgpVrf | undefined, family: IpFamily): boolean =>
  (family === 4 ? said?.defaultRoute : said?.defaultIpv6Route) ?? false;

export const ownRoutesOf = (router: RouterView | null, family: IpFamily): ReadonlyMap<Cidr, OwnRoute> | undefined =>
  family === 4 ? router?.ownRoutes : router?.ownIpv6Routes;
const NO_AGGREGATES: readonly OwnAggregate[] = [];
export function aggregatesAt(router: RouterView | null, family: IpFamily): readonly OwnAggregate[] {
  const said = router && unicastOf(router.speaker, family);
  return said ? aggregatesOf(said) : NO_AGGREGATES;
}
