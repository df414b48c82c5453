import type { IpFamily } from '../numbers/address.ts';
import type { Cidr } from '../numbers/ipv4.ts';
import { familyOf, formatAny, hostPrefix, type AnyPrefix } from '../numbers/prefix.ts';
import { onceFor } from '../onceFor.ts';
import type { HeldRoute } from './bestRoute.ts';
import { PLAIN_EDGE, type BgpEdge } from './bgpRoutes.ts';
import { evpnCarriageOf, type EvpnCarriage } from './evpnCarriage.ts';
import { EVPN_ROUTE } from './families.ts';
import { heardHosts } from './heardHosts.ts';
import { vrfEnd, whyUnheard, type NetworkModel } from './networkModel.ts';
import { nodeKey, type TenantNode } from './nextHop.ts';
import { communitiesOf, communityWords, withAttributes, type Attributes, type Policy } from './routes.ts';
import { advertisePolicy, saidAt } from './spokenFamily.ts';
import { targetsIn, type Targets } from './targets.ts';

/** Who tells a prefix by EVPN alone: no router of a VRF has it as a route. */
export interface Teller {
  readonly node: TenantNode;
  readonly attributes: Attributes;
  readonly said: readonly string[];
}
/** A way through EVPN from a table to one that imports its routes. */
export interface Tunnel {
  readonly from: number;
  readonly to: number;
  readonly speaker: TenantNode;
  readonly listener: TenantNode;
  /** Of the paths that arrive. */
  readonly nth: number;
}
/** What edges of ways through EVPN have in common in a settlement. */
export interface TunnelEdges {
  readonly prefix: AnyPrefix;
  /** The first edge that is such a way, and the first behind them. */
  readonly first: number;
  readonly past: number;
  /** So many tell it that which of them is nearest is not computed. */
  readonly unchosen: boolean;
  /** Maps ask for next hops. */
  readonly hops: boolean;
}
/** Does a list anywhere ask for route targets? Routes need not carry them else. */
const asksTargets = onceFor(({ views }: NetworkModel): boolean =>
  [...views.values()].some(({ config }) =>
    config.extendedCommunityLists?.some((l) =>
      l.entries.some((e) => 'communities' in e && e.communities.some((c) => c.startsWith('rt:'))),
    ),
  ),
);
const isHeld = (h: Partial<HeldRoute>): h is HeldRoute => h.attributes !== undefined;

/** How EVPN brings routes from table to table: who imports whose, and what becomes of a route on the way. */
export class TenantTunnels {
  private readonly model: NetworkModel;
  private readonly family: IpFamily;
  private readonly nodes: readonly TenantNode[];
  private readonly at: ReadonlyMap<string, number>;
  private readonly targets: Targets;
  private readonly evpn: EvpnCarriage;

  /** @param at the index of each table, by its word */
  constructor(model: NetworkModel, family: IpFamily, nodes: readonly TenantNode[], at: ReadonlyMap<string, number>) {
    this.model = model;
    this.family = family;
    this.nodes = nodes;
    this.at = at;
    this.targets = targetsIn(model);
    this.evpn = evpnCarriageOf(model);
  }

  private indexOf(node: TenantNode): number {
    return this.at.get(nodeKey(node.host, node.vrf))!;
  }
  /** What a table tells of its own, and how; null = all, as it is. */
  policyOf(node: TenantNode): Policy | null {
    return advertisePolicy(this.model.views.get(node.host)!.config, saidAt(this.model, node), this.family);
  }
  /** Does what a table tells come to a switch at all? */
  comes(node: TenantNode, host: string, told: Attributes): boolean {
    return this.evpn.carriedTo(node.host, host, told).length > 0;
  }

  /** A route with the targets under which EVPN told it: they stay with it, and lists may ask for them. */
  private withTargets(attributes: Attributes, exports: readonly string[] = []): Attributes {
    if (!asksTargets(this.model)) return attributes;
    const extended = communityWords([...communitiesOf(attributes.extended), ...exports.map((e) => `rt:${e}`)]);
    return withAttributes(attributes, { extended });
  }

  /** Servers whose addresses EVPN tells once they have spoken (RFC 9135 §4), by address. */
  get tellers(): ReadonlyMap<Cidr, readonly Teller[]> {
    if (this.speaking) return this.speaking;
    const out = new Map<Cidr, Teller[]>();
    const there = new Map(this.nodes.map((n) => [nodeKey(n.host, n.vrf), n]));
    for (const h of heardHosts(this.model)) {
      const view = this.model.views.get(h.switch);
      const svi = view?.sviByVlan.get(h.vlan);
      if (!view || svi?.vrf === undefined || !view.vniOfVlan.has(h.vlan)) continue;
      const address = hostPrefix(h.ip);
      if (!address || familyOf(address) !== this.family) continue;
      const node = there.get(nodeKey(h.switch, svi.vrf));
      if (!node) continue;
      // It carries the targets of its network too.
      const attributes = this.withTargets(EVPN_ROUTE, view.l2Vnis.get(view.vniOfVlan.get(h.vlan)!)?.exports);
      const teller = { node, attributes, said: [`once ${h.host} has spoken`] };
      const text = formatAny(address);
      out.set(text, [...(out.get(text) ?? []), teller]);
    }
    return (this.speaking = out);
  }
  private speaking: Map<Cidr, Teller[]> | null = null;

  /**
   * Ways through EVPN from a table to those that import its routes.
   * @param only of them
   */
  from(node: TenantNode, from: number, only?: number): Tunnel[] {
    const { model } = this;
    const there = node.vrf === undefined ? undefined : model.views.get(node.host)!.vrfs.get(node.vrf);
    if (!there) return [];
    const listeners =
      only === undefined
        ? this.targets.listenersTo(node)
        : this.speakersTo(only).has(this.indexOf(node))
          ? [this.nodes[only]!]
          : [];
    return listeners.flatMap((listener): Tunnel[] => {
      const here = model.views.get(listener.host)!.vrfs.get(listener.vrf!)!;
      if (whyUnheard(model, vrfEnd(listener.host, here), vrfEnd(node.host, there)) !== null) return [];
      // EVPN brings a route over every session; what comes from one AS number is as good as one.
      const ways = this.evpn.asesHeardBy(listener.host);
      return Array.from({ length: ways }, (_, nth) => ({
        from,
        to: this.indexOf(listener),
        speaker: node,
        listener,
        nth,
      }));
    });
  }
  speakersTo(listener: number): ReadonlySet<number> {
    let known = this.speakers.get(listener);
    if (!known) {
      known = new Set(this.targets.speakersTo(this.nodes[listener]!).map((n) => this.indexOf(n)));
      this.speakers.set(listener, known);
    }
    return known;
  }
  private readonly speakers = new Map<number, ReadonlySet<number>>();
  /** The edge of a way through EVPN, among those of a settlement. */
  edgeOf({ from, to, speaker, listener, nth }: Tunnel, { first, past, unchosen, prefix, hops }: TunnelEdges): BgpEdge {
    // Who speaks for himself alone is told whatever the map says.
    const policy = from < this.nodes.length ? this.policyOf(speaker) : null;
    return {
      ...PLAIN_EDGE,
      from,
      to,
      carry: (best, over) => {
        // What was imported is not told by EVPN once more; what another table of the switch has is (seen on FRR 8.4.4).
        if (best.over >= first && best.over < past) return null;
        const said = policy ? policy(best.attributes, prefix) : best.attributes;
        if (!said) return null;
        const there = this.model.views.get(speaker.host)!.vrfs.get(speaker.vrf ?? '');
        const targeted = this.withTargets(said, there?.exports);
        // The next hop is the VTEP from there on.
        const told = hops ? withAttributes(targeted, { nextHop: there?.vtep ?? null, hopBy: null }) : targeted;
        if (unchosen) {
          const { via: __, ...kept } = best;
          return nth > 0 ? null : { ...kept, over, labelled: true, attributes: withAttributes(told, { weight: 0 }) };
        }
        const { chances: _, ...arrived } = this.evpn.carriedTo(speaker.host, listener.host, told)[nth] ?? {};
        return isHeld(arrived)
          ? { ...arrived, over, labelled: true, favoured: best.favoured || arrived.favoured, handedOn: best.handedOn }
          : null;
      },
    };
  }
}
