import type { Cidr } from '../numbers/ipv4.ts';
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

export const staticRoutes: ConfigSection<StaticPart> = {
  blank: {},
  // Nothing of the intent asks for one yet; they are read from texts.
  derive: () => ({}),
  members: { staticRoutes: { key: staticKey, word: 'static route' } },
  words: { distance: 'distance', tag: 'tag', via: 'next hop', vrf: 'VRF' },
  causeOf: () => ({ subject: 'fabric', label: 'fabric pattern' }),
};
