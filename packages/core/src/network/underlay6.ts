import type { Cidr } from '../numbers/ipv4.ts';
import { parseIpv4 } from '../numbers/ipv4.ts';
import { formatAny, networkOfAny, parseAnyCidr, parseAnyPrefix } from '../numbers/prefix.ts';
import { onceFor } from '../onceFor.ts';
import type { NetworkModel } from './networkModel.ts';
import { ospf6Of } from './ospf6.ts';
import { settlePaths } from './pathVector.ts';
import { alikeOutside } from './alikeOutside.ts';
import { settleRoutes } from './bgpRoutes.ts';
import { DEFAULT_MAXIMUM_PATHS, plainEdges, routedFamily } from './routedFamily.ts';
import { isTenants } from './sessions.ts';
import type { SwitchView } from './switchView.ts';
import { tenantsOf } from './tenants.ts';

/** Equal paths of every switch to the IPv6 loopbacks of one, by index: the least of what it announces. */
type Row = ArrayLike<number>;

/** IPv6 loopbacks of a switch that others are told of, by BGP or OSPF. */
const told = ({ config, ownIpv6Routes, ospf6 }: SwitchView): Cidr[] =>
  (config.ipv6Loopbacks ?? [])
    .map((l) => formatAny(networkOfAny(parseAnyCidr(l)!)))
    .filter((prefix) => ownIpv6Routes.has(prefix) || ospf6?.origins.has(prefix));

/** Does eBGP over links alone lead, with nothing said of routes but that somebody asks to be gone round? */
const isLedByLinks = ({ views, sessions }: NetworkModel): boolean =>
  [...views.values()].every((v) => v.plain.ipv6 && v.ospf6 === null) &&
  !sessions.some((s) => s.up && s.ipv6 && !isTenants(s) && (s.port === null || s.localAs === s.remoteAsHad));

/** Where nobody asks that: shortest paths say all there is to say. */
function byPaths(model: NetworkModel): ((origin: number) => Row) | null {
  const { switches, views, index, ospf, sessions } = model;
  if (!isLedByLinks(model) || [...views.values()].some((v) => v.asksAround)) return null;
  const routers = switches.map(({ config: { bgp } }) => ({
    asn: bgp?.asn ?? 0,
    routerId: parseIpv4(bgp?.routerId ?? '') ?? 0,
    maximumPaths: bgp?.ipv6?.maximumPaths ?? DEFAULT_MAXIMUM_PATHS,
    multipathRelax: bgp?.multipathRelax ?? false,
  }));
  const { size, counts } = settlePaths(routers, plainEdges(sessions, { switches, views, index, ospf }, 'ipv6'));
  return (origin) => counts.subarray(origin * size, (origin + 1) * size);
}

/** Where somebody does: of switches that may change places the first is settled. */
function byRoutes(model: NetworkModel): ((origin: number) => Row) | null {
  if (!isLedByLinks(model)) return null;
  const { switches, views } = model;
  const { routers, edges } = routedFamily(model.sessions, model, 'ipv6');
  const { classes, swaps } = alikeOutside(routers, edges);
  const first = new Map<string, readonly [number, Row]>();
  return (origin) => {
    const view = views.get(switches[origin]!.host)!;
    const own = told(view).map((p) => [parseAnyPrefix(p)!, view.ownIpv6Routes.get(p)!.attributes] as const);
    const like = `${classes[origin]} ${own.map(([, a]) => JSON.stringify(a)).join()}`;
    const known = first.get(like);
    if (known && classes[origin]! >= 0) {
      const row = Uint16Array.from(known[1]);
      for (const [one, other] of swaps(known[0], origin)) [row[one], row[other]] = [row[other]!, row[one]!];
      return row;
    }
    const all = own.map(([prefix, a]) => settleRoutes(routers, edges, prefix, new Map([[origin, a]])).held);
    const row = Uint16Array.from(switches, (_, r) => Math.min(...all.map((held) => held[r]!.length)));
    first.set(like, [origin, row]);
    return row;
  };
}

/** Where OSPF alone leads: of switches that may change places in it, the first is looked at. */
function byOspf(model: NetworkModel): ((origin: number) => Row) | null {
  const { switches, views, sessions } = model;
  const ospf = ospf6Of(model);
  const speaks = sessions.some((s) => s.up && s.ipv6 && !isTenants(s));
  if (!ospf || speaks) return null;
  const classes = ospf.alike();
  const first = new Map<string, readonly [number, Row]>();
  return (origin) => {
    const view = views.get(switches[origin]!.host)!;
    const prefixes = told(view);
    const words = prefixes.map((p) => {
      const { area, cost } = view.ospf6?.origins.get(p) ?? {};
      return `${area} ${cost}`;
    });
    const like = `${classes[origin]} ${words.join()}`;
    const known = first.get(like);
    if (known && classes[origin]! >= 0) {
      const row = Uint16Array.from(known[1]);
      [row[known[0]], row[origin]] = [row[origin]!, row[known[0]]!];
      return row;
    }
    const routes = prefixes.map((p) => ospf.routesTo(p, switches[origin]!.host));
    const row = Uint16Array.from(switches, (_, r) => Math.min(...routes.map((of) => of[r]?.over.length ?? 0)));
    first.set(like, [origin, row]);
    return row;
  };
}

/** Whatever leads, by the tables of every switch; the others give the same where they can. */
export function byTables(model: NetworkModel): (origin: number) => Row {
  const { switches, views } = model;
  const group = (host: string) => tenantsOf(model, 6).groupOf(host, undefined);
  return (origin) => {
    const prefixes = told(views.get(switches[origin]!.host)!).map((p) => parseAnyPrefix(p)!);
    return switches.map(({ host }) =>
      Math.min(
        ...prefixes.map((prefix) => {
          const route = group(host)?.routeAt({ host, vrf: undefined }, prefix);
          if (!route || route.kind === 'connected') return 0;
          if ('ways' in route) return route.ways.filter((w) => w.to !== null).length;
          return 'ospf' in route ? route.ospf.over.length : route.written.length;
        }),
      ),
    );
  };
}

/** Equal paths of IPv6 between switches outside of VRFs; null = a switch tells nobody of an IPv6 loopback. */
export const underlay6Of = onceFor((model: NetworkModel): ((origin: number) => Row | null) => {
  const { switches, views } = model;
  const tells = switches.map(({ host }) => told(views.get(host)!).length > 0);
  if (!tells.includes(true)) return () => null;
  const rowOf = byPaths(model) ?? byRoutes(model) ?? byOspf(model) ?? byTables(model);
  return (origin) => (tells[origin] ? rowOf(origin) : null);
});
