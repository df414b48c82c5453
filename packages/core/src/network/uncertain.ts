import { onceFor } from '../onceFor.ts';
import { contains, parseCidr, parseIpv4 } from '../numbers/ipv4.ts';
import { doubtsOf, type Doubt, type SwitchDoubts } from './doubts.ts';
import {
  CERTAIN,
  HANDED_ON,
  pathsIn,
  RESTLESS,
  settleAsAsked,
  unsureIn,
  type FamilyPaths,
  type PathsTo,
} from './families.ts';
import type { HostPort, NetworkModel, ReadSwitch } from './networkModel.ts';
import { BY_CHANCE } from './pathVector.ts';
import { ospfNetwork, type Adjacency, type OspfSupposed } from './ospf.ts';
import { staticsIn } from './localRoutes.ts';
import { endKey, isTenants, type Session } from './sessions.ts';
import { targetsIn } from './targets.ts';
import type { TenantGroup } from './tenantGroup.ts';
import { tenantsOf } from './tenants.ts';

const NO_DOUBTS: SwitchDoubts = {
  routing: undefined,
  bridging: undefined,
  peers: new Map(),
  ports: new Map(),
  vlans: new Map(),
  vnis: new Map(),
  vrfs: new Map(),
};

/** Policies of neighbours of which it is not computed what comes of them. */
function policyDoubts(model: NetworkModel, host: string): ReadonlyMap<string, Doubt> {
  const view = model.views.get(host)!;
  const out = new Map<string, Doubt>();
  if (view.plain.ipv4 && view.plain.evpn) return out;
  const prefixes = new Set(model.switches.flatMap((s) => [...model.views.get(s.host)!.ownRoutes.keys()])).size;
  for (const { name, ipv4Policy, evpnPolicy } of view.peers) {
    const most = ipv4Policy.maximumPrefix ?? evpnPolicy.maximumPrefix;
    if (most !== undefined && (evpnPolicy.maximumPrefix !== undefined || most < prefixes))
      out.set(name, { host, words: `${host}: more than ${most} prefixes from ${name} end the session`, alters: false });
    const asks = evpnPolicy.maps.find((m) =>
      view.config.routeMaps.some((r) => r.name === m && r.entries.some((e) => e.matchPrefixList !== undefined)),
    );
    if (asks !== undefined)
      out.set(name, { host, words: `${host}: what map ${asks} says of EVPN’s prefixes is not computed`, alters: true });
  }
  return out;
}

/** Why the underlay may have routes of tenants: the VNI of a default VRF brings them, and it tells them on (FRR 8.4.4). */
function leakDoubt({ l3Carriers }: NetworkModel, { host, config }: ReadSwitch): string | undefined {
  const vni = config.outsideL3Vni;
  return vni !== undefined && l3Carriers.get(vni)?.some((c) => c.host !== host)
    ? `${host}: VNI ${vni} of the default VRF brings routes of tenants into it, and what comes of them is not computed`
    : undefined;
}
/** Why there may be routes outside of VRFs where none is known; null = there are none. */
export const absenceDoubt = onceFor(
  (model: NetworkModel): string | null => model.switches.flatMap((s) => leakDoubt(model, s) ?? [])[0] ?? null,
);

/** What is doubted on each switch that has a doubt. */
const doubtsIn = onceFor(
  (model: NetworkModel): ReadonlyMap<string, SwitchDoubts> =>
    new Map(
      model.switches.flatMap((s) => {
        const doubts = doubtsOf(s);
        const peers = policyDoubts(model, s.host);
        const words = leakDoubt(model, s) ?? model.ospf?.doubts.get(s.host);
        if (peers.size === 0 && words === undefined) return doubts ? [[s.host, doubts] as const] : [];
        const base = doubts ?? NO_DOUBTS;
        const routing = base.routing ?? (words === undefined ? undefined : { host: s.host, words, alters: true });
        return [[s.host, { ...base, routing, peers: new Map([...peers, ...base.peers]) }] as const];
      }),
    ),
);

/** Is everything that could be doubted plain? Then nothing need be asked one by one. */
const isSure = (model: NetworkModel, all: ReadonlyMap<string, SwitchDoubts>): boolean =>
  all.size === 0 && model.underlay.byAddress === undefined && model.evpn.unsure === undefined && !hasStatics(model);
const hasStatics = onceFor((model: NetworkModel) =>
  model.switches.some((s) => s.config.staticRoutes?.some((r) => r.vrf === undefined)),
);

/** What of one end may change a session. */
function doubtAtEnd(
  model: NetworkModel,
  host: string,
  vrf: string | undefined,
  peer: string | null,
  port: string | null,
): Doubt | undefined {
  const doubts = doubtsIn(model).get(host);
  if (!doubts) return undefined;
  if (vrf !== undefined) return doubts.vrfs.get(vrf) ?? (port === null ? undefined : doubts.ports.get(port));
  const group = model.views.get(host)?.config.bgp?.peers.find((p) => p.name === peer)?.group;
  return (
    doubts.routing ??
    (peer === null ? undefined : doubts.peers.get(peer)) ??
    (group === undefined ? undefined : doubts.peers.get(group)) ??
    (port === null ? undefined : doubts.ports.get(port))
  );
}

/** The line because of which it is uncertain whether a session is up; null = none. What has no cable is down for certain. */
function doubtOfSession(model: NetworkModel, s: Session): Doubt | null {
  if (s.unsure !== undefined) return { host: s.host, words: `${s.host}: ${s.unsure}`, alters: true };
  const far = s.port === null ? undefined : model.plan.get(`${s.host} ${s.port}`);
  if (s.port !== null && far === undefined) return null;
  return (
    doubtAtEnd(model, s.host, s.vrf, s.peer, s.port) ??
    (far === undefined ? undefined : doubtAtEnd(model, far.host, s.farVrf, s.farPeer ?? far.port, far.port)) ??
    (s.port === null && s.farHost !== null ? doubtAtEnd(model, s.farHost, s.farVrf, s.farPeer, null) : undefined) ??
    null
  );
}

/** Why it is uncertain whether a session is up; null = it is not. */
export const sessionDoubt = (model: NetworkModel, s: Session): string | null => inWords(doubtOfSession(model, s));

const inWords = (doubt: Doubt | null): string | null => doubt && doubt.words;

/** An address of two switches: what is sent to it arrives at either, whoever it is for. */
function sharedAddress(model: NetworkModel, host: string, address: string | undefined): string | null {
  const other = address === undefined ? undefined : model.holders.get(address)?.find((h) => h !== host);
  return other === undefined ? null : `${address} of ${host} is ${other}’s too: what is sent there arrives at either`;
}

/** The line because of which it is uncertain whether two routers are neighbours by OSPF; null = none. */
function doubtOfAdjacency(model: NetworkModel, a: Adjacency): Doubt | null {
  const at = (host: string | null, port: string | null): Doubt | undefined => {
    const doubts = host === null ? undefined : doubtsIn(model).get(host);
    return doubts?.routing ?? (port === null ? undefined : doubts?.ports.get(port));
  };
  return at(a.host, a.port) ?? at(a.farHost, a.farPort) ?? null;
}
/** Why it is uncertain whether two routers are neighbours by OSPF; null = it is not. */
export const adjacencyDoubt = (model: NetworkModel, a: Adjacency): string | null => inWords(doubtOfAdjacency(model, a));

/** The network as it would be if lines that are not understood had done something to the sessions they doubt. */
interface World {
  readonly doubt: Doubt;
  readonly to: (origin: number) => PathsTo;
}
/** A doubted session as it would be if it came up after all. */
const asUp = (s: Session): Session => (s.farPeer === null ? s : { ...s, up: true, ipv4: true, evpn: true });
const isWhole = (s: Session): boolean => s.up && s.ipv4 && s.evpn;

/** What lines of one switch put in doubt. */
interface Doubted {
  doubt: Doubt;
  readonly sessions: Set<Session>;
  /** Neighbours by OSPF, as `host port`. */
  readonly adjacencies: Set<string>;
}
const NONE: ReadonlySet<string> = new Set();

/**
 * What might be: for each switch with a doubt its doubted sessions and neighbours down; those that are down up; what comes
 * over them taken before all else, where lines may change routes; and all that are doubted down at once. An answer that is
 * the same in all of them, and for which nothing came over a session whose routes may be changed, does not hang on the lines.
 */
const worlds = onceFor((model: NetworkModel): World[] => {
  const doubted = new Map<string, Doubted>();
  const note = (doubt: Doubt): Doubted => {
    const known = doubted.get(doubt.host) ?? { doubt, sessions: new Set(), adjacencies: new Set() };
    doubted.set(doubt.host, known);
    if (doubt.alters) known.doubt = doubt;
    return known;
  };
  const every = new Set<Session>();
  const everyAdjacency = new Set<string>();
  for (const s of model.sessions) {
    const doubt = isTenants(s) ? null : doubtOfSession(model, s);
    if (!doubt) continue;
    every.add(s);
    note(doubt).sessions.add(s);
  }
  for (const a of model.ospf?.adjacencies ?? []) {
    const doubt = doubtOfAdjacency(model, a);
    if (!doubt) continue;
    everyAdjacency.add(endKey(a.host, a.port));
    note(doubt).adjacencies.add(endKey(a.host, a.port));
  }
  const world = (
    doubt: Doubt,
    sessions: readonly Session[],
    supposed: OspfSupposed,
    favoured?: ReadonlySet<Session>,
  ): World => {
    const asIs = supposed.gone.size + supposed.favoured.size === 0;
    const ospf = asIs ? model.ospf : ospfNetwork(model.views, model.index, model.plan, supposed);
    return { doubt, to: settleAsAsked({ ...model, ospf }, sessions, favoured) };
  };
  const without = (gone: ReadonlySet<Session>): Session[] => model.sessions.filter((s) => !gone.has(s));
  const out = [...doubted.values()].flatMap(({ doubt, sessions, adjacencies }) => {
    const raised = new Map([...sessions].map((s) => [s, asUp(s)]));
    const up = model.sessions.map((s) => raised.get(s) ?? s);
    const near: OspfSupposed = { gone: NONE, favoured: adjacencies };
    return [
      world(doubt, without(sessions), { gone: adjacencies, favoured: NONE }),
      ...([...sessions].every(isWhole) && adjacencies.size === 0 ? [] : [world(doubt, up, near)]),
      ...(doubt.alters ? [world(doubt, up, near, new Set(raised.values()))] : []),
    ];
  });
  const [first] = doubted.values();
  return first && doubted.size > 1
    ? [...out, world(first.doubt, without(every), { gone: everyAdjacency, favoured: NONE })]
    : out;
});

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
export const FIRST_HEARD = 'of equal ways that cannot share load those are used that were heard first';

/** Why the paths of `router` to a loopback of `origin` are uncertain; null = they are not. */
export function pathsDoubt(model: NetworkModel, router: string, origin: string, address: string): string | null {
  const [o, r] = [model.index.get(origin)!, model.index.get(router)!];
  const has = pathsIn(model.underlay, o, r, address);
  // Two that a VRF lies between hear of one another through it.
  const table = tenantsOf(model).between(router, origin);
  if (table) return tenantDoubt(model, table);
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
    if (policies.some((p) => p.defaultOriginate)) return `${host} tells a default route, which may lead there`;
    const told = [...aggregates.map((a) => a.prefix), ...model.views.get(host)!.ownRoutes.keys()];
    const written = host === router ? staticsIn(config).map((w) => w.route.prefix) : [];
    for (const prefix of [...told, ...written]) {
      const around = parseCidr(prefix);
      if (around && around.length < 32 && contains(around, { address: at, length: 32 }))
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
  for (const s of group.sessions) {
    const doubt = sessionDoubt(model, s);
    if (doubt !== null) return doubt;
  }
  for (const { host, vrf } of group.nodes) {
    const view = model.views.get(host)!;
    const doubt = vrf === undefined ? doubtsIn(model).get(host)?.routing?.words : importsDoubt(model, host, vrf);
    if (doubt !== undefined && doubt !== null) return doubt;
    const many = view.router(vrf)?.peers.find((p) => (p.ipv4Policy.maximumPrefix ?? Infinity) < group.prefixes.size);
    if (many) return `${host}: more than ${many.ipv4Policy.maximumPrefix} prefixes from ${many.name} end the session`;
    const far = staticsIn(view.config, vrf).find((w) => w.state === 'unsure');
    if (far) return `${host}: what leads to ${far.route.via}, the next hop of ${far.route.prefix}, is not computed`;
  }
  return null;
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
