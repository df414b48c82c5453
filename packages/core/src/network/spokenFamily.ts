import { unicastOf, type BgpVrf } from '../config/bgp.ts';
import type { IpFamily } from '../numbers/address.ts';
import type { Cidr } from '../numbers/ipv4.ts';
import type { OwnRoute, RouterView } from './bgp.ts';
import { aggregatesOf, type OwnAggregate } from './families.ts';

/** What a router says of its routes of one family of addresses, wherever its configuration keeps that. */

/** Does EVPN tell the prefixes of a VRF? */
export const advertises = (said: BgpVrf | undefined, family: IpFamily): boolean =>
  (family === 4 ? said?.advertiseIpv4 : said?.advertiseIpv6) ?? false;
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
