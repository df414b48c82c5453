import { staticKey } from '../config/static.ts';
import type { Place } from '../config/switchConfig.ts';
import type { NetworkModel } from '../network/networkModel.ts';
import { numbersOf } from '../network/routes.ts';
import { statementPlace } from '../network/sessions.ts';
import type { TenantNode } from '../network/nextHop.ts';
import { MOST_WORK } from '../network/settlement.ts';
import type { TenantGroup } from '../network/tenantGroup.ts';
import type { TenantRoute, TenantWay } from '../network/tenantRoute.ts';
import { tenantsOf } from '../network/tenants.ts';
import { FIRST_HEARD, NO_REST, NOT_NEXT_DOOR, SOME_OF, tenantDoubt } from '../network/uncertain.ts';
import { familyOf, formatAny, type AnyPrefix } from '../numbers/prefix.ts';
import type { IpFamily } from '../numbers/address.ts';
import { naturally } from '../numbers/order.ts';
import type { Because, RouteAnswer, RouteWay } from './answer.ts';
import { announcers, connectedAnswer, DROPPED, ospfRouteWays, saidOf, staticAnswer } from './routeWords.ts';

/** Is a prefix that of one address alone? */
const isAlone = (prefix: string, address: string): boolean =>
  prefix === `${address}/${address.includes(':') ? 128 : 32}`;

/** One of the ways as people read it. */
function wayOf(model: NetworkModel, node: TenantNode, way: TenantWay): RouteWay {
  const { session, to, held, said, leakedFrom, via } = way;
  const path = numbersOf(held.attributes.path);
  if (via !== undefined)
    return { over: via, to: to?.host ?? null, path, said: [...saidOf(held), `told by ${session!.host}`] };
  if (to === null) return DROPPED;
  if (to === leakedFrom) return { over: `VRF ${to.vrf} of the same switch`, to: to.host, path, said: saidOf(held) };
  if (session) return { over: session.farPeer!, to: to.host, path, said: saidOf(held) };
  // It goes out in the VNI of the VRF it is sent from, to where it was told.
  const vni = model.views.get(node.host)!.vrfs.get((leakedFrom ?? node).vrf!)!.l3Vni;
  const vtep = model.views.get(to.host)!.vrfs.get(to.vrf!)!.vtep;
  return { over: `VNI ${vni} to ${vtep}`, to: to.host, path, said };
}

function becauseOf(model: NetworkModel, node: TenantNode, prefix: AnyPrefix, ways: readonly TenantWay[]): Because[] {
  const { host, vrf } = node;
  const out: Because[] = [];
  const carried = vrf === undefined ? undefined : model.views.get(host)!.vrfs.get(vrf);
  if (carried && ways.some((w) => w.session === null && w.to !== null && !w.leakedFrom))
    out.push({
      host,
      words: `${vrf} imports ${carried.imports.join(' ')}`,
      configPlace: ['bgp', 'vrfs', vrf!, 'imports'],
    });
  for (const other of new Set(ways.flatMap((w) => w.leakedFrom?.vrf ?? [])))
    out.push({
      host,
      words: `${vrf} has the routes of ${other} as well`,
      configPlace: ['bgp', 'vrfs', vrf!, familyOf(prefix) === 6 ? 'ipv6' : 'ipv4', 'importsFrom'],
    });
  for (const { session, to, said, leakedFrom } of ways) {
    if (session) {
      const peer = session.farPeer!;
      const of = leakedFrom?.vrf ?? vrf;
      const configPlace = statementPlace({ peer, ...(of === undefined ? {} : { vrf: of }) });
      out.push({ host, words: `${session.host} tells it over ${peer}`, configPlace });
      const by = model.views.get(host)!.config.staticRoutes?.find((r) => r.vrf === of && isAlone(r.prefix, peer));
      if (by)
        out.push({
          host,
          words: `${peer} lies behind ${by.via ?? 'nothing'}`,
          configPlace: ['staticRoutes', staticKey(by)],
        });
    } else if (to !== null) {
      const view = model.views.get(to.host)!;
      const router = view.router(to.vrf);
      const six = familyOf(prefix) === 6;
      const own = (six ? router?.ownIpv6Routes : router?.ownRoutes)?.has(formatAny(prefix));
      const place: Place =
        said.length > 0
          ? ['bgp', 'evpn', 'advertiseAllVni']
          : own
            ? ['bgp', 'vrfs', to.vrf!, six ? 'ipv6' : 'ipv4', 'connected']
            : ['bgp', 'vrfs', to.vrf!, six ? 'advertiseIpv6' : 'advertiseIpv4'];
      out.push({ host: to.host, words: `${to.host} announces it`, configPlace: place });
    }
  }
  // Outside of VRFs the switches are asked that bring it in.
  if (vrf === undefined && familyOf(prefix) === 6) out.push(...announcers(model, prefix));
  return out;
}

function answerOf(model: NetworkModel, node: TenantNode, route: TenantRoute, unsure: string | null): RouteAnswer {
  const { host } = node;
  const { prefix } = route;
  if (route.kind === 'connected') return connectedAnswer(host, prefix, route.subnets);
  if (route.kind === 'static')
    return staticAnswer(host, prefix, route.written, unsure ?? (route.byChance ? FIRST_HEARD : null));
  if (route.kind === 'ospf')
    return {
      host,
      prefix: formatAny(prefix),
      kind: 'ospf',
      ways: ospfRouteWays(route.ospf),
      unsure: unsure ?? (route.ospf.someOf ? SOME_OF : null),
      because: route.ospf.over.map(({ farHost, port, place }) => ({
        host,
        words: `${farHost} is its neighbour over ${port}`,
        configPlace: place,
      })),
    };
  const unchosen = route.unchosen
    ? `of ${route.ways.length} that announce it the nearest are taken; which, is not computed`
    : null;
  const far = route.ways.some((w) => w.held.handedOn) ? NOT_NEXT_DOOR : null;
  return {
    host,
    prefix: formatAny(prefix),
    kind: route.kind,
    ways: route.ways
      .map((w) => wayOf(model, node, w))
      .sort((a, b) => naturally(a.to ?? '', b.to ?? '') || naturally(a.over, b.over)),
    unsure: unsure ?? (route.rests ? null : NO_REST) ?? unchosen ?? far ?? (route.byChance ? FIRST_HEARD : null),
    because: becauseOf(model, node, prefix, route.ways),
  };
}

const within = (
  model: NetworkModel,
  family: IpFamily,
  host: string,
  vrf: string | undefined,
): [TenantGroup, TenantNode] | null => {
  const group = tenantsOf(model, family).groupOf(host, vrf);
  return group && [group, { host, vrf }];
};

/** What a table of a tenant, or of a switch outside of VRFs that a VRF speaks to, has of a prefix. */
export function tenantRoute(
  model: NetworkModel,
  host: string,
  vrf: string | undefined,
  prefix: AnyPrefix,
): RouteAnswer | null {
  const found = within(model, familyOf(prefix), host, vrf);
  if (!found) return null;
  const [group, node] = found;
  const route = group.routeAt(node, prefix);
  return route && answerOf(model, node, route, tenantDoubt(model, group));
}

/** All that such a table has of the prefixes of a family that are wanted; null = it is no such table, a string says why it is not asked for all. */
export function tenantRoutes(
  model: NetworkModel,
  family: IpFamily,
  host: string,
  vrf: string | undefined,
  wanted: (p: AnyPrefix) => boolean,
): RouteAnswer[] | string | null {
  const found = within(model, family, host, vrf);
  if (!found) return null;
  const [group, node] = found;
  const asked = [...group.prefixes.values()].filter(wanted);
  if (asked.length * group.sessions.length > MOST_WORK)
    return `${asked.length} prefixes are told: ask for the routes to one address, “routes ${host}${vrf === undefined ? '' : ` in ${vrf}`} to ADDRESS”`;
  const unsure = tenantDoubt(model, group);
  return asked.flatMap((prefix) => {
    const route = group.routeAt(node, prefix);
    return route ? [answerOf(model, node, route, unsure)] : [];
  });
}
