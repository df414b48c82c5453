import type { Cidr } from '../numbers/ipv4.ts';
import { parseIpv4 } from '../numbers/ipv4.ts';
import { formatAny, networkOfAny, parseAnyCidr, parseAnyPrefix } from '../numbers/prefix.ts';
import { onceFor } from '../onceFor.ts';
import type { NetworkModel } from './networkModel.ts';
import { ospf6Of } from './ospf6.ts';
import { settlePaths } from './pathVector.ts';
import { asksAround } from '../config/drained.ts';
import { alikeOutside, type AlikeRouters } from './alikeOutside.ts';
import { bySelf, swapped } from './familyRows.ts';
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
  if (!isLedByLinks(model) || switches.some((s) => asksAround(s.config))) return null;
  const routers = switches.map(({ config: { bgp } }) => ({
    asn: bgp?.asn ?? 0,
    routerId: parseIpv4(bgp?.routerId ?? '') ?? 0,
    maximumPaths: bgp?.ipv6?.maximumPaths ?? DEFAULT_MAXIMUM_PATHS,
    multipathRelax: bgp?.multipathRelax ?? false,
  }));
  const { size, counts } = settlePaths(routers, plainEdges(sessions, { switches, views, index, ospf }, 'ipv6'));
  return (origin) => counts.subarray(origin * size, (origin + 1) * size);
}

/**
 * Rows of which those that are alike are had from the first that was asked about.
 * @param wordsOf what of a switch decides beside its place
 */
function firstOfAlike(
  { classes, swaps }: AlikeRouters,
  wordsOf: (origin: number) => string,
  rowOf: (origin: number) => Uint16Array,
): (origin: number) => Row {
  const first = new Map<string, readonly [number, Uint16Array]>();
  return (origin) => {
    if (classes[origin]! < 0) return rowOf(origin);
    const like = `${classes[origin]} ${wordsOf(origin)}`;
    const known = first.get(like);
    if (known) return swapped(known[1], swaps(known[0], origin));
    const row = rowOf(origin);
    first.set(like, [origin, row]);
    return row;
  };
}

/** Where somebody does: of switches that may change places the first is settled. */
function byRoutes(model: NetworkModel): ((origin: number) => Row) | null {
  if (!isLedByLinks(model)) return null;
  const { switches, views } = model;
  const { routers, edges } = routedFamily(model.sessions, model, 'ipv6');
  const ownOf = (origin: number) => {
    const view = views.get(switches[origin]!.host)!;
    return told(view).map((p) => [parseAnyPrefix(p)!, view.ownIpv6Routes.get(p)!.attributes] as const);
  };
  return firstOfAlike(
    alikeOutside(routers, edges),
    (origin) => JSON.stringify(ownOf(origin).map(([, attributes]) => attributes)),
    (origin) => {
      const all = ownOf(origin).map(([prefix, a]) => settleRoutes(routers, edges, prefix, new Map([[origin, a]])).held);
      return Uint16Array.from(switches, (_, r) => Math.min(...all.map((held) => held[r]!.length)));
    },
  );
}

/** Where OSPF alone leads: of switches that may change places in it, the first is looked at. */
function byOspf(model: NetworkModel): ((origin: number) => Row) | null {
  const { switches, views, sessions } = model;
  const ospf = ospf6Of(model);
  const speaks = sessions.some((s) => s.up && s.ipv6 && !isTenants(s));
  if (!ospf || speaks) return null;
  const viewOf = (origin: number): SwitchView => views.get(switches[origin]!.host)!;
  return firstOfAlike(
    { classes: ospf.alike(), swaps: bySelf },
    (origin) =>
      told(viewOf(origin))
        .map((p) => {
          const { area, cost } = viewOf(origin).ospf6?.origins.get(p) ?? {};
          return `${area} ${cost}`;
        })
        .join(),
    (origin) => {
      const routes = told(viewOf(origin)).map((p) => ospf.routesTo(p, switches[origin]!.host));
      return Uint16Array.from(switches, (_, r) => Math.min(...routes.map((of) => of[r]?.over.length ?? 0)));
    },
  );
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
          if ('ways' in route) return route.ways.filter((w) => w.to !== null || w.via !== undefined).length;
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
