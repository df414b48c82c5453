import { staticKey } from '../config/static.ts';
import type { HeldRoute } from '../network/bestRoute.ts';
import type { ConnectedRoute, WrittenRoute } from '../network/localRoutes.ts';
import { ownRoutesOf } from '../network/spokenFamily.ts';
import { familyName, unicastOf } from '../config/bgp.ts';
import type { Place } from '../config/switchConfig.ts';
import type { NetworkModel } from '../network/networkModel.ts';
import type { OspfRoute } from '../network/ospf.ts';
import { LOCAL_PREFERENCE, OWN_WEIGHT } from '../network/routes.ts';
import { naturally } from '../numbers/order.ts';
import { familyOf, formatAny, type AnyPrefix } from '../numbers/prefix.ts';
import type { Because, RouteAnswer, RouteWay } from './answer.ts';

export const DROPPED: RouteWay = { over: 'nowhere: it is dropped', to: null, path: [], said: [] };

/** What of a route is not as usual, in words. */
export function saidOf({ attributes: a, internal }: HeldRoute): string[] {
  const out: string[] = [];
  if (a.weight !== 0 && a.weight !== OWN_WEIGHT) out.push(`weight ${a.weight}`);
  if (a.localPreference !== LOCAL_PREFERENCE) out.push(`local preference ${a.localPreference}`);
  if (a.med !== 0) out.push(`MED ${a.med}`);
  if (a.communities !== '') out.push(`communities ${a.communities}`);
  if (a.large !== '') out.push(`large communities ${a.large}`);
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

/** Switches that announce a prefix outside of VRFs, and the place that says so. */
export function announcers(model: NetworkModel, prefix: AnyPrefix): Because[] {
  const text = formatAny(prefix);
  const family = familyOf(prefix);
  const name = familyName(family);
  return model.switches.flatMap(({ host, config }): Because[] => {
    const { connected, aggregates, networks } = (config.bgp && unicastOf(config.bgp, family)) ?? {};
    const said = (configPlace: Place): Because[] => [{ host, words: `${host} announces it`, configPlace }];
    if (networks?.includes(text)) return said(['bgp', name, 'networks']);
    if (ownRoutesOf(model.views.get(host)!.router(), family)?.has(text))
      return said(['bgp', name, connected ? 'connected' : 'static']);
    return aggregates?.some((a) => a.prefix === text) ? said(['bgp', name, 'aggregates', text]) : [];
  });
}
