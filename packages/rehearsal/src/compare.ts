import {
  missingDoubt,
  announcedPrefixes,
  answersOf,
  mappedIpv4,
  modelNetwork,
  routesOf,
  routeTo,
  tenantsOf,
  type NetworkAnswers,
  type NetworkModel,
  type RouteAnswer,
  type SwitchFolder,
} from '@anthemion/core';
import { evpnSights } from './evpnRoutes.ts';
import { compareTraffic } from './compareTraffic.ts';
import type { Lab } from './lab.ts';
import type { Compared, Difference } from './tally.ts';

/** What a switch says of its neighbours, by interface or address. */
type Neighbours = Readonly<
  Record<
    string,
    {
      readonly bgpState?: string;
      readonly neighborCapabilities?: {
        readonly multiprotocolExtensions?: Readonly<Record<string, { readonly advertisedAndReceived?: boolean }>>;
      };
    }
  >
>;
type Routes = Readonly<
  Record<
    string,
    readonly {
      readonly protocol: string;
      readonly selected?: boolean;
      readonly nexthops?: readonly {
        readonly ip?: string;
        readonly interfaceName?: string;
        readonly fib?: boolean;
        readonly active?: boolean;
        /** It is reached by another route, whose next hops stand beside it. */
        readonly recursive?: boolean;
      }[];
    }[]
  >
>;
const FAMILIES = { ipv4: 'ipv4Unicast', ipv6: 'ipv6Unicast', evpn: 'l2VpnEvpn' } as const;
const FAMILY_NAMES = ['ipv4', 'ipv6', 'evpn'] as const;

/** The end of a session as FRR calls it: its interface, or its address. Over a port there may be one of each. */
const peerNames = ({ peer, port }: NetworkAnswers['sessions'][number]): string[] =>
  peer.includes(':') ? [peer] : [port ?? '', peer];

/** What a switch says of its neighbours, of all VRFs in which it is asked about some. */
async function neighboursOf(lab: Lab, host: string, answers: NetworkAnswers): Promise<ReadonlyMap<string, Neighbours>> {
  const vrfs = new Set(answers.sessions.filter((s) => s.host === host).map((s) => s.vrf ?? ''));
  const said = [...vrfs].map(async (vrf) => {
    const of = vrf === '' ? '' : `vrf ${vrf} `;
    return [vrf, (await lab.askJson<Neighbours>(host, `show bgp ${of}neighbors`)) ?? {}] as const;
  });
  return new Map(await Promise.all(said));
}
/** A family is up where the session is, and both ends have offered it. */
function isUp(neighbours: Neighbours, family: keyof typeof FAMILIES, names: readonly string[]): boolean {
  const peer = names.map((n) => neighbours[n]).find((p) => p !== undefined);
  return (
    peer?.bgpState === 'Established' &&
    peer.neighborCapabilities?.multiprotocolExtensions?.[FAMILIES[family]]?.advertisedAndReceived === true
  );
}

/** Ports over which a switch has a neighbour by OSPF of a family that it has exchanged all with. */
async function adjacenciesOf(lab: Lab, host: string, family: 4 | 6): Promise<ReadonlySet<string>> {
  if (family === 6) {
    type Neighbour6 = { readonly state?: string; readonly interfaceName?: string };
    const of = await lab.askJson<{ readonly neighbors?: readonly Neighbour6[] }>(host, 'show ipv6 ospf6 neighbor');
    return new Set((of?.neighbors ?? []).flatMap((n) => (n.state?.startsWith('Full') ? [n.interfaceName ?? ''] : [])));
  }
  type Neighbour = { readonly nbrState?: string; readonly ifaceName?: string };
  const said = await lab.askJson<{ readonly neighbors?: Record<string, readonly Neighbour[]> }>(
    host,
    'show ip ospf neighbor',
  );
  const all = Object.values(said?.neighbors ?? {}).flat();
  return new Set(all.flatMap((n) => (n.nbrState?.startsWith('Full') ? [(n.ifaceName ?? '').split(':')[0]!] : [])));
}

type Near = NonNullable<NetworkAnswers['adjacencies']>;
/** The same of those families that are asked about. */
async function nearOf(lab: Lab, host: string, asked: Near): Promise<ReadonlyMap<4 | 6, ReadonlySet<string>>> {
  const families = new Set(asked.map((a) => a.family ?? 4));
  return new Map(await Promise.all([...families].map(async (f) => [f, await adjacenciesOf(lab, host, f)] as const)));
}

/** Waits until the sessions that the model says come up are up, or nothing moves any more. */
export async function settle(lab: Lab, answers: NetworkAnswers, mostSeconds: number): Promise<number> {
  const hosts = answers.switches.filter((h) => !lab.isBird(h));
  const ours = answers.sessions.filter((s) => !lab.isBird(s.host));
  const wanted = ours.flatMap((s) =>
    FAMILY_NAMES.filter((f) => s.families[f]?.state === 'up').map((f) => [s, f] as const),
  );
  const began = performance.now();
  const seconds = (): number => (performance.now() - began) / 1000;
  while (seconds() < mostSeconds) {
    const seen = new Map(await Promise.all(hosts.map(async (h) => [h, await neighboursOf(lab, h, answers)] as const)));
    const near = await Promise.all(
      hosts.map(async (h) => {
        const own = (answers.adjacencies ?? []).filter((a) => a.host === h && a.state === 'up');
        const heard = await nearOf(lab, h, own);
        return own.every((a) => heard.get(a.family ?? 4)!.has(a.port));
      }),
    );
    if (near.every(Boolean) && wanted.every(([s, f]) => isUp(seen.get(s.host)!.get(s.vrf ?? '')!, f, peerNames(s))))
      break;
    await new Promise((go) => setTimeout(go, 1000));
  }
  // Routes follow their sessions.
  await new Promise((go) => setTimeout(go, 4000));
  return seconds();
}

/** What the model says of a route: what kind it is, over how many next hops, or through which tunnels. */
function routeWords({ kind, ways }: RouteAnswer): string {
  const hops = new Set(kind === 'evpn' ? ways.map((w) => w.over.split(' ').at(-1)!) : ways.map((w) => w.over));
  const over =
    kind === 'evpn' ? [...hops].sort().join(' ') : String(ways.some((w) => w.over === DROPPED) ? 0 : hops.size);
  return `${kind === 'evpn' ? 'bgp' : kind} over ${kind === 'connected' ? 1 : over}`;
}
/** What is said of a way that leads nowhere. */
const DROPPED = 'nowhere: it is dropped';
/** What a table has of a prefix, in the same words. */
function seenWords(entries: Routes[string], vteps: ReadonlyMap<string, string>): string | null {
  const route = entries.find((r) => r.selected === true && r.protocol !== 'local' && r.protocol !== 'kernel');
  if (!route) return null;
  const used = (route.nexthops ?? []).filter((n) => n.fib === true || n.active === true);
  // An end of a tunnel of IPv4 stands in a route of IPv6 as one that is mapped (RFC 4291 §2.5.5.2).
  const tunnels = used.flatMap((n) => {
    const end = n.ip === undefined ? undefined : (mappedIpv4(n.ip) ?? n.ip);
    return end !== undefined && vteps.has(end) ? [end] : [];
  });
  const kind = route.protocol === 'ospf6' ? 'ospf' : route.protocol;
  if (kind === 'bgp' && tunnels.length > 0) return `bgp over ${[...new Set(tunnels)].sort().join(' ')}`;
  const hops = used.filter((n) => n.recursive !== true && (n.ip !== undefined || n.interfaceName !== undefined));
  return `${kind} over ${kind === 'connected' ? 1 : hops.length}`;
}

/** A difference counts where it lasts: a session that has just flapped is not what is asked about. */
const LOOKS = 3;
const BETWEEN_LOOKS_MS = 5_000;

/**
 * Compares every answer of the model that this kernel can show with what the daemons say, once they have settled.
 * @param sizes do servers send large packets too?
 */
export async function compare(
  folder: SwitchFolder,
  lab: Lab,
  mostSeconds: number,
  sizes = true,
): Promise<{
  readonly compared: Compared;
  readonly differences: readonly Difference[];
  readonly settledAfter: number;
  /** Why answers are unsure, each reason once. */
  readonly unsureBecause: readonly string[];
}> {
  const plugged = lab.plugged.map((p) => p.of);
  const network = modelNetwork(folder.switches, folder.cables, plugged);
  const answers = answersOf(network, []);
  const settledAfter = await settle(lab, answers, mostSeconds);
  // A server that has not said anything yet is known to nobody but its own switch.
  await lab.servers.wake();
  for (let looks = 1; ; looks++) {
    const seen = await look(folder, lab, network, answers, sizes);
    if (seen.differences.length === 0 || looks === LOOKS) return { ...seen, settledAfter };
    await new Promise((go) => setTimeout(go, BETWEEN_LOOKS_MS));
  }
}

async function look(
  folder: SwitchFolder,
  lab: Lab,
  network: NetworkModel,
  answers: NetworkAnswers,
  sizes: boolean,
): Promise<{
  readonly compared: Compared;
  readonly differences: readonly Difference[];
  readonly unsureBecause: readonly string[];
}> {
  const because = new Set<string>();
  const differences: Difference[] = [];
  const count = {
    sessions: 0,
    adjacencies: 0,
    routes: 0,
    vteps: 0,
    evpnRoutes: 0,
    vrfRoutes: 0,
    ipv6Routes: 0,
    pings: 0,
    ipv6Pings: 0,
    calls: 0,
    largePings: 0,
    counters: 0,
    unsure: 0,
  };
  const differ = (host: string, about: string, model: string, daemon: string): void => {
    if (model !== daemon) differences.push({ host, about, model, daemon });
  };
  const isUnsure = ({ unsure }: { readonly unsure: string | null }): boolean => {
    if (unsure !== null) count.unsure++;
    if (unsure !== null) because.add(unsure);
    return unsure !== null;
  };
  const vtepOwner = new Map(
    folder.switches.flatMap((s) =>
      s.config.vxlans.flatMap((x) => (x.localAddress ? [[x.localAddress, s.host] as const] : [])),
    ),
  );
  /** Does anybody say anything of IPv6? */
  const speaksIpv6 = folder.switches.some((s) => s.config.bgp?.ipv6 ?? s.config.ipv6Loopbacks ?? s.config.ospf6);
  const loopbacks = new Set(answers.routes.map((r) => r.loopback));
  const others = [...announcedPrefixes(network.views)].filter(([prefix]) => !loopbacks.has(prefix));
  await Promise.all(
    answers.switches.map(async (host) => {
      if (lab.isBird(host)) return lookAtBird(host);
      const neighbours = await neighboursOf(lab, host, answers);
      for (const s of answers.sessions.filter((x) => x.host === host))
        for (const family of FAMILY_NAMES) {
          const said = s.families[family];
          if (!said) continue;
          if (said.state === 'uncertain') {
            count.unsure++;
            because.add(said.reason ?? '');
            continue;
          }
          count.sessions++;
          const seen = isUp(neighbours.get(s.vrf ?? '')!, family, peerNames(s)) ? 'up' : 'down';
          const where = s.vrf === undefined ? '' : ` in ${s.vrf}`;
          differ(host, `${family} session over ${s.port ?? s.peer}${where}`, said.state, seen);
        }
      const own = (answers.adjacencies ?? []).filter((x) => x.host === host);
      const heard = await nearOf(lab, host, own);
      for (const a of own) {
        if (isUnsure({ unsure: a.state === 'uncertain' ? a.reason : null })) continue;
        count.adjacencies++;
        const family = a.family ?? 4;
        const name = family === 4 ? 'OSPF' : 'OSPFv3';
        differ(host, `${name} over ${a.port}`, a.state, heard.get(family)!.has(a.port) ? 'up' : 'down');
      }
      const routes = (await lab.askJson<Routes>(host, 'show ip route')) ?? {};
      for (const r of answers.routes.filter((x) => x.host === host)) {
        if (isUnsure(r)) continue;
        count.routes++;
        const route = routes[r.loopback]?.find((x) => x.selected === true && /^(bgp|ospf)$/.test(x.protocol));
        const paths = (route?.nexthops ?? []).filter((n) => n.fib === true || n.active === true).length;
        differ(host, `paths to ${r.loopback} of ${r.owner}`, String(r.paths), String(paths));
      }
      // What is no loopback of a switch: aggregates, default routes, static ones that are told on.
      for (const [prefix, numbers] of others) {
        const asked = routeTo(network, host, numbers);
        if (asked && asked.kind !== 'bgp') continue;
        if (isUnsure(asked ?? { unsure: missingDoubt(network, { host, vrf: undefined }, 4, numbers) })) continue;
        count.routes++;
        const route = routes[prefix]?.find((x) => x.selected === true && x.protocol === 'bgp');
        const paths = (route?.nexthops ?? []).filter(
          (n) => n.ip !== undefined && (n.fib === true || n.active === true),
        );
        const ways = (asked?.ways ?? []).filter((w) => w.to !== null);
        differ(host, `paths to ${prefix}`, String(ways.length), String(paths.length));
      }
      for (const v of answers.l2Vnis.filter((x) => x.host === host)) {
        if (isUnsure(v)) continue;
        count.vteps++;
        const seen = await lab.askJson<{ numRemoteVteps?: readonly (string | { ip?: string })[] | number }>(
          host,
          `show evpn vni ${v.vni}`,
        );
        const list = Array.isArray(seen?.numRemoteVteps) ? (seen.numRemoteVteps as (string | { ip?: string })[]) : [];
        const heard = list.map((x) => (typeof x === 'string' ? x : (x.ip ?? ''))).sort();
        differ(host, `VTEPs heard in VNI ${v.vni}`, [...v.hears].sort().join(' '), heard.join(' '));
      }
      for (const { about, model, seen } of await evpnSights(lab, network, host)) {
        if (model && isUnsure(model)) continue;
        // A server that has said nothing is known to nobody, and told by no other table.
        if ((model?.type === 2 || (model?.type === 5 && /\/(32|128)$/.test(about))) && !seen) continue;
        count.evpnRoutes++;
        differ(host, `EVPN ${about}`, model ? 'held' : 'none', seen ? 'held' : 'none');
      }
      const { vrfs } = network.views.get(host)!;
      const outside = tenantsOf(network).groupOf(host, undefined) ? [undefined] : [];
      const tables = [
        ...[...outside, ...vrfs.keys()].map((vrf) => ({ vrf, family: 4 as const })),
        ...(speaksIpv6 ? [undefined, ...vrfs.keys()].map((vrf) => ({ vrf, family: 6 as const })) : []),
      ];
      for (const { vrf, family } of tables) {
        const of = `show ${family === 4 ? 'ip' : 'ipv6'} route${vrf === undefined ? '' : ` vrf ${vrf}`}`;
        const table = (await lab.askJson<Routes>(host, of)) ?? {};
        const asked = routesOf(network, host, vrf);
        if (typeof asked === 'string') continue;
        const known = new Map(asked.filter((r) => r.prefix.includes(':') === (family === 6)).map((r) => [r.prefix, r]));
        for (const prefix of new Set([...known.keys(), ...Object.keys(table)])) {
          // Every link has one of its own.
          if (prefix.startsWith('fe80:')) continue;
          const route = known.get(prefix);
          if (route && isUnsure(route)) continue;
          const seen = table[prefix] ? seenWords(table[prefix], vtepOwner) : null;
          // A server that has said nothing is known to nobody.
          if (route?.ways.some((w) => w.said.some((x) => x.startsWith('once '))) && seen === null) continue;
          if (!route && seen === null) continue;
          if (!route && isUnsure({ unsure: missingDoubt(network, { host, vrf }, family) })) continue;
          if (family === 6) count.ipv6Routes++;
          else count.vrfRoutes++;
          differ(host, `${prefix} in ${vrf ?? 'no VRF'}`, route ? routeWords(route) : 'none', seen ?? 'none');
        }
      }
    }),
  );
  /** What another hand’s router took from its neighbours, or did not. */
  async function lookAtBird(host: string): Promise<void> {
    const asked = routesOf(network, host, undefined);
    if (typeof asked === 'string') return;
    const { staticRoutes = [], bgp } = folder.switches.find((s) => s.host === host)!.config;
    // What is written down comes before what is heard; an aggregate is one of these there.
    const own = new Set([...staticRoutes, ...(bgp?.ipv4.aggregates ?? [])].map((r) => r.prefix));
    const held = await lab.birdRoutes(host);
    const known = new Map(asked.filter((r) => r.kind === 'bgp').map((r) => [r.prefix, r]));
    for (const prefix of new Set([...known.keys(), ...held])) {
      const route = known.get(prefix);
      if (own.has(prefix) || (route && isUnsure(route))) continue;
      // A server that has said nothing is known to nobody.
      if (route?.ways.some((w) => w.said.some((x) => x.startsWith('once '))) && !held.has(prefix)) continue;
      count.vrfRoutes++;
      differ(host, `${prefix} in BIRD’s table`, route ? 'held' : 'none', held.has(prefix) ? 'held' : 'none');
    }
  }
  await compareTraffic(folder, lab, network, sizes, { count, differ, isUnsure });
  return { compared: count, differences, unsureBecause: [...because] };
}
