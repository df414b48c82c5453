import { familyName } from '../config/bgp.ts';
import { onceFor } from '../onceFor.ts';
import type { IpFamily } from '../numbers/address.ts';
import { hostPart, parseIpv4 } from '../numbers/ipv4.ts';
import {
  familyOf,
  familyOfText,
  formatAny,
  holdsAny,
  parseAnyCidr,
  parseAnyPrefix,
  type AnyPrefix,
} from '../numbers/prefix.ts';
import { everybodyOf } from './bgp.ts';
import type { SwitchDoubts } from './doubts.ts';
import { CERTAIN, HANDED_ON, pathsIn, RESTLESS, unsureIn, type PathsTo } from './families.ts';
import type { FamilyPaths } from './familyRows.ts';
import { staticsIn, writtenIn } from './localRoutes.ts';
import { absenceDoubt, doubtsIn, sessionDoubt } from './modelDoubts.ts';
import type { EvpnRoute } from './evpnRoutes.ts';
import type { HostPort, NetworkModel } from './networkModel.ts';
import type { TenantNode } from './nextHop.ts';
import { BY_CHANCE } from './pathVector.ts';
import { targetsIn } from './targets.ts';
import type { TenantGroup } from './tenantGroup.ts';
import { tenantsOf } from './tenants.ts';
import { ospf6Doubt } from './ospf6.ts';
import { worlds } from './worlds.ts';

/** Is everything that could be doubted plain? Then nothing need be asked one by one. */
const isSure = (model: NetworkModel, all: ReadonlyMap<string, SwitchDoubts>): boolean =>
  all.size === 0 && model.underlay.byAddress === undefined && model.evpn.unsure === undefined && !hasStatics(model);
const hasStatics = onceFor((model: NetworkModel) =>
  model.switches.some((s) => s.config.staticRoutes?.some((r) => r.vrf === undefined)),
);

/** An address of two switches: what is sent to it arrives at either, whoever it is for. */
function sharedAddress(model: NetworkModel, host: string, address: string | undefined): string | null {
  const other = address === undefined ? undefined : model.holders.get(address)?.find((h) => h !== host);
  return other === undefined ? null : `${address} of ${host} is ${other}’s too: what is sent there arrives at either`;
}

/** Why what a router has of an origin would be otherwise, or is not known: in words. */
function relationDoubt(
  model: NetworkModel,
  router: string,
  origin: string,
  differ: (there: PathsTo, o: number, r: number) => boolean,
): string | null {
  const all = doubtsIn(model);
  if (all.size === 0) return null;
  const own = all.get(router)?.routing ?? all.get(origin)?.routing;
  if (own) return own.words;
  const [o, r] = [model.index.get(origin)!, model.index.get(router)!];
  return worlds(model).find((w) => differ(w.to(o), o, r))?.doubt.words ?? null;
}

export const NO_REST = 'its routes do not come to rest, or in more than one way';
export const NOT_NEXT_DOOR = 'its next hop is not next door, and what leads there is not computed';
/** Why the routes of a router to an address of an origin are not certain though every line is understood. */
function unsettled(paths: FamilyPaths, origin: number, router: number, address?: string): string | null {
  const unsure = unsureIn(paths, origin, router, address);
  if (unsure & RESTLESS) return NO_REST;
  return unsure & HANDED_ON ? NOT_NEXT_DOOR : null;
}
export const SOME_OF =
  'of equal ways that meet on their way, or lead to several, OSPF of IPv6 uses those that it found first';
export const FIRST_HEARD =
  'of ways that keep one another out, or are as good and cannot share load, those are used that were heard first';

/** Why the paths of `router` to a loopback of `origin` are uncertain; null = they are not. */
export function pathsDoubt(model: NetworkModel, router: string, origin: string, address: string): string | null {
  const [o, r] = [model.index.get(origin)!, model.index.get(router)!];
  const has = pathsIn(model.underlay, o, r, address);
  // Two that a VRF lies between hear of one another through it.
  const table = tenantsOf(model).between(router, origin);
  if (table) {
    const prefix = { address: parseIpv4(address) ?? 0, length: 32 };
    const chosen = table.isChosenByChance({ host: router, vrf: undefined }, prefix) ? FIRST_HEARD : null;
    return tenantDoubt(model, table) ?? chosen;
  }
  if (has === 0 && tenantsOf(model).isOutside(origin) && absenceDoubt(model) !== null) return absenceDoubt(model);
  return (
    sharedAddress(model, origin, address) ??
    unsettled(model.underlay, o, r, address) ??
    (unsureIn(model.underlay, o, r, address) & BY_CHANCE ? FIRST_HEARD : null) ??
    writtenDoubt(model, router, address) ??
    relationDoubt(
      model,
      router,
      origin,
      (there) => there.paths('underlay', r, address) !== has || there.unsure('underlay', r, address) !== CERTAIN,
    )
  );
}

/** Why it is uncertain whether routes of `origin` come to `router` and can be used there. */
function arrivalDoubt(model: NetworkModel, router: string, origin: string): string | null {
  const [at, to] = [model.index.get(origin)!, model.index.get(router)!];
  for (const family of ['underlay', 'evpn'] as const) {
    const unsure = unsettled(model[family], at, to);
    if (unsure !== null) return unsure;
  }
  for (const { localAddress } of model.views.get(origin)!.config.vxlans.slice(0, 1)) {
    const way =
      localAddress === undefined
        ? null
        : (writtenDoubt(model, router, localAddress) ?? widerWay(model, router, origin, localAddress));
    if (way !== null) return way;
  }
  return relationDoubt(model, router, origin, (there, o, r) =>
    (['underlay', 'evpn'] as const).some(
      (f) =>
        (there.paths(f, r) === 0) !== (pathsIn(model[f], o, r) === 0) || (there.unsure(f, r) & ~BY_CHANCE) !== CERTAIN,
    ),
  );
}

/** A static route of the router to just that address comes before what BGP says. */
function writtenDoubt(model: NetworkModel, router: string, address: string): string | null {
  const route = model.views
    .get(router)!
    .config.staticRoutes?.find((r) => r.vrf === undefined && r.prefix === `${address}/32`);
  return route ? `${router} has a static route to ${route.prefix}, which comes before BGP’s` : null;
}

/** No route leads to an address itself, but one to more than that may: an aggregate, a static or a default route. */
function widerWay(model: NetworkModel, router: string, origin: string, address: string): string | null {
  const at = parseIpv4(address);
  if (at === null || pathsIn(model.underlay, model.index.get(origin)!, model.index.get(router)!, address) > 0)
    return null;
  for (const { host, config } of model.switches) {
    // What is said to tenants alone is not for the underlay.
    if (host !== router && tenantsOf(model).isOutside(host)) continue;
    const { aggregates = [], policies = [] } = config.bgp?.ipv4 ?? {};
    // Who tells it has none of it himself.
    if (host !== router && policies.some((p) => p.defaultOriginate))
      return `${host} tells a default route, which may lead there`;
    const told = [...aggregates.map((a) => a.prefix), ...model.views.get(host)!.ownRoutes.keys()];
    const written = host === router ? staticsIn(config).map((w) => w.route.prefix) : [];
    for (const prefix of [...told, ...written]) {
      const around = parseAnyCidr(prefix);
      if (around && around.length < 32 && holdsAny(around, { address: at, length: 32 }))
        return `only ${prefix} of ${host}, which is wider, may lead to ${address}`;
    }
  }
  return null;
}

/** Why a route to more than one address is uncertain: any line that may change routes may change it; null = there is none. */
export function prefixDoubt(model: NetworkModel): string | null {
  for (const { routing, peers } of doubtsIn(model).values()) {
    const found = routing ?? [...peers.values()][0];
    if (found) return found.words;
  }
  return null;
}

/**
 * Why a table may have a route where none is known; null = it has none.
 * @param prefix that one; absent = any that is not listed
 */
export function missingDoubt(
  model: NetworkModel,
  { host, vrf }: TenantNode,
  family: IpFamily,
  prefix?: AnyPrefix,
): string | null {
  const table = tenantsOf(model, family).groupOf(host, vrf);
  if (table) return tenantDoubt(model, table);
  if (vrf !== undefined) return importsDoubt(model, host, vrf);
  const address = prefix?.length === 32 ? hostPart(formatAny(prefix)) : undefined;
  const owners = address === undefined ? [] : (model.holders.get(address) ?? []);
  if (owners.length === 0) return absenceDoubt(model) ?? prefixDoubt(model);
  return owners.flatMap((o) => (o === host ? [] : (pathsDoubt(model, host, o, address!) ?? [])))[0] ?? null;
}

/** Why it is uncertain whom a switch hears in a VNI; null = it is not. */
export const vtepsDoubt = (model: NetworkModel, host: string, vni: number): string | null =>
  doubtOfVteps(model, host, vni);
function doubtOfVteps(model: NetworkModel, host: string, vni: number): string | null {
  const all = doubtsIn(model);
  if (isSure(model, all)) return null;
  for (const h of [host, ...(model.carriers.get(vni) ?? [])]) {
    const doubts = all.get(h);
    const found = doubts?.vnis.get(vni) ?? doubts?.routing ?? doubts?.bridging;
    if (found) return found.words;
    const between = h === host ? null : arrivalDoubt(model, host, h);
    if (between) return between;
  }
  // A switch may carry it by a line that is not understood.
  for (const [, doubts] of all) if (doubts.vnis.has(vni)) return doubts.vnis.get(vni)!.words;
  return null;
}

/** Why it is uncertain whose routes a switch imports into a VRF; null = it is not. */
export function importsDoubt(model: NetworkModel, host: string, vrf: string): string | null {
  const vni = model.views.get(host)?.vrfs.get(vrf)?.l3Vni;
  for (const c of vni === undefined ? [] : (model.l3Carriers.get(vni) ?? [])) {
    const shared = sharedAddress(model, c.host, model.views.get(c.host)!.vrfs.get(c.vrf)!.vtep);
    if (shared !== null) return shared;
  }
  return doubtOfImports(model, host, vrf);
}
function doubtOfImports(model: NetworkModel, host: string, vrf: string): string | null {
  const all = doubtsIn(model);
  if (isSure(model, all)) return null;
  const vni = model.views.get(host)?.vrfs.get(vrf)?.l3Vni;
  const carriers = vni === undefined ? [] : (model.l3Carriers.get(vni) ?? []);
  const others = targetsIn(model)
    .speakersTo({ host, vrf })
    .map((n) => ({ host: n.host, vrf: n.vrf! }))
    .filter((n) => model.views.get(n.host)!.vrfs.get(n.vrf)!.l3Vni !== vni);
  for (const c of [{ host, vrf }, ...carriers, ...others]) {
    const doubts = all.get(c.host);
    const found =
      doubts?.vrfs.get(c.vrf) ??
      (vni === undefined ? undefined : doubts?.vnis.get(vni)) ??
      doubts?.routing ??
      doubts?.bridging;
    if (found) return found.words;
    const between = c.host === host ? null : arrivalDoubt(model, host, c.host);
    if (between) return between;
  }
  return null;
}

/** Why what a table of a tenant has is uncertain, whatever it is asked about; null = it is not. */
export const tenantDoubt = (model: NetworkModel, group: TenantGroup): string | null => groupDoubts(model)(group);
const groupDoubts = onceFor((model: NetworkModel) => onceFor((group: TenantGroup) => doubtOfGroup(model, group)));
function doubtOfGroup(model: NetworkModel, group: TenantGroup): string | null {
  const led = group.family === 6 && group.nodes.some((n) => n.vrf === undefined) ? ospf6Doubt(model) : null;
  if (led !== null) return led;
  for (const s of group.sessions) {
    const doubt = sessionDoubt(model, s);
    if (doubt !== null) return doubt;
  }
  for (const { host, vrf } of group.nodes) {
    const view = model.views.get(host)!;
    const doubt = vrf === undefined ? doubtsIn(model).get(host)?.routing?.words : importsDoubt(model, host, vrf);
    if (doubt !== undefined && doubt !== null) return doubt;
    const name = `${familyName(group.family)}Policy` as const;
    const router = view.router(vrf);
    const all = router ? everybodyOf(router) : [];
    const many = all.find((p) => (p[name].maximumPrefix ?? Infinity) < group.prefixes.size);
    if (many) return `${host}: more than ${many[name].maximumPrefix} prefixes from ${many.name} end the session`;
    const of6 = group.family === 6 ? doubtsIn(model).get(host)?.ipv6 : undefined;
    if (of6) return of6.words;
    const far = writtenIn(view.config, vrf, group.family).find((w) => w.state === 'unsure');
    if (far) return `${host}: what leads to ${far.route.via}, the next hop of ${far.route.prefix}, is not computed`;
  }
  return null;
}

/** Lines because of which the switch that brings a route of EVPN in may not, or another one. */
function doubtOfOrigin(model: NetworkModel, r: EvpnRoute): string | undefined {
  const own = doubtsIn(model).get(r.from);
  if (!own) return undefined;
  const ports = 'esi' in r ? (model.views.get(r.from)!.lagByKey.get(r.configPlace[1] as string)?.members ?? []) : [];
  const vni = 'vni' in r ? r.vni : null;
  const vrf = r.type === 2 || r.type === 5 ? r.vrf : undefined;
  const ip = r.type === 5 ? r.prefix : r.type === 2 ? r.ip : undefined;
  const found =
    (vni === null ? undefined : own.vnis.get(vni)) ??
    (vrf === undefined ? undefined : own.vrfs.get(vrf)) ??
    ports.map((p) => own.ports.get(p)).find((d) => d !== undefined) ??
    own.bridging ??
    own.routing ??
    (ip !== undefined && familyOfText(ip) === 6 ? own.ipv6 : undefined);
  return found?.words;
}

/** Why it is uncertain whether a switch holds a route of EVPN, or what it does with it; null = it is not. */
export function evpnRouteDoubt(model: NetworkModel, host: string, route: EvpnRoute): string | null {
  const all = doubtsIn(model);
  const found = doubtOfOrigin(model, route);
  if (found !== undefined) return found;
  const prefix = route.type === 5 ? parseAnyPrefix(route.prefix) : null;
  const group = route.type === 5 && prefix ? tenantsOf(model, familyOf(prefix)).groupOf(route.from, route.vrf) : null;
  const node = { host: route.from, vrf: route.type === 5 ? route.vrf : undefined };
  const chosen = group?.talks && prefix && group.isChosenByChance(node, prefix) ? FIRST_HEARD : null;
  const told = (group?.talks ? tenantDoubt(model, group) : null) ?? chosen;
  return told ?? (route.from === host || isSure(model, all) ? null : arrivalDoubt(model, host, route.from));
}

/** Why it is uncertain whether two servers reach each other, in words; null = it is not. */
export function reachDoubt(model: NetworkModel, a: HostPort, b: HostPort): string | null {
  const shared = tunnelEndsShared(model, a, b);
  if (shared !== null) return shared;
  const all = doubtsIn(model);
  if (isSure(model, all)) return null;
  for (const h of [a, b]) {
    const doubts = all.get(h.switch);
    const view = model.views.get(h.switch);
    if (!doubts || !view) continue;
    const vni = view.vniOfVlan.get(h.vlan);
    const vrf = view.sviByVlan.get(h.vlan)?.vrf;
    const found =
      doubts.bridging ??
      doubts.routing ??
      (familyOfText(h.ip) === 6 ? doubts.ipv6 : undefined) ??
      doubts.ports.get(h.port) ??
      doubts.vlans.get(h.vlan) ??
      (vni === undefined ? undefined : doubts.vnis.get(vni)) ??
      (vrf === undefined ? undefined : doubts.vrfs.get(vrf));
    if (found) return found.words;
  }
  // Without tunnels at both ends it is routed, which is judged where it is followed.
  const tunnels = [a, b].every((h) => (model.views.get(h.switch)?.config.vxlans.length ?? 0) > 0);
  if (a.switch === b.switch || !tunnels) return null;
  return arrivalDoubt(model, a.switch, b.switch) ?? arrivalDoubt(model, b.switch, a.switch);
}

/** The ends of the tunnels between their switches. */
function tunnelEndsShared(model: NetworkModel, a: HostPort, b: HostPort): string | null {
  if (a.switch === b.switch) return null;
  for (const { switch: host } of [a, b])
    for (const { localAddress } of model.views.get(host)?.config.vxlans ?? []) {
      const shared = sharedAddress(model, host, localAddress);
      if (shared !== null) return shared;
    }
  return null;
}
