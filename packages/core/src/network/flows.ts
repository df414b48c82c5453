import { staticKey } from '../config/static.ts';
import type { Place } from '../config/switchConfig.ts';
import { familyOf, hostPrefix } from '../numbers/prefix.ts';
import type { WrittenRoute } from './localRoutes.ts';
import type { NetworkModel } from './networkModel.ts';
import { nextHop, type TenantNode } from './nextHop.ts';
import { statementPlace } from './sessions.ts';
import type { TenantRoute, TenantWay } from './tenantRoute.ts';
import { tenantsOf } from './tenants.ts';
import type { Trouble } from './trouble.ts';
import { FIRST_HEARD, NOT_NEXT_DOOR, tenantDoubt } from './uncertain.ts';

/** A table that a packet is looked up in, and the route it goes by there. */
export interface FlowStep {
  readonly node: TenantNode;
  readonly route: TenantRoute;
}
/** How a packet goes one way. */
export interface Way {
  /** Over one network; else a gateway routes it. */
  readonly bridged: boolean;
  /** The VNI it crosses the fabric in; null = it stays on its switch, or goes over trunks. */
  readonly vni: number | null;
  readonly trouble: Trouble | null;
  /** Why it may be otherwise, beside what doubts its ends; absent = it is not. */
  readonly unsure?: string | null;
  /** Tables it is looked up in, where more than the subnets of tenants decide. */
  readonly steps?: readonly FlowStep[];
  /** Filters were asked about the packets: other traffic may fare otherwise. */
  readonly filtered?: boolean;
}

/** What becomes of packets that a table sends on. */
export interface Flow {
  readonly trouble: Trouble | null;
  /** Why it may be otherwise; null = it is certain. */
  readonly unsure: string | null;
  /** The VNI that they cross the fabric in first; null = none. */
  readonly vni: number | null;
  /** Tables on their way, the first way of each. */
  readonly steps: readonly FlowStep[];
}
const stops = (host: string, words: string, configPlace?: Place): Flow => ({
  trouble: { words, host, ...(configPlace ? { configPlace } : {}) },
  unsure: null,
  vni: null,
  steps: [],
});
export const tableWords = ({ vrf }: TenantNode): string => (vrf === undefined ? 'outside of VRFs' : `in VRF ${vrf}`);

/** Where a frame leaves the tables: onto a VLAN of a switch. Null = it arrives. */
export type Deliver = (host: string, vlan: number) => Trouble | null;

/** What hangs on what was there first is not sure. */
const byOrder = (flow: Flow, byChance: boolean): Flow =>
  byChance ? { ...flow, unsure: flow.unsure ?? FIRST_HEARD } : flow;

/** Follows packets to an address from table to table (RFC 1812 §5.2.4), over every way that shares the load. */
export function follow(model: NetworkModel, start: TenantNode, to: string, deliver: Deliver): Flow {
  const target = hostPrefix(to)!;
  const tables = tenantsOf(model, familyOf(target));
  const known = new Map<string, Flow | null>();
  return from(start);

  function from(node: TenantNode): Flow {
    const key = `${node.host}\n${node.vrf ?? ''}`;
    const done = known.get(key);
    if (done) return done;
    if (done === null) return stops(node.host, `packets to ${to} go round in circles over ${node.host}`);
    known.set(key, null);
    const flow = lookUp(node);
    known.set(key, flow);
    return flow;
  }

  function lookUp(node: TenantNode): Flow {
    const { host, vrf } = node;
    const group = tables.groupOf(host, vrf);
    const notComputed = (why: string): Flow => ({ ...stops(host, why), unsure: why });
    if (!group) return notComputed(`what ${host} knows ${tableWords(node)} is not computed for tenants`);
    for (const prefix of group.around(target)) {
      const route = group.routeAt(node, prefix);
      if (!route) continue;
      const flow = over(node, route);
      const doubt =
        tenantDoubt(model, group) ??
        (vrf === undefined && model.views.get(host)!.ospf ? `${host} hears of routes by OSPF as well` : null);
      return { ...flow, unsure: flow.unsure ?? doubt, steps: [{ node, route }, ...flow.steps] };
    }
    const doubt = tenantDoubt(model, group);
    return { ...stops(host, `${host} has no route to ${to} ${tableWords(node)}`), unsure: doubt };
  }

  function over(node: TenantNode, route: TenantRoute): Flow {
    const { host } = node;
    switch (route.kind) {
      case 'connected': {
        const svi = route.subnets.find((s) => s.svi !== undefined)?.svi;
        if (!svi) return stops(host, `nobody has ${to} on ${route.subnets[0]!.port} of ${host}`);
        const trouble = deliver(host, svi.vlan);
        return { trouble, unsure: null, vni: null, steps: [] };
      }
      case 'ospf':
        return together(route.ospf.over.map((a) => from({ host: a.farHost!, vrf: undefined })));
      case 'static':
        return byOrder(together(route.written.map((w) => overWritten(node, w))), route.byChance);
      default: {
        if (route.ways.length === 0)
          return { ...stops(host, `${host} may have no route to ${to} ${tableWords(node)}`), unsure: FIRST_HEARD };
        const flow = together(route.ways.map((w) => overWay(node, w)));
        const far = route.ways.some((w) => w.held.handedOn) ? NOT_NEXT_DOOR : null;
        const restless = route.rests ? null : 'its routes do not come to rest';
        // Of those that are as good any may be used.
        return byOrder({ ...flow, unsure: flow.unsure ?? far ?? restless }, route.byChance);
      }
    }
  }

  function overWritten(node: TenantNode, { route }: WrittenRoute): Flow {
    const place: Place = ['staticRoutes', staticKey(route)];
    if (route.via === undefined)
      return stops(node.host, `${node.host} drops it: ${route.prefix} is written down`, place);
    const next = nextHop(model, node, route.via);
    return 'why' in next ? { ...stops(node.host, next.why, place), unsure: next.unsure ? next.why : null } : from(next);
  }

  function overWay(node: TenantNode, { session, to: next, leakedFrom, via }: TenantWay): Flow {
    const { host } = node;
    if (via !== undefined && next === null) {
      const lost = nextHop(model, leakedFrom ?? node, via);
      if ('why' in lost)
        return { ...stops(host, lost.why, statementPlace(session!)), unsure: lost.unsure ? lost.why : null };
    }
    if (next === null) return stops(host, `${host} drops it: it has no more than an aggregate`);
    if (session) {
      const flow = from(next);
      return flow.trouble === null || flow.trouble.configPlace
        ? flow
        : { ...flow, trouble: { ...flow.trouble, configPlace: statementPlace(session) } };
    }
    // Another table of the same switch has it of its own.
    if (next === leakedFrom) return from(next);
    const vni = model.views.get(host)!.vrfs.get((leakedFrom ?? node).vrf!)!.l3Vni!;
    const there = [...model.views.get(next.host)!.vrfs.values()].find((v) => v.l3Vni === vni);
    if (!there) return stops(next.host, `${next.host} has no VRF with VNI ${vni}, in which ${host} sends it`);
    return { ...from({ host: next.host, vrf: there.name }), vni };
  }
}

/** Several ways at once: where some arrive and some do not, it depends on the packet. */
function together(flows: readonly Flow[]): Flow {
  const stopped = flows.find((f) => f.trouble !== null);
  const arrived = flows.find((f) => f.trouble === null);
  const unsure = flows.find((f) => f.unsure !== null)?.unsure ?? null;
  if (stopped && arrived)
    return { ...stopped, unsure: `the load is shared, and on one of the ways ${stopped.trouble!.words}` };
  return { ...flows[0]!, unsure };
}
