import { staticKey } from '../config/static.ts';
import type { HeldRoute } from '../network/bgpRoutes.ts';
import type { ConnectedRoute, WrittenRoute } from '../network/localRoutes.ts';
import type { OspfRoute } from '../network/ospf.ts';
import { LOCAL_PREFERENCE, OWN_WEIGHT } from '../network/routes.ts';
import { naturally } from '../numbers/order.ts';
import { formatAny, type AnyPrefix } from '../numbers/prefix.ts';
import type { RouteAnswer, RouteWay } from './answer.ts';

export const DROPPED: RouteWay = { over: 'nowhere: it is dropped', to: null, path: [], said: [] };

/** What of a route is not as usual, in words. */
export function saidOf({ attributes: a, internal }: HeldRoute): string[] {
  const out: string[] = [];
  if (a.weight !== 0 && a.weight !== OWN_WEIGHT) out.push(`weight ${a.weight}`);
  if (a.localPreference !== LOCAL_PREFERENCE) out.push(`local preference ${a.localPreference}`);
  if (a.med !== 0) out.push(`MED ${a.med}`);
  if (a.communities !== '') out.push(`communities ${a.communities}`);
  if (internal) out.push('by iBGP');
  return out;
}

/** A subnet of the switch itself as an answer. */
export const connectedAnswer = (host: string, prefix: AnyPrefix, subnets: readonly ConnectedRoute[]): RouteAnswer => ({
  host,
  prefix: formatAny(prefix),
  kind: 'connected',
  ways: subnets.map(({ words }) => ({ over: words, to: null, path: [], said: [] })),
  unsure: null,
  because: subnets.map(({ words, address, configPlace }) => ({ host, words: `${words} has ${address}`, configPlace })),
});

/** What is written down as an answer. */
export const staticAnswer = (
  host: string,
  prefix: AnyPrefix,
  written: readonly WrittenRoute[],
  unsure: string | null,
): RouteAnswer => ({
  host,
  prefix: formatAny(prefix),
  kind: 'static',
  ways: written.map(({ route: { via } }) => (via === undefined ? DROPPED : { ...DROPPED, over: via })),
  unsure,
  because: written.map(({ route }) => ({
    host,
    words: 'it is written down',
    configPlace: ['staticRoutes', staticKey(route)],
  })),
});

const KINDS = { own: 'its own', intra: 'of its area', inter: 'of another area', outside: 'from outside' } as const;
/** The ways of a route that OSPF brings. */
export const ospfRouteWays = ({ cost, kind, over }: OspfRoute): RouteWay[] =>
  over
    .map((a) => ({ over: a.port, to: a.farHost, path: [], said: [`cost ${cost}`, KINDS[kind]] }))
    .sort((a, b) => naturally(a.over, b.over));
