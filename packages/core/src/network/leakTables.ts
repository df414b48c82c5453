import { familyName } from '../config/bgp.ts';
import type { IpFamily } from '../numbers/address.ts';
import type { Cidr } from '../numbers/ipv4.ts';
import type { AnyPrefix } from '../numbers/prefix.ts';
import { standsBefore, type HeldRoute } from './bestRoute.ts';
import { ownRoute, settleRoutes } from './bgpRoutes.ts';
import type { SettledFrom } from './distances.ts';
import { overlayOf } from './evpnCarriage.ts';
import { leakEdges, leaksInto, type Leakage } from './leaks.ts';
import type { NetworkModel } from './networkModel.ts';
import { nodeKey, type TenantNode } from './nextHop.ts';
import { bgpRouter } from './routedFamily.ts';
import { withAttributes, type Attributes } from './routes.ts';
import type { Session } from './sessions.ts';
import { MOST_WORK, type Settlement } from './settlement.ts';
import { advertises, ownRoutesOf, routerAt, saidAt } from './spokenFamily.ts';
import type { Teller, TenantTunnels, Tunnel } from './tenantTunnels.ts';

/** Tables of one family between which routes go, as far as leaks hang on them. */
export interface LeakingTables {
  readonly model: NetworkModel;
  readonly family: IpFamily;
  readonly nodes: readonly TenantNode[];
  /** The index of each, by its word. */
  readonly at: ReadonlyMap<string, number>;
  readonly sessions: readonly Session[];
  readonly tunnels: TenantTunnels;
  /** Do others than subnets, servers and leaks come into it? */
  readonly hears: () => boolean;
  /** Does a table tell a prefix as an aggregate? */
  readonly tellsAggregate: (at: number, prefix: AnyPrefix) => boolean;
}
/** Who has a prefix before it goes anywhere. */
interface Announced extends Pick<SettledFrom, 'own' | 'routers' | 'quiet'> {
  readonly tellers: readonly Teller[];
}

/** Tables that have routes of others of their switch, and what they have without all tables being settled: large fabrics have many. */
export class LeakTables {
  private readonly of: LeakingTables;
  constructor(of: LeakingTables) {
    this.of = of;
  }

  /** Tables that have what others of their switch have as well. */
  get all(): readonly Leakage[] {
    return (this.leaking ??= this.of.nodes.flatMap((node, to) =>
      leaksInto(this.of.model, node, this.of.family).flatMap(({ vrf, ...how }) => {
        const from = this.of.at.get(nodeKey(node.host, vrf));
        return from === undefined ? [] : { from, to, ...how };
      }),
    ));
  }
  private leaking: readonly Leakage[] | null = null;

  /** What one table has, where that follows from what is near it: kept for each that is asked; null = all is to be settled. */
  settle(prefix: AnyPrefix, text: Cidr, asked: number): Settlement | null {
    const key = `${text} ${asked}`;
    const known = this.near.get(key);
    if (known !== undefined) return known;
    const leaking = this.letting(prefix, text);
    const sources = this.all.filter((l) => l.to === asked && leaking.has(l));
    const told = new Set([...leaking].map((l) => l.to));
    const hearsOf = (at: number): boolean => [...this.of.tunnels.speakersTo(at)].some((s) => told.has(s));
    const made =
      (sources.length === 1 ? this.fromNext(prefix, text, asked, sources[0]!, hearsOf) : null) ??
      (this.of.hears() ? null : this.fromSources(prefix, text, asked, sources, hearsOf));
    // Who asks for all tables of a large fabric asks each once.
    if (this.near.size >= MOST_KEPT) this.near.clear();
    this.near.set(key, made);
    return made;
  }
  private readonly near = new Map<string, Settlement | null>();
  /**
   * Of the one table whose routes it has: one of that table’s own, which stands before all that either of them hears; null =
   * it has none, or it need not stand before all.
   */
  private fromNext(
    prefix: AnyPrefix,
    text: Cidr,
    asked: number,
    leakage: Leakage,
    hearsOf: (at: number) => boolean,
  ): Settlement | null {
    const { from, byPrefix } = leakage;
    const { own, routers, quiet } = this.announced(text);
    const had = own.get(from);
    if (!had || !byPrefix || own.has(asked) || this.of.tellsAggregate(asked, prefix)) return null;
    if ([asked, from].some((at) => this.speaksAt(this.of.nodes[at]!))) return null;
    const [edge] = leakEdges([leakage], [], prefix);
    const [route, heard] = [had, withAttributes(had, { weight: 0 })].map((a) =>
      edge!.leak!.change(ownRoute(routers[from]!, a), 0),
    );
    if (!route || route.attributes.weight === 0) return null;
    // What comes through EVPN has no weight; where the map gives it one that is as good, other things decide.
    const before = !heard || heard.attributes.weight < route.attributes.weight;
    if (!before && (this.of.hears() || hearsOf(from) || !standsBefore(had, own.values()))) return null;
    const held: HeldRoute[][] = [];
    held[asked] = [route];
    const tellerAt = (): undefined => undefined;
    const settled = { held, rests: true, first: 0, past: 0, tunnels: [], tellerAt, unchosen: false };
    return { ...settled, own, routers, edges: [edge!], quiet };
  }
  private speaksAt({ host, vrf }: TenantNode): boolean {
    return this.of.sessions.some((s) => s.host === host && s.vrf === vrf);
  }
  /**
   * Where nothing but leaks comes into it: of its own, of those whose routes it has, and of who announces it. What somebody has
   * from another table and tells on stands behind what leaks with a weight; null = where it does not.
   */
  private fromSources(
    prefix: AnyPrefix,
    text: Cidr,
    asked: number,
    sources: readonly Leakage[],
    hearsOf: (at: number) => boolean,
  ): Settlement | null {
    const into = [asked, ...new Set(sources.map((l) => l.from))];
    if (into.slice(1).some(hearsOf)) return null;
    const { own, routers, tellers, quiet } = this.announced(text);
    const tunnels = [...own.keys()].flatMap((from) => this.waysInto(from, into, tellers));
    const unchosen = own.size * overlayOf(this.of.model).edges.length > MOST_WORK;
    const over = tunnels.map((t) =>
      this.of.tunnels.edgeOf(t, { first: 0, past: tunnels.length, unchosen, prefix, hops: false }),
    );
    const edges = [...over, ...leakEdges(sources, over, prefix)];
    const { held, rests } = settleRoutes(routers, edges, prefix, own);
    const best = held[asked]![0];
    if (!(best && best.attributes.weight > 0) && hearsOf(asked)) return null;
    // Of many tables each is asked: no more is kept than says what this one has.
    const places = held[asked]!.flatMap((h) => [h, ...(h.chances ?? [])]).flatMap((h) => [
      h.over,
      h.leaked?.over ?? -1,
    ]);
    return {
      held: only(held, [asked]),
      rests,
      first: 0,
      past: tunnels.length,
      tunnels: only(tunnels, places),
      tellerAt: (from) => tellers[from - this.of.nodes.length],
      unchosen,
      own,
      routers,
      edges: only(edges, places),
      quiet,
    };
  }
  /** Those ways from table to table that let a prefix through. */
  letting(prefix: AnyPrefix, text: Cidr): ReadonlySet<Leakage> {
    let known = this.lettingBy.get(text);
    if (!known) {
      known = new Set(this.all.filter((l) => l.lets(prefix)));
      this.lettingBy.set(text, known);
    }
    return known;
  }
  private readonly lettingBy = new Map<string, ReadonlySet<Leakage>>();
  /** Who has a prefix of its own: tables, and behind them those that tell it by EVPN alone. */
  private announced(text: Cidr): Announced {
    let known = this.announcing.get(text);
    if (!known) {
      const routers = [
        ...(this.allRouters ??= this.of.nodes.map((n) =>
          bgpRouter(routerAt(this.of.model, n)?.speaker, familyName(this.of.family)),
        )),
      ];
      const own = new Map<number, Attributes>();
      this.of.nodes.forEach((n, i) => {
        const route = ownRoutesOf(routerAt(this.of.model, n), this.of.family)?.get(text);
        if (route) own.set(i, route.attributes);
      });
      const tellers = this.of.tunnels.tellers.get(text) ?? [];
      for (const { node, attributes } of tellers) {
        own.set(routers.length, attributes);
        routers.push(routers[this.of.at.get(nodeKey(node.host, node.vrf))!]!);
      }
      this.announcing.set(text, (known = { own, routers, tellers, quiet: routers.map(() => false) }));
    }
    return known;
  }
  private readonly announcing = new Map<string, Announced>();
  private allRouters: ReturnType<typeof bgpRouter>[] | null = null;
  /** Ways through EVPN from one of them into some tables. */
  private waysInto(from: number, into: readonly number[], tellers: readonly Teller[]): Tunnel[] {
    const node = this.of.nodes[from];
    if (node && !advertises(saidAt(this.of.model, node), this.of.family)) return [];
    return into.flatMap((to) => this.of.tunnels.from(node ?? tellers[from - this.of.nodes.length]!.node, from, to));
  }
}

const MOST_KEPT = 5_000;

/** Those of a list that stand at some places, each where it was. */
function only<T>(all: readonly T[], places: readonly number[]): T[] {
  const out: T[] = [];
  for (const at of places) if (at >= 0 && at < all.length) out[at] = all[at]!;
  return out;
}
