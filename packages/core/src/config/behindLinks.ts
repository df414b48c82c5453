import type { OutsideNeighbour } from '../intent/intent.ts';
import { neighbourKey, spokenTo } from '../intent/neighbourPlace.ts';
import { bitsOf } from '../numbers/address.ts';
import { familyOfText } from '../numbers/prefix.ts';
import type { Carriage } from './carriage.ts';
import type { RouteMap } from './policyParts.ts';
import type { Cause, OriginContext } from './section.ts';

/**
 * Routers outside that are spoken to at an address behind their link: a static route leads there, through their address on the
 * link. Others have no use for it, and one that heard of it could speak to the router across the fabric: so it is told nobody.
 */

/** A static route to such an address, as a switch has it. */
interface RouteBehind {
  readonly vrf: string;
  readonly prefix: string;
  readonly via: string;
  readonly tag: number;
}

/** What marks one on its switch. */
const BEHIND_TAG = 3;
/** The maps that static routes of a tenant are told through where there is such a one beside them. */
const MAPS = 'SAID-ROUTES';
/** @param own the map of the tenant that the others go through */
export const saidMap = (vrf: string, own: string | undefined): string => (own === undefined ? MAPS : `${MAPS}-${vrf}`);

const routeTo = (loopback: string): string => `${loopback}/${bitsOf(familyOfText(loopback))}`;
/** The routes that a switch needs to speak to its neighbours. */
export const routesBehind = (all: readonly OutsideNeighbour[]): RouteBehind[] =>
  all.flatMap(({ vrf, far, loopback }) =>
    loopback === undefined ? [] : [{ vrf, prefix: routeTo(loopback), via: far, tag: BEHIND_TAG }],
  );
/** The maps that keep them from others, where static routes are told. */
export function mapsBehind(all: readonly OutsideNeighbour[], { routes, vrfs }: Carriage): RouteMap[] {
  const behind = routesBehind(all);
  const told = vrfs.filter(({ vrf }) =>
    behind.some(
      (b) =>
        b.vrf === vrf.name &&
        routes.some((r) => r.vrf === vrf.name && familyOfText(r.prefix) === familyOfText(b.prefix)),
    ),
  );
  const maps = told.map(({ vrf: { name, staticMap } }): RouteMap => ({
    name: saidMap(name, staticMap),
    entries: [
      { seq: 10, permit: false, match: { tag: BEHIND_TAG } },
      { seq: 20, permit: true, ...(staticMap === undefined ? {} : { call: staticMap }) },
    ],
  }));
  return maps.filter((m, i) => maps.findIndex((x) => x.name === m.name) === i);
}

/** A neighbour as the cause of a line. */
export const causeBy = (n: OutsideNeighbour): Cause => ({
  subject: `neighbour:${neighbourKey(n)}`,
  label: `neighbour ${spokenTo(n)} (AS ${n.asn})`,
});
/** Why the map is there; null = it is another. */
export function behindCause({ intent }: Pick<OriginContext, 'intent'>, name: string): Cause | null {
  const n = intent.neighbours.find((o) => o.loopback !== undefined && (name === MAPS || name === `${MAPS}-${o.vrf}`));
  return n ? causeBy(n) : null;
}
