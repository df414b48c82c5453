import { routeKey, type TenantRoute } from '../intent/intent.ts';
import type { Cidr } from '../numbers/ipv4.ts';
import { naturally } from '../numbers/order.ts';
import { onceFor } from '../onceFor.ts';
import type { Carriage } from './carriage.ts';
import { causeBy, routesBehind } from './behindLinks.ts';
import type { ConfigSection } from './section.ts';

/** A route that is written down. */
export interface StaticRoute {
  /** Absent = the default VRF. */
  readonly vrf?: string;
  /** Its network: no bits beyond the length. */
  readonly prefix: Cidr;
  /** An address or an interface; absent = what goes there is dropped. */
  readonly via?: string;
  /** Administrative distance, 1–255; absent = 1. */
  readonly distance?: number;
  readonly tag?: number;
}
export interface StaticPart {
  /** Absent = none. */
  readonly staticRoutes?: readonly StaticRoute[];
}

export const staticKey = (r: StaticRoute): string =>
  `${r.prefix} ${r.via ?? 'dropped'}${r.vrf === undefined ? '' : ` ${r.vrf}`}`;

/** A route of a tenant as a switch says it. */
const written = ({ vrf, prefix, via, distance, tag }: TenantRoute): StaticRoute => ({
  vrf,
  prefix,
  ...(via === undefined ? {} : { via }),
  ...(distance === undefined || distance === 1 ? {} : { distance }),
  ...(tag === undefined ? {} : { tag }),
});

const inTheText = (a: StaticRoute, b: StaticRoute): number => naturally(staticKey(a), staticKey(b));
/** In the order in which a text has them, whichever tenants they are of. */
const asWritten = onceFor(({ routes }: Carriage) => routes.map(written).sort(inTheText));

export const staticRoutes: ConfigSection<StaticPart> = {
  blank: {},
  derive: ({ carriage, neighbours }) => {
    const behind = routesBehind(neighbours);
    if (behind.length === 0) return carriage.routes.length === 0 ? {} : { staticRoutes: asWritten(carriage) };
    const said = asWritten(carriage);
    // One that somebody says by hand is there once.
    const more = behind.filter((b) => !said.some((r) => staticKey(r) === staticKey(b)));
    return { staticRoutes: [...said, ...more].sort(inTheText) };
  },
  members: { staticRoutes: { key: staticKey, word: 'static route' } },
  words: { distance: 'distance', tag: 'tag', via: 'next hop', vrf: 'VRF' },
  causeOf: ([, key = ''], { intent }) => {
    const route = intent.routes.find((r) => staticKey(written(r)) === key);
    if (route) return { subject: `route:${routeKey(route)}`, label: `static route to ${route.prefix}` };
    const n = intent.neighbours.find((o) => routesBehind([o]).some((r) => staticKey(r) === key));
    return n ? causeBy(n) : { subject: 'fabric', label: 'fabric pattern' };
  },
};
