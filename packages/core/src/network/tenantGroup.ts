import { familyName, unicastOf, type BgpVrf } from '../config/bgp.ts';
import type { Cidr } from '../numbers/ipv4.ts';
import { EVERYTHING, formatAny, holdsAny, hostPrefix, parseAnyPrefix, type AnyPrefix } from '../numbers/prefix.ts';
import { everybodyOf } from './bgp.ts';
import { chancesOf, type HeldRoute } from './bestRoute.ts';
import { settleRoutes } from './bgpRoutes.ts';
import { distanceOf, OSPF, standsOrFalls, type Table } from './distances.ts';
import { overlayOf } from './evpnCarriage.ts';
import { EVPN_ROUTE, isSuppressed, isWithin } from './families.ts';
import type { IpFamily } from '../numbers/address.ts';
import { leakEdges } from './leaks.ts';
import { LeakTables } from './leakTables.ts';
import { subnetOf, subnetsIn, writtenIn } from './localRoutes.ts';
import { type NetworkModel } from './networkModel.ts';
import type { OspfNetwork } from './ospf.ts';
import { ospf6Of } from './ospf6.ts';
import { nextHop, nodeKey, type TenantNode } from './nextHop.ts';
import { bgpRouter, edgesOver, type RoutedFamily } from './routedFamily.ts';
import { OWN_ATTRIBUTES, type Attributes } from './routes.ts';
import type { Session } from './sessions.ts';
import { isImported, MOST_WORK, type Settlement } from './settlement.ts';
import { advertises, aggregatesAt, ownRoutesOf, routerAt, saidAt, tellsDefault } from './spokenFamily.ts';
import { TenantTunnels, type Teller, type Tunnel } from './tenantTunnels.ts';
import { apartByCost } from './vtepCosts.ts';
import type { TenantRoute, TenantWay } from './tenantRoute.ts';

/** Tables of one family between which routes go, by sessions and by EVPN. */
export class TenantGroup {
  readonly family: IpFamily;
  readonly nodes: readonly TenantNode[];
  /** Their sessions, up or not. */
  readonly sessions: readonly Session[];
  private readonly model: NetworkModel;
  private readonly at: ReadonlyMap<string, number>;
  private readonly settled = new Map<string, Settlement>();
  private readonly tunnels: TenantTunnels;
  private readonly leaks: LeakTables;

  constructor(model: NetworkModel, family: IpFamily, nodes: readonly TenantNode[], sessions: readonly Session[]) {
    this.model = model;
    this.family = family;
    this.nodes = nodes;
    this.sessions = sessions;
    this.at = new Map(nodes.map((n, i) => [nodeKey(n.host, n.vrf), i]));
    this.tunnels = new TenantTunnels(model, family, nodes, this.at);
    this.leaks = new LeakTables({
      model,
      family,
      nodes,
      at: this.at,
      sessions,
      tunnels: this.tunnels,
      hears: () => this.hears,
      tellsAggregate: (at, prefix) => this.tellsAggregate(nodes[at]!, at, prefix),
    });
  }

  /** Do others than its subnets and servers come into it: neighbours, written routes, aggregates, other tenants? */
  get talks(): boolean {
    return this.hears || (this.several ??= new Set(this.nodes.map((n) => n.vrf)).size > 1);
  }
  private several: boolean | undefined;
  /** The same, other tenants aside. */
  private get hears(): boolean {
    return (this.hearing ??=
      this.sessions.length > 0 ||
      this.nodes.some((node) => {
        const { host, vrf } = node;
        if (vrf === undefined) return true;
        const { config } = this.model.views.get(host)!;
        const said = this.said(node);
        const family = said && unicastOf(said, this.family);
        return (
          (config.staticRoutes?.some((r) => r.vrf === vrf) ?? false) ||
          config.ports.some((p) => p.vrf === vrf) ||
          tellsDefault(said, this.family) ||
          // Where tables have routes of others it keeps these back, and each table is settled with that.
          (this.tunnels.policyOf(node) !== null && this.leaks.all.length === 0) ||
          family?.aggregates !== undefined ||
          family?.networks !== undefined ||
          family?.connected?.routeMap !== undefined
        );
      }));
  }
  private hearing: boolean | undefined;

  /** OSPF that leads in tables of the group; null = none does. */
  private get ospf(): OspfNetwork | null {
    return this.family === 6 && this.nodes.some((n) => n.vrf === undefined) ? ospf6Of(this.model) : null;
  }

  private viewOf(node: TenantNode) {
    return routerAt(this.model, node);
  }
  private said(node: TenantNode): BgpVrf | undefined {
    return saidAt(this.model, node);
  }

  /** Every prefix that some table of the group has of its own: announced, or only there. */
  get prefixes(): ReadonlyMap<Cidr, AnyPrefix> {
    if (this.known) return this.known;
    const out = new Map<Cidr, AnyPrefix>();
    const add = (p: AnyPrefix): void => void out.set(formatAny(p), p);
    for (const node of this.nodes) {
      const { config } = this.model.views.get(node.host)!;
      const router = this.viewOf(node);
      for (const c of subnetsIn(config, node.vrf, this.family)) add(c.prefix);
      for (const w of writtenIn(config, node.vrf, this.family)) add(w.prefix);
      for (const { prefix } of aggregatesAt(this.viewOf(node), this.family)) add(prefix);
      const told =
        router !== null && everybodyOf(router).some((p) => p[`${familyName(this.family)}Policy`].defaultOriginate);
      if (told || tellsDefault(this.said(node), this.family)) add(EVERYTHING[this.family]);
    }
    for (const t of this.tunnels.tellers.keys()) out.set(t, parseAnyPrefix(t)!);
    // What OSPF brings is known in every table outside of VRFs.
    if (this.ospf)
      for (const view of this.model.views.values())
        for (const { prefix } of view.ospf6?.origins.values() ?? []) add(prefix);
    return (this.known = out);
  }
  private known: Map<Cidr, AnyPrefix> | null = null;

  /** Sessions between its tables. */
  private get direct(): Pick<RoutedFamily, 'edges' | 'sessions'> {
    const indexOf = (host: string, vrf: string | undefined): number | undefined => this.at.get(nodeKey(host, vrf));
    return (this.sessionEdges ??= edgesOver(this.sessions, this.model.views, indexOf, familyName(this.family)));
  }
  private sessionEdges: Pick<RoutedFamily, 'edges' | 'sessions'> | null = null;

  private indexOf(node: TenantNode): number {
    return this.at.get(nodeKey(node.host, node.vrf))!;
  }
  /** Ways through EVPN from all that have neighbours: what they hear goes on over them. */
  private get passing(): readonly Tunnel[] {
    return (this.passers ??= this.nodes.flatMap((n, i) =>
      this.sessions.some((s) => s.host === n.host && s.vrf === n.vrf) && advertises(this.said(n), this.family)
        ? this.tunnels.from(n, i)
        : [],
    ));
  }
  private passers: Tunnel[] | null = null;

  /** What every table of the group has of a prefix by BGP and EVPN; with nothing but subnets in it, or leaks, one table alone. */
  private settle(prefix: AnyPrefix, asked: number): Settlement {
    const text = formatAny(prefix);
    const near = this.leaks.all.length > 0 ? this.leaks.settle(prefix, text, asked) : null;
    if (near) return near;
    const only = this.talks ? undefined : asked;
    const key = only === undefined ? text : `${text} ${only}`;
    let known = this.settled.get(key);
    if (!known) this.settled.set(key, (known = this.settleAnew(prefix, text, only)));
    return known;
  }
  private settleAnew(prefix: AnyPrefix, text: Cidr, only: number | undefined): Settlement {
    const routers = this.nodes.map((n) => bgpRouter(this.viewOf(n)?.speaker, familyName(this.family)));
    const own = new Map<number, Attributes>();
    const tunnels: Tunnel[] = only === undefined ? [...this.passing] : [];
    const passes = new Set(tunnels.map((t) => t.from));
    const tell = (node: TenantNode, from: number): void => {
      if (!passes.has(from)) tunnels.push(...this.tunnels.from(node, from, only));
    };
    this.nodes.forEach((n, i) => {
      const route = ownRoutesOf(this.viewOf(n), this.family)?.get(text);
      const attributes = route?.attributes ?? (this.tellsAggregate(n, i, prefix) ? OWN_ATTRIBUTES : undefined);
      if (!attributes) return;
      own.set(i, attributes);
      if (advertises(this.said(n), this.family)) tell(n, i);
    });
    // What another table of the switch has is told on.
    for (const at of only === undefined ? new Set([...this.leaks.letting(prefix, text)].map((l) => l.to)) : [])
      if (!own.has(at) && advertises(this.said(this.nodes[at]!), this.family)) tell(this.nodes[at]!, at);
    // Those that tell it by EVPN alone stand for themselves.
    const tellers = [...(this.tunnels.tellers.get(text) ?? [])];
    if (prefix.length === 0)
      for (const node of this.nodes)
        if (tellsDefault(this.said(node), this.family)) tellers.push({ node, attributes: EVPN_ROUTE, said: [] });
    for (const { node, attributes } of tellers) {
      own.set(routers.length, attributes);
      tunnels.push(...this.tunnels.from(node, routers.length, only));
      routers.push(routers[this.indexOf(node)]!);
    }
    const { edges: direct } = only === undefined ? this.direct : { edges: [] };
    const first = direct.length;
    const speakers = new Set(tunnels.map((t) => t.from)).size;
    const unchosen = speakers * overlayOf(this.model).edges.length > MOST_WORK;
    const hops = direct.some((e) => e.hops !== null);
    const past = first + tunnels.length;
    const over = [...direct, ...tunnels.map((t) => this.tunnels.edgeOf(t, { first, past, unchosen, prefix, hops }))];
    const edges = only === undefined ? [...over, ...leakEdges(this.leaks.all, over, prefix)] : over;
    const quiet = this.nodes.map((n) => isSuppressed(aggregatesAt(this.viewOf(n), this.family), prefix));
    const { held, rests } = settleRoutes(routers, edges, prefix, own, (r) => !quiet[r]);
    const tellerAt = (from: number): Teller | undefined => tellers[from - this.nodes.length];
    return { held, rests, first, past, tunnels, tellerAt, unchosen, own, routers, edges, quiet };
  }
  private tellsAggregate(node: TenantNode, at: number, prefix: AnyPrefix): boolean {
    const text = formatAny(prefix);
    if (!aggregatesAt(this.viewOf(node), this.family).some((a) => formatAny(a.prefix) === text)) return false;
    const own = ownRoutesOf(this.viewOf(node), this.family);
    return [...this.prefixes.values()]
      .filter((p) => isWithin(p, prefix))
      .some((p) => own?.has(formatAny(p)) || this.settle(p, at).held[at]!.length > 0);
  }

  /** Does a table tell EVPN of a prefix as a route of its router: one of its own, or best from a neighbour there; or may it? */
  mayTellOn(node: TenantNode, prefix: AnyPrefix): boolean {
    const at = this.indexOf(node);
    const settlement = this.settle(prefix, at);
    const { held } = settlement;
    const policy = this.tunnels.policyOf(node);
    const tells = (h: HeldRoute): boolean =>
      !isImported(settlement, h) && (policy === null || policy(h.attributes, prefix) !== null);
    return (
      held[at]!.some(tells) || (held[at]![0]?.chances?.some(tells) === true && this.hangsOnChance(settlement, prefix))
    );
  }

  /**
   * Does what a table tells EVPN of a prefix come to a switch, as far as that hangs on the route itself: on a community that
   * keeps it in its AS (RFC 1997), on a number in its path?
   */
  comesTo(node: TenantNode, prefix: AnyPrefix, host: string): boolean {
    const at = this.indexOf(node);
    const settlement = this.settle(prefix, at);
    const told = settlement.held[at]![0];
    if (told === undefined || isImported(settlement, told) || settlement.unchosen) return true;
    const policy = this.tunnels.policyOf(node);
    const said = policy ? policy(told.attributes, prefix) : told.attributes;
    if (!said) return false;
    if (said.communities === '' && said.path === null) return true;
    return this.tunnels.comes(node, host, said);
  }

  /** What a table of the group has of a prefix; null = nothing. */
  routeAt(node: TenantNode, prefix: AnyPrefix): TenantRoute | null {
    const { config } = this.model.views.get(node.host)!;
    const text = formatAny(prefix);
    const subnets = subnetsIn(config, node.vrf, this.family).filter((c) => formatAny(c.prefix) === text);
    if (subnets.length > 0) return { prefix, kind: 'connected', subnets };
    const at = this.indexOf(node);
    const settlement = this.settle(prefix, at);
    const { held: all, rests, unchosen } = settlement;
    const held = all[at]!;
    const heardAt = distanceOf(held, ownRoutesOf(this.viewOf(node), this.family)?.has(text) === true);
    const led = node.vrf === undefined ? (this.ospf?.routesTo(text)[this.model.index.get(node.host)!] ?? null) : null;
    const byOspf = led !== null && led.over.length > 0 && OSPF < heardAt ? led : null;
    const distance = byOspf ? OSPF : heardAt;
    const written = writtenIn(config, node.vrf, this.family).filter(
      (w) => w.route.prefix === text && w.state !== 'inactive' && (w.route.distance ?? 1) < distance,
    );
    if (written.length > 0) {
      const nearest = Math.min(...written.map((w) => w.route.distance ?? 1));
      return {
        prefix,
        kind: 'static',
        written: written.filter((w) => (w.route.distance ?? 1) === nearest),
        byChance: this.hangsOnChance(settlement, prefix),
      };
    }
    if (byOspf) return { prefix, kind: 'ospf', ospf: byOspf };
    // What one table chose by chance it tells on, and so others may have it or not.
    const byChance = this.hangsOnChance(settlement, prefix);
    if (held.length === 0 && !byChance) return null;
    const ways = this.waysOf(settlement, held);
    return {
      prefix,
      kind: held[0] && isImported(settlement, held[0].leaked ?? held[0]) ? 'evpn' : 'bgp',
      ways,
      rests,
      unchosen: (unchosen && ways.length > 1) || apartByCost(this.model, node.host, ways),
      byChance: byChance || this.mixesWays(node, ways),
    };
  }

  /**
   * Are some of the neighbours that a route comes from next door, and others behind their links? Zebra looks for the next hops of
   * these only where the best of all is of one of them, and which is best hangs on what was heard first (FRR 8.4.4).
   */
  private mixesWays({ host, vrf }: TenantNode, ways: readonly TenantWay[]): boolean {
    const subnets = subnetsIn(this.model.views.get(host)!.config, vrf, this.family);
    // A session is that of who tells; its far end is how he is known here.
    const isBehind = ({ session, via }: TenantWay): boolean[] => {
      const known = via ?? session?.farPeer ?? '';
      return hostPrefix(known) === null ? [] : [subnetOf(subnets, known) === undefined];
    };
    return ways.length > 1 && new Set(ways.flatMap(isBehind)).size > 1;
  }

  /** Where routes lead, each way once. */
  private waysOf(settlement: Settlement, routes: readonly HeldRoute[]): TenantWay[] {
    const { first, tunnels, tellerAt, edges } = settlement;
    const wayOf = (h: HeldRoute): TenantWay => {
      if (h.leaked) {
        const leakedFrom = this.nodes[edges[h.over]!.from]!;
        const had = wayOf(h.leaked);
        // What the other table has of its own is looked up there.
        return { ...had, ...((had.session ?? had.to) ? {} : { to: leakedFrom }), held: h, leakedFrom };
      }
      if (h.over < 0) return { session: null, to: null, held: h, said: [] };
      if (h.over < first) {
        const session = this.direct.sessions[h.over]!;
        if (h.via !== undefined) {
          const next = nextHop(this.model, this.nodes[edges[h.over]!.to]!, h.via);
          return { session, to: 'why' in next ? null : next, held: h, said: [], via: h.via };
        }
        return { session, to: { host: session.host, vrf: session.vrf }, held: h, said: [] };
      }
      const { speaker, from } = tunnels[h.over - first]!;
      return { session: null, to: speaker, held: h, said: tellerAt(from)?.said ?? [] };
    };
    const all = routes.map(wayOf);
    // Of one next hop there is one way, whoever told it.
    const same = (a: TenantWay, b: TenantWay): boolean =>
      (a.via === undefined ? a.session === b.session : true) &&
      a.via === b.via &&
      a.to === b.to &&
      a.leakedFrom === b.leakedFrom;
    return all.filter((w, i) => all.findIndex((o) => same(o, w)) === i);
  }
  /** Did some table choose among ways that lead elsewhere and are as good, by what it heard first? */
  private hangsOnChance(settlement: Settlement, prefix: AnyPrefix): boolean {
    const keyOf = (routes: readonly HeldRoute[]): string =>
      this.waysOf(settlement, routes)
        .map((w) => `${w.to?.host} ${w.to?.vrf} ${w.via ?? w.session?.peer} ${w.leakedFrom?.vrf}`)
        .sort()
        .join();
    return (settlement.byChance ??=
      settlement.held.some((held) => {
        const chances = chancesOf(held);
        return chances.length > 1 && chances.some((c) => keyOf(c) !== keyOf(held));
      }) || standsOrFalls(settlement, this.tables, prefix, this.family));
  }

  /** Its tables with what their switches say. */
  private get tables(): readonly Table[] {
    return this.nodes.map((n) => ({
      vrf: n.vrf,
      config: this.model.views.get(n.host)!.config,
      own: ownRoutesOf(this.viewOf(n), this.family),
    }));
  }

  /** May the tables of the group have something else of a prefix, as one of them chose by what it heard first? */
  isChosenByChance(node: TenantNode, prefix: AnyPrefix): boolean {
    return this.hangsOnChance(this.settle(prefix, this.indexOf(node)), prefix);
  }

  /** Prefixes of the group that hold an address, the longest first. */
  around(host: AnyPrefix): AnyPrefix[] {
    return [...this.prefixes.values()].filter((p) => holdsAny(p, host)).sort((a, b) => b.length - a.length);
  }
}
