import { parseIpv4 } from '../numbers/ipv4.ts';
import { familyName } from '../config/bgp.ts';
import type { IpFamily } from '../numbers/address.ts';
import { onceFor } from '../onceFor.ts';
import { leakNeighbours } from './leaks.ts';
import { pathsTo, type NetworkModel } from './networkModel.ts';
import { nextHop, nodeKey, type TenantNode } from './nextHop.ts';
import { isTenants, type Session } from './sessions.ts';
import { targetsIn } from './targets.ts';
import { TenantGroup } from './tenantGroup.ts';

/** What is known of the tenants of a model, group by group as it is asked about. */
class Tenants {
  private readonly model: NetworkModel;
  private readonly family: IpFamily;
  private readonly groups = new Map<string, TenantGroup | null>();
  private readonly sessionsOf = new Map<string, Session[]>();
  /** Switches of which also what is outside of VRFs is told to a VRF somewhere. */
  private readonly outside = new Set<string>();

  constructor(model: NetworkModel, family: IpFamily) {
    this.model = model;
    this.family = family;
    for (const s of model.sessions)
      if (isTenants(s)) {
        if (s.vrf === undefined) this.outside.add(s.host);
        if (s.farVrf === undefined && s.farHost !== null) this.outside.add(s.farHost);
      }
    // Who is sent to by a route that is written down in a VRF answers from his own table.
    for (const { host, config } of model.switches)
      for (const { vrf, via } of config.staticRoutes ?? []) {
        const next = vrf === undefined || via === undefined ? null : nextHop(model, { host, vrf }, via);
        if (next && 'host' in next && next.vrf === undefined) this.outside.add(next.host);
      }
    const asked = family === 6 || this.outside.size > 0 || model.sessions.some(isTenants);
    for (const s of asked ? model.sessions : []) {
      const key = nodeKey(s.host, s.vrf);
      const known = this.sessionsOf.get(key);
      if (known) known.push(s);
      else this.sessionsOf.set(key, [s]);
    }
  }

  /**
   * The tables that routes of a table may come from or go to; null = outside of VRFs, where no VRF has a part in it. Of IPv6
   * there are always some: what is outside of VRFs is a table like any other.
   */
  groupOf(host: string, vrf: string | undefined): TenantGroup | null {
    if (vrf === undefined && this.family === 4 && !this.reaches(host)) return null;
    const known = this.groups.get(nodeKey(host, vrf));
    if (known !== undefined) return known;
    const group = this.gather({ host, vrf });
    for (const n of group.nodes) this.groups.set(nodeKey(n.host, n.vrf), group);
    return group;
  }
  /** What two switches, both outside of VRFs, hear of one another through a VRF; null = nothing. */
  between(host: string, other: string): TenantGroup | null {
    const group = this.groupOf(host, undefined);
    return group && group === this.groupOf(other, undefined) ? group : null;
  }
  /** Does a switch speak to VRFs of others, and to nobody else? */
  isOutside(host: string): boolean {
    return this.outside.has(host) && (this.sessionsOf.get(host) ?? []).every(isTenants);
  }
  /** Is what is outside of VRFs on a switch told to a VRF, over other switches as well? */
  private reaches(host: string): boolean {
    if (this.outside.size === 0) return false;
    if (this.closure === null) {
      this.closure = new Set(this.outside);
      for (const at of this.closure)
        for (const s of this.sessionsOf.get(at) ?? [])
          if (s.up && s.ipv4 && s.farVrf === undefined) this.closure.add(s.farHost!);
    }
    return this.closure.has(host);
  }
  private closure: Set<string> | null = null;

  private gather(start: TenantNode): TenantGroup {
    const targets = targetsIn(this.model);
    const found = new Map([[nodeKey(start.host, start.vrf), start]]);
    const sessions: Session[] = [];
    /** Switches from which VRFs with the same targets were followed: two, as none leads to VRFs of its own switch. */
    const followed = new Map<string, Set<string>>();
    for (const node of found.values()) {
      const add = (n: TenantNode): void => {
        const key = nodeKey(n.host, n.vrf);
        if (!found.has(key)) found.set(key, n);
      };
      for (const s of this.sessionsOf.get(nodeKey(node.host, node.vrf)) ?? []) {
        sessions.push(s);
        if (s.up && s[familyName(this.family)]) add({ host: s.farHost!, vrf: s.farVrf });
      }
      for (const n of leakNeighbours(this.model, node, this.family)) add(n);
      const words = targets.wordsOf(node);
      const from = followed.get(words) ?? new Set();
      if (from.size > 1) continue;
      followed.set(words, from.add(node.host));
      for (const n of [...targets.speakersTo(node), ...targets.listenersTo(node)]) add(n);
    }
    return new TenantGroup(this.model, this.family, [...found.values()], sessions);
  }
}

/** What a model knows of its tenants. */
const tenants = {
  4: onceFor((model: NetworkModel): Tenants => new Tenants(model, 4)),
  6: onceFor((model: NetworkModel): Tenants => new Tenants(model, 6)),
} as const;
export const tenantsOf = (model: NetworkModel, family: IpFamily = 4): Tenants => tenants[family](model);

/** Equal paths of a switch to a loopback of another outside of VRFs, through a VRF where one lies between them. */
export function loopbackPaths(model: NetworkModel, router: string, origin: string, address: string): number {
  const group = tenantsOf(model).between(router, origin);
  if (!group) return pathsTo(model, router, origin, address);
  const route = group.routeAt({ host: router, vrf: undefined }, { address: parseIpv4(address) ?? 0, length: 32 });
  return route && 'ways' in route ? route.ways.filter((w) => w.to !== null || w.via !== undefined).length : 0;
}
