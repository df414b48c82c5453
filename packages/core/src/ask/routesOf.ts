import { sviKey } from '../config/interfaces.ts';
import type { Place } from '../config/switchConfig.ts';
import { staticKey } from '../config/static.ts';
import { select, type HeldRoute, type Settled } from '../network/bgpRoutes.ts';
import { announcedPrefixes, ospfComesFirst, settleEvpn, settlePrefix } from '../network/families.ts';
import { gatewayOfSvi } from '../network/interfaces.ts';
import { l3ImportsOf, type NetworkModel } from '../network/networkModel.ts';
import type { OspfRoute } from '../network/ospf.ts';
import { routedFamily, type RoutedFamily } from '../network/routedFamily.ts';
import { LOCAL_PREFERENCE, numbersOf, OWN_WEIGHT } from '../network/routes.ts';
import { importsDoubt, NO_REST, NOT_NEXT_DOOR, pathsDoubt, prefixDoubt } from '../network/uncertain.ts';
import type { CarriedVrf } from '../network/vrfs.ts';
import { contains, formatPrefix, hostPart, parseCidr, parseIpv4, prefixOf, type Prefix } from '../numbers/ipv4.ts';
import { naturally } from '../numbers/order.ts';
import { onceFor } from '../onceFor.ts';
import type { Because, RouteAnswer, RouteWay } from './answer.ts';

/** The underlay as route selection sees it, once for a model. */
export const underlayOf = onceFor((model: NetworkModel): RoutedFamily => routedFamily(model.sessions, model, 'ipv4'));
const overlayOf = onceFor((model: NetworkModel): RoutedFamily => routedFamily(model.sessions, model, 'evpn'));

/** What was settled last of a model: questions come back to one prefix, and all at once would not fit. */
const lastSettled = onceFor((_: NetworkModel): { of: string; settled: Settled | null } => ({ of: '', settled: null }));
/** What all routers settle to for a prefix of the underlay, whoever announces it. */
export function settledFor(model: NetworkModel, prefix: Prefix): Settled {
  const last = lastSettled(model);
  const of = formatPrefix(prefix);
  if (last.of !== of) {
    last.settled = settlePrefix(model, underlayOf(model), prefix);
    last.of = of;
  }
  return last.settled!;
}

/** What of a route is not as usual, in words. */
function saidOf({ attributes: a, internal }: HeldRoute): string[] {
  const out: string[] = [];
  if (a.weight !== 0 && a.weight !== OWN_WEIGHT) out.push(`weight ${a.weight}`);
  if (a.localPreference !== LOCAL_PREFERENCE) out.push(`local preference ${a.localPreference}`);
  if (a.med !== 0) out.push(`MED ${a.med}`);
  if (a.communities !== '') out.push(`communities ${a.communities}`);
  if (internal) out.push('by iBGP');
  return out;
}

/** The line that makes a neighbour. */
export const statementOf = (peer: string): Place => ['bgp', 'peers', peer, 'remoteAs'];

/** Switches that announce a prefix, and the place that says so. */
function announcers(model: NetworkModel, text: string): Because[] {
  return model.switches.flatMap(({ host, config }): Because[] => {
    const { connected, aggregates, networks } = config.bgp?.ipv4 ?? {};
    const said = (configPlace: Place): Because[] => [{ host, words: `${host} announces it`, configPlace }];
    if (networks?.includes(text)) return said(['bgp', 'ipv4', 'networks']);
    if (model.views.get(host)!.ownRoutes.has(text)) return said(['bgp', 'ipv4', connected ? 'connected' : 'static']);
    return aggregates?.some((a) => a.prefix === text) ? said(['bgp', 'ipv4', 'aggregates', text]) : [];
  });
}

const DROPPED: RouteWay = { over: 'nowhere: it is dropped', to: null, path: [], said: [] };

/** Why a route of a router that came to rest may be otherwise. */
function unsureWay(
  model: NetworkModel,
  host: string,
  prefix: Prefix,
  owners: readonly Because[],
  held: readonly HeldRoute[],
): string | null {
  if (held.some((h) => h.handedOn)) return NOT_NEXT_DOOR;
  const address = hostPart(formatPrefix(prefix));
  const loopback = prefix.length === 32 && owners.every((o) => model.views.get(o.host)!.announced.has(address));
  if (!loopback) return prefixDoubt(model);
  return owners.flatMap((o) => pathsDoubt(model, host, o.host, address) ?? [])[0] ?? null;
}

/** A route that BGP brings, with the statements it came over. */
function bgpRoute(model: NetworkModel, host: string, prefix: Prefix): RouteAnswer | null {
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
    because.push({ host, words: `${told.host} tells it over ${peer}`, configPlace: statementOf(peer) });
  }
  const text = formatPrefix(prefix);
  const owners = announcers(model, text);
  ways.sort((a, b) => naturally(a.over, b.over));
  const unsure = rests ? unsureWay(model, host, prefix, owners, held) : NO_REST;
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
const KINDS = { own: 'its own', intra: 'of its area', inter: 'of another area', outside: 'from outside' } as const;

/** The neighbours by OSPF that a switch sends on to for a prefix, where BGP knows nothing better; null = none. */
export function ospfWays(model: NetworkModel, host: string, prefix: Prefix): OspfRoute | null {
  const route = model.ospf?.routesTo(formatPrefix(prefix))[model.index.get(host)!];
  return ospfComesFirst(settledFor(model, prefix).held[model.index.get(host)!]!, route) ? route : null;
}

/** A route that OSPF brings, with the neighbours it leads over. */
function ospfRoute(model: NetworkModel, host: string, prefix: Prefix): RouteAnswer | null {
  const route = ospfWays(model, host, prefix);
  if (!route || route.over.length === 0) return null;
  const text = formatPrefix(prefix);
  const owners = bringers(model, text);
  const ways = route.over.map((a): RouteWay => {
    const said = [`cost ${route.cost}`, KINDS[route.kind]];
    return { over: a.port, to: a.farHost, path: [], said };
  });
  ways.sort((a, b) => naturally(a.over, b.over));
  const because = route.over.map((a): Because => {
    return { host, words: `${a.farHost} is its neighbour over ${a.port}`, configPlace: a.place };
  });
  const unsure = unsureWay(model, host, prefix, owners, []);
  return { host, prefix: text, kind: 'ospf', ways, unsure, because: [...because, ...owners] };
}

const connectedRoute = (host: string, prefix: string, over: string, because: Because): RouteAnswer => ({
  host,
  prefix,
  kind: 'connected',
  ways: [{ over, to: null, path: [], said: [] }],
  unsure: null,
  because: [because],
});

/** Routes of a switch outside of VRFs that need no neighbour: its own subnets, and what is written down. */
function withoutNeighbours(model: NetworkModel, host: string): Map<string, RouteAnswer> {
  const { config } = model.views.get(host)!;
  const out = new Map<string, RouteAnswer>();
  const connected = (address: string, over: string, configPlace: Place): void => {
    const cidr = parseCidr(address);
    if (!cidr) return;
    const prefix = formatPrefix(prefixOf(cidr));
    out.set(prefix, connectedRoute(host, prefix, over, { host, words: `${over} has ${address}`, configPlace }));
  };
  for (const l of config.loopbacks) connected(l, 'lo', ['loopbacks']);
  for (const p of config.ports)
    if (!p.shut) for (const a of p.addresses) connected(a, p.name, ['ports', p.name, 'addresses']);
  for (const s of config.svis)
    if (s.vrf === undefined) for (const a of s.addresses) connected(a, `VLAN ${s.vlan}`, ['svis', sviKey(s)]);
  for (const r of config.staticRoutes ?? []) {
    if (out.has(r.prefix)) continue;
    const because: Because[] = [{ host, words: 'it is written down', configPlace: ['staticRoutes', staticKey(r)] }];
    const ways = [r.via === undefined ? DROPPED : { ...DROPPED, over: r.via }];
    out.set(r.prefix, { host, prefix: r.prefix, kind: 'static', ways, unsure: null, because });
  }
  return out;
}

const learntRoute = (model: NetworkModel, host: string, prefix: Prefix): RouteAnswer | null =>
  ospfRoute(model, host, prefix) ?? bgpRoute(model, host, prefix);

/** Every prefix that some switch brings into BGP or OSPF. */
function toldPrefixes({ views, ospf }: NetworkModel): ReadonlyMap<string, Prefix> {
  if (!ospf) return announcedPrefixes(views);
  const out = new Map(announcedPrefixes(views));
  for (const view of views.values()) for (const [text, { prefix }] of view.ospf?.origins ?? []) out.set(text, prefix);
  return out;
}

/** What a switch has of one prefix outside of VRFs; undefined = nothing. */
export function routeTo(model: NetworkModel, host: string, prefix: Prefix): RouteAnswer | undefined {
  const own = withoutNeighbours(model, host).get(formatPrefix(prefix));
  return own ?? learntRoute(model, host, prefix) ?? undefined;
}

/** So much settling takes seconds; more is asked for one address at a time. */
const MOST_WORK = 8_000_000;

function outsideVrfs(model: NetworkModel, host: string, wanted: (p: Prefix) => boolean): RouteAnswer[] | string {
  const out = withoutNeighbours(model, host);
  for (const text of [...out.keys()]) if (!wanted(parseCidr(text)!)) out.delete(text);
  const asked = [...toldPrefixes(model)].filter(([text, prefix]) => !out.has(text) && wanted(prefix));
  if (asked.length * underlayOf(model).edges.length > MOST_WORK)
    return `${asked.length} prefixes are announced: ask for the routes to one address, “routes ${host} to ADDRESS”`;
  for (const [text, prefix] of asked) {
    const route = learntRoute(model, host, prefix);
    if (route) out.set(text, route);
  }
  return [...out.values()];
}

/** A switch whose routes a VRF imports. */
interface Speaker {
  readonly host: string;
  readonly vrf: CarriedVrf;
  /** Its EVPN routes as they are held at the listener, the best first. */
  readonly held: readonly HeldRoute[];
}
/** A prefix that one of them tells. */
interface Told {
  readonly speaker: Speaker;
  readonly prefix: string;
  readonly said: readonly string[];
  readonly configPlace: Place;
}
/** Subnets of a switch in a VRF that EVPN tells, and servers of it whose addresses it tells once they have spoken. */
function toldBy(model: NetworkModel, speaker: Speaker): Told[] {
  const { host, vrf } = speaker;
  const view = model.views.get(host)!;
  const talk = view.config.bgp?.vrfs.find((v) => v.vrf === vrf.name);
  const svis = view.config.svis.filter((s) => s.vrf === vrf.name);
  const subnets = svis.flatMap((svi) => {
    const cidr = parseCidr(gatewayOfSvi(svi) ?? '');
    if (!cidr || !talk?.advertiseIpv4 || !talk.connected) return [];
    const configPlace: Place = ['bgp', 'vrfs', vrf.name, 'connected'];
    return [{ speaker, prefix: formatPrefix(prefixOf(cidr)), said: [], configPlace }];
  });
  const vlans = new Set(svis.flatMap((s) => (view.vniOfVlan.has(s.vlan) ? [s.vlan] : [])));
  const servers = model.hosts.flatMap((h) => {
    if (h.switch !== host || !vlans.has(h.vlan) || parseIpv4(h.ip) === null) return [];
    const configPlace: Place = ['bgp', 'evpn', 'advertiseAllVni'];
    return [{ speaker, prefix: `${h.ip}/32`, said: [`once ${h.host} has spoken`], configPlace }];
  });
  return [...subnets, ...servers];
}

function inVrf(model: NetworkModel, host: string, vrf: string): RouteAnswer[] {
  const view = model.views.get(host)!;
  const out = new Map<string, RouteAnswer>();
  for (const svi of view.config.svis.filter((s) => s.vrf === vrf)) {
    const gateway = gatewayOfSvi(svi);
    const cidr = gateway === undefined ? null : parseCidr(gateway);
    if (!cidr) continue;
    const words = `VLAN ${svi.vlan} has gateway ${gateway}`;
    const because: Because = { host, words, configPlace: ['svis', sviKey(svi)] };
    const prefix = formatPrefix(prefixOf(cidr));
    out.set(prefix, connectedRoute(host, prefix, `VLAN ${svi.vlan}`, because));
  }
  const at = model.index.get(host)!;
  const others = l3ImportsOf(model, host, vrf);
  const tooMany = others.length * overlayOf(model).edges.length > MOST_WORK;
  const speakers = others.map((other): Speaker => {
    const theirs = [...model.views.get(other)!.vrfs.values()].find((v) => v.l3Vni === view.vrfs.get(vrf)!.l3Vni)!;
    const held = tooMany ? [] : settleEvpn(model, overlayOf(model), model.index.get(other)!).held[at]!;
    return { host: other, vrf: theirs, held };
  });
  /** Who tells each prefix. */
  const tellers = new Map<string, Told[]>();
  for (const speaker of speakers)
    for (const told of toldBy(model, speaker)) {
      const known = tellers.get(told.prefix);
      if (known) known.push(told);
      else tellers.set(told.prefix, [told]);
    }
  const imports: Because = {
    host,
    words: `${vrf} imports ${view.vrfs.get(vrf)!.imports.join(' ')}`,
    configPlace: ['bgp', 'vrfs', vrf, 'imports'],
  };
  const unsure = importsDoubt(model, host, vrf);
  for (const [prefix, all] of tellers) {
    if (out.has(prefix)) continue;
    const used = tooMany ? all : usedBy(model, host, vrf, all);
    const unchosen =
      tooMany && all.length > 1
        ? `of ${all.length} that announce it the nearest are taken; which, is not computed`
        : null;
    out.set(prefix, {
      host,
      prefix,
      kind: 'evpn',
      ways: used.map(({ speaker, said }) => ({
        over: `VNI ${speaker.vrf.l3Vni} to ${speaker.vrf.vtep}`,
        to: speaker.host,
        path: numbersOf(speaker.held[0]?.attributes.path ?? null),
        said,
      })),
      unsure: unsure ?? unchosen,
      because: [
        imports,
        ...used.map(({ speaker, configPlace }) => ({
          host: speaker.host,
          words: `${speaker.host} announces it`,
          configPlace,
        })),
      ],
    });
  }
  return [...out.values()];
}

/** Of those that tell a VRF the same prefix, those that are used: the router of the VRF chooses by its own words. */
function usedBy(model: NetworkModel, host: string, vrf: string, all: readonly Told[]): Told[] {
  const talk = model.views.get(host)!.config.bgp?.vrfs.find((v) => v.vrf === vrf);
  const global = overlayOf(model).routers[model.index.get(host)!]!;
  const router = { ...global, multipathRelax: false, maximumPaths: talk?.maximumPaths ?? global.maximumPaths };
  const best = select(
    router,
    all.flatMap((t) => t.speaker.held.slice(0, 1)),
  );
  return all.filter((t) => best.includes(t.speaker.held[0]!));
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
  const address = to === undefined ? null : parseIpv4(to);
  if (to !== undefined && address === null) return `${to} is no IPv4 address`;
  const leads = (p: Prefix): boolean => address === null || contains(prefixOf(p), { address, length: 32 });
  const all = vrf === undefined ? outsideVrfs(model, host, leads) : inVrf(model, host, vrf);
  if (typeof all === 'string') return all;
  const found = all.filter((r) => leads(parseCidr(r.prefix)!)).sort((a, b) => naturally(a.prefix, b.prefix));
  if (address === null) return found;
  // The longest is the one that counts.
  return found.sort((a, b) => parseCidr(b.prefix)!.length - parseCidr(a.prefix)!.length);
}
