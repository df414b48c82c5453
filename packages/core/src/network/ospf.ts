import { helloFiltered, type SessionEnd } from './filteredSession.ts';
import type { OspfPort } from '../config/ospf.ts';
import type { Place } from '../config/switchConfig.ts';
import { contains, prefixOf, type Cidr } from '../numbers/ipv4.ts';
import { groupBy } from '../numbers/order.ts';
import { onceFor } from '../onceFor.ts';
import type { OspfEnd, OspfOrigin } from './ospfPorts.ts';
import type { CableEnd, CablePlan } from './cablePlan.ts';
import { endKey } from './cablePlan.ts';
import { classesOf, type Alike } from './alike.ts';
import { Areas, BACKBONE, ways, type Adjacency, type Found, type OspfEdge } from './ospfAreas.ts';
export type { Adjacency } from './ospfAreas.ts';
import type { SwitchView } from './switchView.ts';

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
  /** Routers that can change places two by two without anything else being otherwise, by index. */
  readonly alike: () => Alike;
}

/** Nearer than any cost that can be said. */
const NEAREST = 0.001;

type Field = keyof OspfPort | 'mtu' | 'addresses';
/** Why two ends do not become neighbours, and what of an interface says so. */
interface Why {
  readonly words: string;
  readonly field: Field;
}
const why = (field: Field, words: string): Why => ({ field, words });

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

const portsByName = onceFor((ports: readonly OspfPort[]) => new Map(ports.map((p) => [p.name, p])));
const NO_ENDS: readonly OspfEnd[] = [];
/** An interface that has several addresses has as many ends. */
const endsByName = onceFor((ends: readonly OspfEnd[]) => groupBy(ends, (e) => e.name));

/** The line of a switch that a field of an interface stands in, or else one that makes the interface speak. */
function placeOf({ config }: SwitchView, { name, network }: OspfEnd, field: Field | null, which: Which): Place {
  if (field === 'mtu' || field === 'addresses') return ['ports', name, field];
  const ports = `${which}Ports` as const;
  const said = portsByName(config[ports] ?? []).get(name);
  const first =
    said &&
    (field !== null && said[field] !== undefined
      ? field
      : (['area', 'cost'] as const).find((f) => said[f] !== undefined));
  if (first !== undefined) return which === 'ospf' ? ['ospfPorts', name, first] : ['ospf6Ports', name, first];
  return network === null ? [which] : ['ospf', 'networks', network];
}

/** Every interface of OSPF that speaks, with the one at the other end of its cable. */
function matchEnds(views: ReadonlyMap<string, SwitchView>, plan: CablePlan, doubts: Map<string, string>, which: Which) {
  const found: { readonly adjacency: Adjacency; readonly end: OspfEnd }[] = [];
  const endsOf = new Map([...views].map(([host, view]) => [host, endsByName(view[which]?.ends ?? NO_ENDS)]));
  for (const [host, view] of views) {
    for (const end of view[which]?.ends ?? NO_ENDS) {
      if (end.passive) continue;
      if (!view.portByName.has(end.name)) {
        doubts.set(host, `${host}: what OSPF does over ${end.name} is not computed`);
        continue;
      }
      // Very many are looked at, and mostly none of them is dark.
      const dark = plan.dark.size === 0 ? undefined : plan.dark.get(endKey(host, end.name));
      const far: CableEnd | undefined = dark?.end ?? plan.end(host, end.name);
      if (!far) continue;
      const add = (up: boolean, reason: string | null, field: Field | null): void => {
        const place = placeOf(view, end, field, which);
        const { name: port, area } = end;
        found.push({ adjacency: { host, port, area, farHost: far.host, farPort: far.port, up, reason, place }, end });
      };
      const down = (reason: string, field: Field | null = null): void => add(false, reason, field);
      if (dark) {
        down(dark.why);
        continue;
      }
      const there = views.get(far.host);
      if (!there) {
        down(`${far.host} is not among the switches read`);
        continue;
      }
      const others = endsOf.get(far.host)!.get(far.port) ?? NO_ENDS;
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
      const family = which === 'ospf6' ? 'ip6' : 'ip';
      const filters = helloFiltered(helloEnd(host, view, end.name), helloEnd(far.host, there, far.port), family);
      if (filters.unsure !== null) doubts.set(host, filters.unsure);
      if (filters.trouble) {
        down(filters.trouble.words);
        continue;
      }
      const dim = plan.dim.size === 0 ? undefined : plan.dim.get(endKey(host, end.name));
      if (dim !== undefined) doubts.set(host, `${host}: ${dim}`);
      const reasons = others.map((o) => whyNot(end, o, far.host));
      const met = reasons.indexOf(null);
      if (met < 0) down(reasons[0]!.words, reasons[0]!.field);
      else {
        // They become neighbours, but neither finds the link back in what the other tells of it (RFC 2328 §16.1, 2b).
        const unlike = others[met]!.pointToPoint !== end.pointToPoint;
        const leadsNowhere = unlike ? `${linkWords(end)} here, ${linkWords(others[met]!)} on ${far.host}` : null;
        add(true, leadsNowhere, unlike ? 'pointToPoint' : null);
      }
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

/** Routers with the same neighbours, at the same costs, in the same areas, are alike. */
function alikeByOspf(
  size: number,
  edges: readonly OspfEdge[],
  areas: Areas,
  widths: ReadonlyMap<number, number>,
): Alike {
  const around: string[][] = Array.from({ length: size }, () => []);
  for (const { from, to, area, cost } of edges) {
    around[from]!.push(`>${to} ${area} ${cost}`);
    around[to]!.push(`<${from} ${area} ${cost}`);
  }
  const keyOf = (own: string[], router: number): string | null =>
    own.length === 0 ? null : `${widths.get(router)} ${areas.areasOf(router).sort().join()}\n${own.sort().join('\n')}`;
  return classesOf(around.map(keyOf));
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
  const edges: OspfEdge[] = [];
  const supposes = gone.size + favoured.size > 0;
  for (const { adjacency: a, end } of found) {
    const key = supposes ? endKey(a.host, a.port) : '';
    const to = a.farHost === null ? undefined : index.get(a.farHost);
    if (to === undefined || gone.has(key) || !(a.reason === null || favoured.has(key))) continue;
    const cost = favoured.has(key) ? NEAREST : end.cost;
    edges.push({ from: index.get(a.host)!, to, area: a.area, cost, adjacency: a });
  }
  const areas = new Areas(
    edges,
    running.flatMap(({ ospf, at }) => [...new Set(ospf.ends.map((e) => e.area))].map((area) => [area, at] as const)),
  );
  for (const { host, ospf, at } of running) {
    if (ospf.unsure !== null) doubts.set(host, `${host}: ${ospf.unsure}`);
    const own = areas.areasOf(at);
    if (own.length > 1 && !own.includes(BACKBONE))
      doubts.set(host, `${host} is in areas ${own.join(' and ')} and not in the backbone`);
  }
  const widths = new Map(running.map(({ at, ospf }) => [at, ospf.maximumPaths]));
  const known = new Map<string, readonly (OspfRoute | null)[]>();
  let alike: Alike | undefined;
  const settle = (prefix: Cidr, only: string | undefined): (OspfRoute | null)[] => {
    const origins = running.flatMap(({ host, ospf, at }) => {
      const o = ospf.origins.get(prefix);
      return o && (only === undefined || host === only) ? [{ o, at }] : [];
    });
    const out: (OspfRoute | null)[] = [...views].map(() => null);
    const put = (ways_: Found, outside: boolean, ends: ReadonlyMap<string, ReadonlyMap<number, number>>): void => {
      const meets = which === 'ospf6' ? [...ends].map(([area, own]) => areas.meetOnWay(area, own)) : [];
      for (const [router, { kind, cost, over }] of ways_) {
        if (out[router]) continue;
        const inArea = !outside && kind === 'intra';
        const some = which === 'ospf6' && over.length > 1 && (!inArea || meets.some((meet) => meet(router)));
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
    alike: () => (alike ??= alikeByOspf(views.size, edges, areas, widths)),
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
