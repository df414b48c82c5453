import { sviKey } from '../config/interfaces.ts';
import type { Place } from '../config/switchConfig.ts';
import { staticKey } from '../config/static.ts';
import { routedFamily, settlePrefix, type RoutedFamily } from '../network/families.ts';
import type { HeldRoute, Settled } from '../network/bgpRoutes.ts';
import { gatewayOfSvi } from '../network/interfaces.ts';
import { l3ImportsOf, type NetworkModel } from '../network/networkModel.ts';
import { numbersOf } from '../network/routes.ts';
import { importsDoubt, pathsDoubt } from '../network/uncertain.ts';
import { contains, formatPrefix, hostPart, parseCidr, parseIpv4, prefixOf, type Prefix } from '../numbers/ipv4.ts';
import { naturally } from '../numbers/order.ts';
import { onceFor } from '../onceFor.ts';
import type { Because, RouteAnswer, RouteWay } from './answer.ts';

/** The underlay as route selection sees it, once for a model. */
export const underlayOf = onceFor((model: NetworkModel): RoutedFamily => routedFamily(model.sessions, model, 'ipv4'));
const settledBy = onceFor((_: NetworkModel) => new Map<string, Settled>());

/** What all routers settle to for a prefix of the underlay, whoever announces it. */
export function settledFor(model: NetworkModel, prefix: Prefix): Settled {
  const known = settledBy(model);
  const key = formatPrefix(prefix);
  let settled = known.get(key);
  if (!settled) known.set(key, (settled = settlePrefix(model, underlayOf(model), prefix)));
  return settled;
}

const USUAL = { weight: [0, 32768], localPreference: [100], med: [0] } as const;
/** What of a route is not as usual, in words. */
function saidOf({ attributes: a, internal }: HeldRoute): string[] {
  const out: string[] = [];
  if (!(USUAL.weight as readonly number[]).includes(a.weight)) out.push(`weight ${a.weight}`);
  if (a.localPreference !== USUAL.localPreference[0]) out.push(`local preference ${a.localPreference}`);
  if (a.med !== USUAL.med[0]) out.push(`MED ${a.med}`);
  if (a.communities !== '') out.push(`communities ${a.communities}`);
  if (internal) out.push('by iBGP');
  return out;
}

/** The line that makes a neighbour. */
export const statementOf = (peer: string): Place => ['bgp', 'peers', peer, 'remoteAs'];

/** A route that BGP brings, with the statements it came over. */
function bgpRoute(model: NetworkModel, host: string, prefix: Prefix): RouteAnswer | null {
  const { edges, sessions } = underlayOf(model);
  const settled = settledFor(model, prefix);
  const held = settled.held[model.index.get(host)!]!.filter((h) => h.over >= 0);
  if (held.length === 0) return null;
  const ways: RouteWay[] = [];
  const because: Because[] = [];
  for (const h of held) {
    const told = sessions[h.over]!;
    const peer = told.farPeer!;
    ways.push({
      over: peer,
      to: model.switches[edges[h.over]!.from]!.host,
      path: numbersOf(h.attributes.path),
      said: saidOf(h),
    });
    because.push({ host, words: `${told.host} tells it over ${peer}`, configPlace: statementOf(peer) });
  }
  const text = formatPrefix(prefix);
  const owners = model.switches.filter((s) => model.views.get(s.host)!.ownRoutes.has(text)).map((s) => s.host);
  for (const owner of owners)
    because.push({ host: owner, words: `${owner} announces it`, configPlace: ['bgp', 'ipv4', 'connected'] });
  const unsure = settled.rests
    ? owners.map((o) => pathsDoubt(model, host, o, hostPart(text))).find((d) => d !== null)
    : 'its routes do not come to rest, or in more than one way';
  return {
    host,
    prefix: text,
    kind: 'bgp',
    ways: ways.sort((a, b) => naturally(a.over, b.over)),
    unsure: unsure ?? null,
    because,
  };
}

/** Every prefix that somebody announces in the underlay. */
const announcedIn = onceFor((model: NetworkModel): ReadonlyMap<string, Prefix> => {
  const out = new Map<string, Prefix>();
  for (const { host } of model.switches)
    for (const [text, { prefix }] of model.views.get(host)!.ownRoutes) out.set(text, prefix);
  return out;
});

const connectedRoute = (host: string, prefix: string, over: string, because: Because): RouteAnswer => ({
  host,
  prefix,
  kind: 'connected',
  ways: [{ over, to: null, path: [], said: [] }],
  unsure: null,
  because: [because],
});

function outsideVrfs(model: NetworkModel, host: string): RouteAnswer[] {
  const { config } = model.views.get(host)!;
  const out = new Map<string, RouteAnswer>();
  const connected = (address: string, over: string, configPlace: Because['configPlace']): void => {
    const cidr = parseCidr(address);
    if (!cidr) return;
    const prefix = formatPrefix(prefixOf(cidr));
    const because: Because = { host, words: `${over} has ${address}`, ...(configPlace ? { configPlace } : {}) };
    out.set(prefix, connectedRoute(host, prefix, over, because));
  };
  for (const l of config.loopbacks) connected(l, 'lo', ['loopbacks']);
  for (const p of config.ports)
    if (!p.shut) for (const a of p.addresses) connected(a, p.name, ['ports', p.name, 'addresses']);
  for (const r of config.staticRoutes ?? []) {
    if (out.has(r.prefix)) continue;
    const because: Because[] = [{ host, words: 'it is written down', configPlace: ['staticRoutes', staticKey(r)] }];
    const ways: RouteWay[] = [{ over: r.via ?? 'nowhere: it is dropped', to: null, path: [], said: [] }];
    out.set(r.prefix, { host, prefix: r.prefix, kind: 'static', ways, unsure: null, because });
  }
  for (const [text, prefix] of announcedIn(model)) {
    const route = out.has(text) ? null : bgpRoute(model, host, prefix);
    if (route) out.set(text, route);
  }
  return [...out.values()];
}

function inVrf(model: NetworkModel, host: string, vrf: string): RouteAnswer[] {
  const view = model.views.get(host)!;
  const out = new Map<string, RouteAnswer>();
  for (const svi of view.config.svis.filter((s) => s.vrf === vrf)) {
    const gateway = gatewayOfSvi(svi);
    const cidr = gateway === undefined ? null : parseCidr(gateway);
    if (!cidr) continue;
    const prefix = formatPrefix(prefixOf(cidr));
    const over = `VLAN ${svi.vlan}`;
    const because: Because = { host, words: `${over} has gateway ${gateway}`, configPlace: ['svis', sviKey(svi)] };
    out.set(prefix, connectedRoute(host, prefix, over, because));
  }
  for (const speaker of l3ImportsOf(model, host, vrf)) {
    const there = model.views.get(speaker)!;
    const theirs = [...there.vrfs.values()].find((v) => v.l3Vni === view.vrfs.get(vrf)!.l3Vni)!;
    const talk = there.config.bgp?.vrfs.find((v) => v.vrf === theirs.name);
    if (!talk?.advertiseIpv4 || !talk.connected) continue;
    for (const svi of there.config.svis.filter((s) => s.vrf === theirs.name)) {
      const gateway = gatewayOfSvi(svi);
      const cidr = gateway === undefined ? null : parseCidr(gateway);
      if (!cidr) continue;
      const prefix = formatPrefix(prefixOf(cidr));
      if (out.get(prefix)?.kind === 'connected') continue;
      const known = out.get(prefix);
      const way: RouteWay = { over: `VNI ${theirs.l3Vni} to ${theirs.vtep}`, to: speaker, path: [], said: [] };
      const because: Because[] = [
        ...(known?.because ?? [
          {
            host,
            words: `${vrf} imports ${view.vrfs.get(vrf)!.imports.join(' ')}`,
            configPlace: ['bgp', 'vrfs', vrf, 'imports'],
          },
        ]),
        { host: speaker, words: `${speaker} announces it`, configPlace: ['bgp', 'vrfs', theirs.name, 'connected'] },
      ];
      out.set(prefix, {
        host,
        prefix,
        kind: 'evpn',
        ways: [...(known?.ways ?? []), way],
        unsure: importsDoubt(model, host, vrf),
        because,
      });
    }
  }
  return [...out.values()];
}

/** Routes of a switch; a string says why there is no answer. */
export function routesOf(
  model: NetworkModel,
  host: string,
  vrf?: string,
  to?: string,
): readonly RouteAnswer[] | string {
  const view = model.views.get(host);
  if (!view) return `there is no switch ${host}`;
  if (vrf !== undefined && !view.vrfs.has(vrf)) return `${host} has no VRF ${vrf}`;
  const all = (vrf === undefined ? outsideVrfs(model, host) : inVrf(model, host, vrf)).sort((a, b) =>
    naturally(a.prefix, b.prefix),
  );
  if (to === undefined) return all;
  const address = parseIpv4(to);
  if (address === null) return `${to} is no IPv4 address`;
  // Longest first: the first is the one that counts.
  return all
    .filter((r) => contains(parseCidr(r.prefix)!, { address, length: 32 }))
    .sort((a, b) => parseCidr(b.prefix)!.length - parseCidr(a.prefix)!.length);
}
