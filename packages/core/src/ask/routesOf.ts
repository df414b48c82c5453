import type { Place } from '../config/switchConfig.ts';
import { chancesOf, type HeldRoute } from '../network/bestRoute.ts';
import { announcedPrefixes } from '../network/families.ts';
import { connectedIn, staticsIn } from '../network/localRoutes.ts';
import type { NetworkModel } from '../network/networkModel.ts';
import { numbersOf } from '../network/routes.ts';
import { statementPlace } from '../network/sessions.ts';
import { MOST_WORK } from '../network/settlement.ts';
import { tenantsOf } from '../network/tenants.ts';
import { ospfWays, settledFor, underlayOf } from '../network/underlayWays.ts';
import { FIRST_HEARD, NO_REST, NOT_NEXT_DOOR, pathsDoubt, prefixDoubt } from '../network/uncertain.ts';
import { hostPart } from '../numbers/ipv4.ts';
import {
  familyOf,
  formatAny,
  holdsAny,
  hostPrefix,
  networkOfAny,
  parseAnyCidr,
  type AnyPrefix,
} from '../numbers/prefix.ts';
import { naturally } from '../numbers/order.ts';
import type { Because, RouteAnswer, RouteWay } from './answer.ts';
import { announcers, connectedAnswer, DROPPED, ospfRouteWays, saidOf, staticAnswer } from './routeWords.ts';
import { tenantRoute, tenantRoutes } from './tenantRoutes.ts';

/** Why a route of a router that came to rest may be otherwise. */
function unsureWay(
  model: NetworkModel,
  host: string,
  prefix: AnyPrefix,
  owners: readonly Because[],
  held: readonly HeldRoute[],
): string | null {
  if (held.some((h) => h.handedOn)) return NOT_NEXT_DOOR;
  const address = hostPart(formatAny(prefix));
  const loopback = prefix.length === 32 && owners.every((o) => model.views.get(o.host)!.announced.has(address));
  if (!loopback) return prefixDoubt(model);
  return owners.flatMap((o) => pathsDoubt(model, host, o.host, address) ?? [])[0] ?? null;
}

/** A route that BGP brings, with the statements it came over. */
function bgpRoute(model: NetworkModel, host: string, prefix: AnyPrefix): RouteAnswer | null {
  const { edges, sessions } = underlayOf(model);
  const { held: all, rests } = settledFor(model, prefix);
  const held = all[model.index.get(host)!]!;
  if (held.length === 0) return null;
  const ways: RouteWay[] = [];
  const because: Because[] = [];
  for (const h of held) {
    // What is its own and nowhere connected is an aggregate.
    if (h.over < 0) {
      ways.push(DROPPED);
      continue;
    }
    const told = sessions[h.over]!;
    const peer = told.farPeer!;
    ways.push({
      over: peer,
      to: model.switches[edges[h.over]!.from]!.host,
      path: numbersOf(h.attributes.path),
      said: saidOf(h),
    });
    because.push({ host, words: `${told.host} tells it over ${peer}`, configPlace: statementPlace({ peer }) });
  }
  const text = formatAny(prefix);
  const owners = announcers(model, prefix);
  ways.sort((a, b) => naturally(a.over, b.over));
  const chance = chancesOf(held).length > 1 ? FIRST_HEARD : null;
  const unsure = rests ? (unsureWay(model, host, prefix, owners, held) ?? chance) : NO_REST;
  return { host, prefix: text, kind: 'bgp', ways, unsure, because: [...because, ...owners] };
}

/** Switches that bring a prefix into OSPF, and the place that says so. */
const bringers = (model: NetworkModel, text: string): Because[] =>
  model.switches.flatMap(({ host, config }): Because[] => {
    const origin = model.views.get(host)!.ospf?.origins.get(text);
    if (!origin) return [];
    const said = config.ospfPorts?.find((p) => p.area !== undefined)?.name;
    const configPlace: Place =
      origin.area === null
        ? ['ospf', config.ospf!.connected ? 'connected' : 'static']
        : said === undefined
          ? ['ospf', 'networks']
          : ['ospfPorts', said, 'area'];
    return [{ host, words: `${host} tells it in ${areaWords(origin.area)}`, configPlace }];
  });
const areaWords = (area: string | null): string => (area === null ? 'all areas, from outside' : `area ${area}`);

/** A route that OSPF brings, with the neighbours it leads over. */
function ospfRoute(model: NetworkModel, host: string, prefix: AnyPrefix): RouteAnswer | null {
  const route = ospfWays(model, host, prefix);
  if (!route || route.over.length === 0) return null;
  const text = formatAny(prefix);
  const owners = bringers(model, text);
  const ways = ospfRouteWays(route);
  const because = route.over.map((a): Because => {
    return { host, words: `${a.farHost} is its neighbour over ${a.port}`, configPlace: a.place };
  });
  const unsure = unsureWay(model, host, prefix, owners, []);
  return { host, prefix: text, kind: 'ospf', ways, unsure, because: [...because, ...owners] };
}

/** Routes of a switch outside of VRFs that need no neighbour: its own subnets, and what is written down. */
function withoutNeighbours(model: NetworkModel, host: string): Map<string, RouteAnswer> {
  const { config } = model.views.get(host)!;
  const out = new Map<string, RouteAnswer>();
  for (const c of connectedIn(config)) out.set(formatAny(c.prefix), connectedAnswer(host, c.prefix, [c]));
  for (const w of staticsIn(config))
    if (w.state !== 'inactive' && !out.has(w.route.prefix))
      out.set(w.route.prefix, staticAnswer(host, w.prefix, [w], null));
  return out;
}

const learntRoute = (model: NetworkModel, host: string, prefix: AnyPrefix): RouteAnswer | null =>
  ospfRoute(model, host, prefix) ?? bgpRoute(model, host, prefix);

/** Every prefix that some switch brings into BGP or OSPF. */
function toldPrefixes({ views, ospf }: NetworkModel): ReadonlyMap<string, AnyPrefix> {
  if (!ospf) return announcedPrefixes(views);
  const out = new Map(announcedPrefixes(views));
  for (const view of views.values()) for (const [text, { prefix }] of view.ospf?.origins ?? []) out.set(text, prefix);
  return out;
}

/** What a switch has of one prefix outside of VRFs; undefined = nothing. */
export function routeTo(model: NetworkModel, host: string, prefix: AnyPrefix): RouteAnswer | undefined {
  if (familyOf(prefix) === 6 || tenantsOf(model).groupOf(host, undefined))
    return tenantRoute(model, host, undefined, prefix) ?? undefined;
  const own = withoutNeighbours(model, host).get(formatAny(prefix));
  return own ?? learntRoute(model, host, prefix) ?? undefined;
}

function outsideVrfs(model: NetworkModel, host: string, wanted: (p: AnyPrefix) => boolean): RouteAnswer[] | string {
  const out = withoutNeighbours(model, host);
  for (const text of [...out.keys()]) if (!wanted(parseAnyCidr(text)!)) out.delete(text);
  const asked = [...toldPrefixes(model)].filter(([text, prefix]) => !out.has(text) && wanted(prefix));
  if (asked.length * underlayOf(model).edges.length > MOST_WORK)
    return `${asked.length} prefixes are announced: ask for the routes to one address, “routes ${host} to ADDRESS”`;
  for (const [text, prefix] of asked) {
    const route = learntRoute(model, host, prefix);
    if (route) out.set(text, route);
  }
  return [...out.values()];
}

/** Routes of a switch; a string says why there is no answer. */
export function routesOf(
  model: NetworkModel,
  host: string,
  vrf?: string,
  to?: string,
): readonly RouteAnswer[] | string {
  const view = model.views.get(host);
  if (!view) return `there is no switch ${host}`;
  if (vrf !== undefined && !view.vrfs.has(vrf)) return `${host} has no VRF ${vrf}`;
  const address = to === undefined ? null : hostPrefix(to);
  if (to !== undefined && address === null) return `${to} is no address`;
  const leads = (p: AnyPrefix): boolean => address === null || holdsAny(networkOfAny(p), address);
  const asked = address === null ? ([4, 6] as const) : [familyOf(address)];
  const all: RouteAnswer[] = [];
  for (const family of asked) {
    const of = tenantRoutes(model, family, host, vrf, leads) ?? outsideVrfs(model, host, leads);
    if (typeof of === 'string') return of;
    all.push(...of);
  }
  const found = all.filter((r) => leads(parseAnyCidr(r.prefix)!)).sort((a, b) => naturally(a.prefix, b.prefix));
  if (address === null) return found;
  // The longest is the one that counts.
  return found.sort((a, b) => parseAnyCidr(b.prefix)!.length - parseAnyCidr(a.prefix)!.length);
}
