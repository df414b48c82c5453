import type { Cidr } from '../numbers/ipv4.ts';
import { parseIpv4 } from '../numbers/ipv4.ts';
import { formatAny, networkOfAny, parseAnyCidr, parseAnyPrefix } from '../numbers/prefix.ts';
import { onceFor } from '../onceFor.ts';
import type { NetworkModel } from './networkModel.ts';
import { ospf6Of } from './ospf6.ts';
import { settlePaths } from './pathVector.ts';
import { DEFAULT_MAXIMUM_PATHS, plainEdges } from './routedFamily.ts';
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

/** Where BGP alone leads, with nothing said of routes: shortest paths say all there is to say. */
function byPaths({ switches, views, index, ospf, sessions }: NetworkModel): ((origin: number) => Row) | null {
  const plain =
    [...views.values()].every((v) => v.plain.ipv6 && v.ospf6 === null) &&
    !sessions.some((s) => s.up && s.ipv6 && !isTenants(s) && (s.port === null || s.localAs === s.remoteAsHad));
  if (!plain) return null;
  const routers = switches.map(({ config: { bgp } }) => ({
    asn: bgp?.asn ?? 0,
    routerId: parseIpv4(bgp?.routerId ?? '') ?? 0,
    maximumPaths: bgp?.ipv6?.maximumPaths ?? DEFAULT_MAXIMUM_PATHS,
    multipathRelax: bgp?.multipathRelax ?? false,
  }));
  const { size, counts } = settlePaths(routers, plainEdges(sessions, { switches, views, index, ospf }, 'ipv6'));
  return (origin) => counts.subarray(origin * size, (origin + 1) * size);
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

/** Whatever leads, by the tables of every switch. */
function byTables(model: NetworkModel): (origin: number) => Row {
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
  const rowOf = byPaths(model) ?? byOspf(model) ?? byTables(model);
  return (origin) => (tells[origin] ? rowOf(origin) : null);
});
