import { helloFiltered, type SessionEnd } from './filteredSession.ts';
import type { OspfPort } from '../config/ospf.ts';
import type { Place } from '../config/switchConfig.ts';
import { contains, prefixOf, type Cidr } from '../numbers/ipv4.ts';
import type { OspfEnd, OspfOrigin } from './ospfPorts.ts';
import type { CableEnd, CablePlan } from './sessions.ts';
import { endKey } from './sessions.ts';
import type { SwitchView } from './switchView.ts';

/** An interface of OSPF that has a cable, and what becomes of it with the router at its other end. */
export interface Adjacency {
  readonly host: string;
  readonly port: string;
  readonly area: string;
  readonly farHost: string | null;
  readonly farPort: string | null;
  readonly up: boolean;
  /** Why not, or why no route leads over it; null = all is well. */
  readonly reason: string | null;
  /** What of the interface that hangs on, or what makes it speak. */
  readonly place: Place;
}

/** One direction of an adjacency that is up. */
interface OspfEdge {
  readonly from: number;
  readonly to: number;
  readonly area: string;
  readonly cost: number;
  readonly adjacency: Adjacency;
}

/** What one router has of a prefix by OSPF. */
export interface OspfRoute {
  readonly kind: 'own' | 'intra' | 'inter' | 'outside';
  readonly cost: number;
  /** Adjacencies it leads over: equally good. */
  readonly over: readonly Adjacency[];
  /** Is it certain only that it leads over one of them? */
  readonly someOf?: true;
}

/** OSPF of all switches together (RFC 2328). */
export interface OspfNetwork {
  readonly adjacencies: readonly Adjacency[];
  /** Of switches, why their routes are not certain though every line is understood. */
  readonly doubts: ReadonlyMap<string, string>;
  /**
   * What every router has of a prefix, by index.
   * @param only of those that bring it in this switch alone
   */
  readonly routesTo: (prefix: Cidr, only?: string) => readonly (OspfRoute | null)[];
}

const BACKBONE = '0.0.0.0';
/** Nearer than any cost that can be said. */
const NEAREST = 0.001;

/** Why two ends do not become neighbours, and what of an interface says so. */
interface Why {
  readonly words: string;
  readonly field: keyof OspfPort | 'mtu' | 'addresses';
}
const why = (field: Why['field'], words: string): Why => ({ field, words });

/** Why an end takes what it hears of the other not for a neighbour, or null. */
function notHeard(here: OspfEnd, there: OspfEnd, farHost: string): Why | null {
  if (here.hello !== there.hello)
    return why('hello', `hello interval ${here.hello} s here, ${there.hello} s on ${farHost}`);
  if (here.dead !== there.dead) return why('dead', `dead interval ${here.dead} s here, ${there.dead} s on ${farHost}`);
  if (here.proof !== there.proof) return why('proof', `${proofWords(here)} here, ${proofWords(there)} on ${farHost}`);
  if (here.proof === 'digest') {
    const sent = there.sentKey;
    const key = here.keys.get(sent);
    if (key === undefined) return why('keys', `no key ${sent} here, with which ${farHost} sends`);
    if (key !== there.keys.get(sent)) return why('keys', `key ${sent} is another on ${farHost}`);
  }
  return null;
}
const linkWords = ({ pointToPoint }: OspfEnd): string => (pointToPoint ? 'a link of two' : 'a link of many');
const proofWords = ({ proof }: OspfEnd): string =>
  proof === 'digest' ? 'authentication by digest' : 'no authentication';

/** Do two ends stand in one subnet, as each of them sees it? Where an address is one alone, it borrows that of a loopback. */
function meet(here: OspfEnd, there: OspfEnd): boolean {
  const sees = (a: OspfEnd, b: OspfEnd): boolean =>
    a.address === null ||
    b.address === null ||
    (a.pointToPoint && a.address.length === 32) ||
    contains(prefixOf(a.address), { address: b.address.address, length: 32 });
  return sees(here, there) && sees(there, here);
}

/** Why two ends of a cable do not become neighbours, or null. */
function whyNot(here: OspfEnd, there: OspfEnd, farHost: string): Why | null {
  if (there.passive) return why('passive', `it is passive on ${farHost}`);
  if (here.area !== there.area) return why('area', `area ${here.area} here, ${there.area} on ${farHost}`);
  if (!meet(here, there)) return why('addresses', `its address and that of ${farHost} are in no subnet of both`);
  const shared = !here.pointToPoint && !there.pointToPoint;
  if (shared && here.address && there.address && here.address.length !== there.address.length)
    return why('addresses', `its subnet has length ${here.address.length} here, ${there.address.length} on ${farHost}`);
  const unheard = notHeard(here, there, farHost) ?? notHeard(there, here, 'this end');
  if (unheard !== null) return unheard;
  if ((there.mtu > here.mtu && !here.mtuIgnored) || (here.mtu > there.mtu && !there.mtuIgnored))
    return why('mtu', `MTU ${here.mtu} here, ${there.mtu} on ${farHost}`);
  return shared && here.priority === 0 && there.priority === 0
    ? why('priority', 'neither end may speak for the link (priority 0)')
    : null;
}

/** The line of a switch that a field of an interface stands in, or else one that makes the interface speak. */
function placeOf({ config }: SwitchView, { name, network }: OspfEnd, field: Why['field'] | null, which: Which): Place {
  if (field === 'mtu' || field === 'addresses') return ['ports', name, field];
  const ports = `${which}Ports` as const;
  const said = config[ports]?.find((p) => p.name === name);
  const first =
    said &&
    (field !== null && said[field] !== undefined
      ? field
      : (['area', 'cost'] as const).find((f) => said[f] !== undefined));
  if (first !== undefined) return [ports, name, first];
  return network === null ? [which] : ['ospf', 'networks', network];
}

/** Every interface of OSPF that speaks, with the one at the other end of its cable. */
function matchEnds(views: ReadonlyMap<string, SwitchView>, plan: CablePlan, doubts: Map<string, string>, which: Which) {
  const found: { readonly adjacency: Adjacency; readonly end: OspfEnd }[] = [];
  for (const [host, view] of views)
    for (const end of view[which]?.ends ?? []) {
      if (end.passive) continue;
      if (!view.portByName.has(end.name)) {
        doubts.set(host, `${host}: what OSPF does over ${end.name} is not computed`);
        continue;
      }
      const far: CableEnd | undefined = plan.get(endKey(host, end.name));
      if (!far) continue;
      const at = { host, port: end.name, area: end.area, farHost: far.host, farPort: far.port };
      const down = (reason: string, field: Why['field'] | null = null): void =>
        void found.push({ adjacency: { ...at, up: false, reason, place: placeOf(view, end, field, which) }, end });
      const there = views.get(far.host);
      if (!there) {
        down(`${far.host} is not among the switches read`);
        continue;
      }
      const others = (there[which]?.ends ?? []).filter((e) => e.name === far.port);
      const port = there.portByName.get(far.port);
      if (others.length === 0) {
        down(port?.shut ? `${far.port} of ${far.host} is shut` : `${far.host} does not run OSPF on ${far.port}`);
        continue;
      }
      const routerId = view[which]!.routerId;
      if (there[which]!.routerId === routerId) {
        down(`${far.host} has the same router id, ${routerId ?? 'none'}`);
        continue;
      }
      if (which === 'ospf6' && [view, there].some((v) => v.config.filters))
        doubts.set(host, `what filters let pass of IPv6 is not computed`);
      const filters = helloFiltered(helloEnd(host, view, end.name), helloEnd(far.host, there, far.port));
      if (filters.unsure !== null) doubts.set(host, filters.unsure);
      if (filters.trouble) {
        down(filters.trouble.words);
        continue;
      }
      const reasons = others.map((o) => whyNot(end, o, far.host));
      const met = reasons.indexOf(null);
      if (met < 0) down(reasons[0]!.words, reasons[0]!.field);
      else {
        // They become neighbours, but neither finds the link back in what the other tells of it (RFC 2328 §16.1, 2b).
        const unlike = others[met]!.pointToPoint !== end.pointToPoint;
        const place = placeOf(view, end, unlike ? 'pointToPoint' : null, which);
        const leadsNowhere = unlike ? `${linkWords(end)} here, ${linkWords(others[met]!)} on ${far.host}` : null;
        found.push({ adjacency: { ...at, up: true, reason: leadsNowhere, place }, end });
      }
    }
  return found;
}

const helloEnd = (host: string, view: SwitchView, port: string): SessionEnd => ({
  host,
  view,
  vrf: undefined,
  port,
  address: null,
  passive: false,
});

/** Distances of all routers of an area to some of them, and what lies on the ways. */
interface Towards {
  readonly cost: ReadonlyMap<number, number>;
  readonly over: (router: number) => Adjacency[];
}

class Areas {
  private readonly edges: readonly OspfEdge[];
  /** Edges into each router, by area. */
  private readonly into = new Map<string, Map<number, OspfEdge[]>>();
  private readonly from = new Map<string, Map<number, OspfEdge[]>>();
  readonly members = new Map<string, Set<number>>();
  constructor(edges: readonly OspfEdge[], members: readonly (readonly [area: string, router: number])[]) {
    this.edges = edges;
    const put = (all: Map<string, Map<number, OspfEdge[]>>, router: number, e: OspfEdge): void => {
      const area = all.get(e.area) ?? new Map<number, OspfEdge[]>();
      all.set(e.area, area.set(router, [...(area.get(router) ?? []), e]));
    };
    for (const e of this.edges) {
      put(this.into, e.to, e);
      put(this.from, e.from, e);
    }
    for (const [area, router] of members) this.members.set(area, (this.members.get(area) ?? new Set()).add(router));
  }
  /** Where a router sends on to one other in an area. */
  private toOne(area: string, router: number): Towards {
    const key = `${area} ${router}`;
    let known = this.ones.get(key);
    if (!known) this.ones.set(key, (known = this.towards(area, new Map([[router, 0]]))));
    return known;
  }
  private readonly ones = new Map<string, Towards>();
  /**
   * Do equal ways of a router to some others meet before they are there, or lead to several? FRR 8.4.4 counts for IPv6 what
   * leads on by the way that it found there first.
   */
  meetOnWay(area: string, from: number, ends: ReadonlyMap<number, number>): boolean {
    const { over } = this.towards(area, ends);
    const next = (router: number): number[] =>
      (this.from.get(area)?.get(router) ?? []).flatMap((e) => (over(router).includes(e.adjacency) ? [e.to] : []));
    const met = new Set(next(from));
    let arrived = 0;
    for (const router of met) {
      if (ends.has(router)) {
        if (++arrived > 1) return true;
        continue;
      }
      if (this.toOne(area, router).over(from).length > 1) return true;
      for (const n of next(router)) met.add(n);
    }
    return false;
  }
  hasNeighbour(area: string, router: number): boolean {
    return (this.from.get(area)?.get(router) ?? []).length > 0;
  }
  areasOf(router: number): string[] {
    return [...this.members].filter(([, m]) => m.has(router)).map(([a]) => a);
  }

  /** Shortest ways within an area to any of some routers, each with what is to be added at it (RFC 2328 §16.1). */
  towards(area: string, ends: ReadonlyMap<number, number>): Towards {
    const cost = new Map<number, number>();
    const open = new Map(ends);
    const into = this.into.get(area);
    // All that are equally near at once: in a fabric they are many, and few distances.
    while (open.size > 0) {
      const least = Math.min(...open.values());
      const nearest = [...open].flatMap(([r, c]) => (c === least ? [r] : []));
      for (const r of nearest) {
        open.delete(r);
        cost.set(r, least);
      }
      for (const r of nearest)
        for (const e of into?.get(r) ?? [])
          if (!cost.has(e.from) && least + e.cost < (open.get(e.from) ?? Infinity)) open.set(e.from, least + e.cost);
    }
    return {
      cost,
      over: (router) =>
        (this.from.get(area)?.get(router) ?? [])
          .filter((e) => e.cost + (cost.get(e.to) ?? Infinity) === cost.get(router))
          .map((e) => e.adjacency),
    };
  }
}

type Found = Map<
  number,
  { readonly kind: 'own' | 'intra' | 'inter'; readonly cost: number; readonly over: Adjacency[] }
>;

/** Ways of all routers to what some bring into their areas: within an area, then over the backbone (RFC 2328 §16.2). */
function ways(areas: Areas, ends: ReadonlyMap<string, ReadonlyMap<number, number>>): Found {
  const found: Found = new Map();
  const take = (router: number, kind: 'intra' | 'inter', cost: number, over: Adjacency[]): void => {
    const known = found.get(router);
    if (known && (known.kind !== kind || known.cost < cost)) return;
    if (known && known.cost === cost) known.over.push(...over);
    else found.set(router, { kind, cost, over });
  };
  for (const own of ends.values()) for (const [router, cost] of own) found.set(router, { kind: 'own', cost, over: [] });
  const within = new Map<string, ReadonlyMap<number, number>>();
  for (const [area, own] of ends) {
    const { cost, over } = areas.towards(area, own);
    within.set(area, cost);
    for (const [router, c] of cost) take(router, 'intra', c, over(router));
  }
  const backbone = areas.members.get(BACKBONE);
  if (!backbone) return found;
  /** What routers at the border of an area say of it into another. */
  const told = (into: string): Map<number, number> => {
    const out = new Map<number, number>();
    for (const router of areas.members.get(into) ?? []) {
      const known = found.get(router);
      if (!known || !backbone.has(router) || areas.areasOf(router).length < 2) continue;
      // Of other areas only, and into the backbone only what lies within one of its own.
      const others = [...within].filter(([a, c]) => a !== into && c.has(router)).map(([, c]) => c.get(router)!);
      const stands = known.kind !== 'inter' && within.get(into)?.has(router) === true;
      if (stands) continue;
      if (others.length > 0) out.set(router, Math.min(...others));
      else if (into !== BACKBONE && overBackbone.has(router)) out.set(router, known.cost);
    }
    return out;
  };
  /** Routers that have it over the backbone: of what comes over other areas nothing is told on. */
  const overBackbone = new Set<number>();
  const spread = (area: string, summaries: ReadonlyMap<number, number>): void => {
    const { cost, over } = areas.towards(area, summaries);
    for (const [router, c] of cost) {
      const known = found.get(router);
      if (known && known.kind !== 'inter') continue;
      // A border router goes by the backbone alone, where it has a neighbour in it (RFC 3509 §2.2, as FRR goes by itself).
      if (area !== BACKBONE && areas.hasNeighbour(BACKBONE, router)) continue;
      if (area === BACKBONE) overBackbone.add(router);
      take(router, 'inter', c, over(router));
    }
  };
  spread(BACKBONE, told(BACKBONE));
  const below = [...areas.members.keys()].filter((a) => a !== BACKBONE).map((a) => [a, told(a)] as const);
  for (const [area, summaries] of below) spread(area, summaries);
  return found;
}

/** What is asked of adjacencies by `host port`: what were if they were down, or up and before all others. */
export interface OspfSupposed {
  readonly gone: ReadonlySet<string>;
  readonly favoured: ReadonlySet<string>;
}
const NOTHING_SUPPOSED: OspfSupposed = { gone: new Set(), favoured: new Set() };

/** OSPF of IPv4, or that of IPv6 (RFC 5340): two protocols that find their ways alike. */
type Which = 'ospf' | 'ospf6';

/** Routes that OSPF makes; null = no switch runs it. */
export function ospfNetwork(
  views: ReadonlyMap<string, SwitchView>,
  index: ReadonlyMap<string, number>,
  plan: CablePlan,
  { gone, favoured }: OspfSupposed = NOTHING_SUPPOSED,
  which: Which = 'ospf',
): OspfNetwork | null {
  const running = [...views].flatMap(([host, view]) => {
    const ospf = view[which];
    return ospf ? [{ host, ospf, at: index.get(host)! }] : [];
  });
  if (running.length === 0) return null;
  const doubts = new Map<string, string>();
  const found = matchEnds(views, plan, doubts, which);
  const edges = found.flatMap(({ adjacency: a, end }): OspfEdge[] => {
    const key = endKey(a.host, a.port);
    const to = a.farHost === null ? undefined : index.get(a.farHost);
    if (to === undefined || gone.has(key) || !(a.reason === null || favoured.has(key))) return [];
    const cost = favoured.has(key) ? NEAREST : end.cost;
    return [{ from: index.get(a.host)!, to, area: a.area, cost, adjacency: a }];
  });
  const areas = new Areas(
    edges,
    running.flatMap(({ ospf, at }) => ospf.ends.map((e) => [e.area, at] as const)),
  );
  for (const { host, ospf, at } of running) {
    if (ospf.unsure !== null) doubts.set(host, `${host}: ${ospf.unsure}`);
    const own = areas.areasOf(at);
    if (own.length > 1 && !own.includes(BACKBONE))
      doubts.set(host, `${host} is in areas ${own.join(' and ')} and not in the backbone`);
  }
  const widths = new Map(running.map(({ at, ospf }) => [at, ospf.maximumPaths]));
  const known = new Map<string, readonly (OspfRoute | null)[]>();
  const settle = (prefix: Cidr, only: string | undefined): (OspfRoute | null)[] => {
    const origins = running.flatMap(({ host, ospf, at }) => {
      const o = ospf.origins.get(prefix);
      return o && (only === undefined || host === only) ? [{ o, at }] : [];
    });
    const out: (OspfRoute | null)[] = [...views].map(() => null);
    const put = (ways_: Found, outside: boolean, ends: ReadonlyMap<string, ReadonlyMap<number, number>>): void => {
      for (const [router, { kind, cost, over }] of ways_) {
        if (out[router]) continue;
        const inArea = !outside && kind === 'intra';
        const some =
          which === 'ospf6' &&
          over.length > 1 &&
          (!inArea || [...ends].some(([area, own]) => areas.meetOnWay(area, router, own)));
        out[router] = {
          kind: outside && kind !== 'own' ? 'outside' : kind,
          cost,
          over: over.slice(0, widths.get(router)),
          ...(some ? { someOf: true } : {}),
        };
      }
    };
    const inside = new Map<string, Map<number, number>>();
    for (const { o, at } of origins)
      if (o.area !== null) inside.set(o.area, (inside.get(o.area) ?? new Map<number, number>()).set(at, o.cost));
    put(ways(areas, inside), false, inside);
    for (const group of outsiders(origins)) {
      const ends = new Map<string, Map<number, number>>();
      for (const { at, cost } of group)
        for (const area of areas.areasOf(at))
          ends.set(area, (ends.get(area) ?? new Map<number, number>()).set(at, cost));
      put(ways(areas, ends), true, ends);
    }
    return out;
  };
  return {
    adjacencies: found.map((f) => f.adjacency),
    doubts,
    routesTo: (prefix, only) => {
      const key = `${prefix} ${only ?? ''}`;
      let routes = known.get(key);
      if (!routes) known.set(key, (routes = settle(prefix, only)));
      return routes;
    },
  };
}

/** Routers that bring a prefix in from outside, the better ones first: type 1, then type 2 by their metric (RFC 2328 §16.4). */
function outsiders(origins: readonly { readonly o: OspfOrigin; readonly at: number }[]) {
  const all = origins.filter(({ o }) => o.area === null);
  const first = all.filter(({ o }) => o.wayCounts).map(({ o, at }) => ({ at, cost: o.cost }));
  const second = all.filter(({ o }) => !o.wayCounts);
  const metrics = [...new Set(second.map(({ o }) => o.cost))].sort((a, b) => a - b);
  return [
    ...(first.length > 0 ? [first] : []),
    ...metrics.map((m) => second.filter(({ o }) => o.cost === m).map(({ at }) => ({ at, cost: 0 }))),
  ];
}
