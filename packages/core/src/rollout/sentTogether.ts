import type { SwitchConfig } from '../config/switchConfig.ts';
import { modelNetwork } from '../network/modelNetwork.ts';
import { cablePlan, endKey, type Cable } from '../network/cablePlan.ts';
import { CERTAIN, pathsIn, unsureIn } from '../network/families.ts';
import { pathsTo, type NetworkModel } from '../network/networkModel.ts';
import type { ReadSwitch } from '../network/readSwitch.ts';
import { viewOf } from '../network/switchView.ts';
import { isTenants, type Session } from '../network/sessions.ts';
import { onceFor } from '../onceFor.ts';
import { segmentsAnew } from './sharedSegments.ts';

/** A state of a fabric: what its switches say, how they are cabled, and what network they make. */
export interface FabricStanding {
  readonly switches: readonly ReadSwitch[];
  readonly cables: readonly Cable[];
  /** Asked for only where switches that are next to one another change what they say to one another. */
  readonly network: () => NetworkModel;
}

/** Switches whose sessions, or shared servers, do not outlive that one of them has its new text and the other still the one before. */
export interface Together {
  /** Each to be sent and confirmed together; switches of one group hang together by such sessions or LAGs. In the order of the switches. */
  readonly groups: readonly (readonly string[])[];
  /** Session ends between them that are up before and after, and down in between. */
  readonly ends: number;
  /** Session ends that are up before the change, in all. */
  readonly of: number;
  /** One of those that are down in between, and why. */
  readonly example: { readonly host: string; readonly peer: string; readonly reason: string } | null;
  /**
   * Is it certain that the links of all other sessions carry the fabric meanwhile: that every EVPN route and every tunnel
   * end that a switch has is there without those that are down?
   */
  readonly carried: boolean;
  /** LAGs of servers that are two in between, and so are not carried by anything else. */
  readonly lags: number;
}
const NONE: Together = { groups: [], ends: 0, of: 0, example: null, carried: true, lags: 0 };

type Families = readonly [ipv4: number, ipv6: number, evpn: number];

/**
 * Finds by the network model which switches must have their new texts at the same time. Where two that speak to one
 * another both change, networks are worked out in which the one has its new text and the other the one before, and the
 * other way round; all neighbours at once, by colours no two of them share.
 * @param movable may a switch be sent to at all; of those in no seat nothing is asked
 */
export function sentTogether(
  before: FabricStanding,
  after: FabricStanding,
  movable: (host: string) => boolean = () => true,
): Together {
  const old = new Map(before.switches.map((s) => [s.host, s]));
  const cabled = onceFor((s: FabricStanding) => cabledPorts(s.cables));
  const changed = new Set(
    after.switches.flatMap((now) => {
      const was = old.get(now.host);
      if (!was || was.config === now.config || !movable(now.host)) return [];
      return saidToNeighbours(was.config, cabled(before)) === saidToNeighbours(now.config, cabled(after))
        ? []
        : [now.host];
    }),
  );
  const shared = segmentsAnew(before.switches, after.switches).filter(({ a, b }) => movable(a) && movable(b));
  const hosts = after.switches.map((s) => s.host);
  if (changed.size < 2)
    return shared.length === 0
      ? NONE
      : { ...NONE, groups: groupsOf(shared, hosts), carried: false, lags: shared.length };
  const [was, will] = [upBetween(before.network().sessions), upBetween(after.network().sessions)];
  const cablesOf = [before, after].map((s) => cablesBetween(s.cables)) as [Cables, Cables];
  const near = new Map([...changed].map((h) => [h, new Set<string>()]));
  for (const [pair, { a, b }] of was)
    if (changed.has(a) && changed.has(b) && will.has(pair) && sameCables(cablesOf, a, b)) {
      near.get(a)!.add(b);
      near.get(b)!.add(a);
    }
  const colours = coloursOf(near);
  const bits = Math.ceil(Math.log2(Math.max(1, ...[...colours.values()].map((c) => c + 1))));
  const apart = new Map<string, { readonly a: string; readonly b: string }>();
  let example: Together['example'] = null;
  /** Session ends that are down in one of the networks between. */
  const lost: Session[] = [];
  for (let bit = 0; bit < bits; bit++)
    for (const first of [0, 1]) {
      const isNew = (host: string): boolean => ((colours.get(host)! >> bit) & 1) === first;
      const mixed = after.switches.flatMap((now) => {
        const then = old.get(now.host);
        return then === undefined ? [] : near.has(now.host) && isNew(now.host) ? now : then;
      });
      // What is said at one end alone may not do: what the other has by itself nobody knows.
      const dim = dimEnds(mixed, after.cables);
      const { sessions } = modelNetwork(
        mixed,
        after.cables.filter(({ a, b }) => !dim.has(endKey(a.host, a.port)) && !dim.has(endKey(b.host, b.port))),
      );
      const up = upBetween(sessions);
      for (const [pair, { a, b, families }] of was) {
        if (!near.get(a)?.has(b) || isNew(a) === isNew(b)) continue;
        const half = up.get(pair)?.families ?? [0, 0, 0];
        const meant = will.get(pair)!.families;
        if (families.every((n, f) => half[f]! >= Math.min(n, meant[f]!))) continue;
        apart.set(pair, { a, b });
        lost.push(...lostBetween(before.network().sessions, sessions, a, b));
        const down = sessions.find((s) => s.host === a && s.farHost === b && !s.up) ?? sessions.find((s) => !s.up);
        const why = down?.port == null ? undefined : dim.get(endKey(down.host, down.port));
        if (down) example ??= { host: down.host, peer: down.peer, reason: why ?? down.reason ?? '' };
      }
    }
  const ends = [...apart.keys()].reduce((n, pair) => n + was.get(pair)!.ends, 0);
  const of = [...was.values()].reduce((n, { ends: all }) => n + all, 0);
  const pairs = [...apart.values(), ...shared];
  const groups = groupsOf(pairs, hosts);
  const carried = shared.length === 0 && (groups.length === 0 || isCarried(before, after, lost));
  return { groups, ends, of, example, carried, lags: shared.length };
}

/** Ends of cables that may give no light, and why. */
const dimEnds = (switches: readonly ReadSwitch[], cables: readonly Cable[]): ReadonlyMap<string, string> =>
  cablePlan(new Map(switches.map((s) => [s.host, viewOf(s.config)])), cables).dim;

/** The ends between two switches that are up in the first and not in the second. */
function lostBetween(was: readonly Session[], now: readonly Session[], a: string, b: string): Session[] {
  const isBetween = (s: Session): boolean => (s.host === a && s.farHost === b) || (s.host === b && s.farHost === a);
  const there = (s: Session): string => `${s.host} ${s.port}`;
  const still = new Set(now.filter((s) => s.up && isBetween(s)).map(there));
  return was.filter((s) => s.up && isBetween(s) && !isTenants(s) && !still.has(there(s)));
}

/**
 * Worked out with the cables pulled that those sessions go over, and for sessions over routes with those of whose ports
 * something else is said: then every tunnel end has a way to each that it had one to, and the EVPN routes of it. A session
 * over routes that is lost for another reason, and a fabric without tunnels: not certain.
 */
function isCarried(before: FabricStanding, after: FabricStanding, lost: readonly Session[]): boolean {
  const overRoutes = lost.filter((s) => s.port === null);
  const pulled = new Set([
    ...lost.flatMap((s) => (s.port === null ? [] : endKey(s.host, s.port))),
    ...(overRoutes.length === 0 ? [] : portsChanged(before, after)),
  ]);
  const goes = ({ a, b }: Cable): boolean => !pulled.has(endKey(a.host, a.port)) && !pulled.has(endKey(b.host, b.port));
  const [was, left] = [before.network(), modelNetwork(before.switches, before.cables.filter(goes))];
  const ends = before.switches.flatMap(({ host, config }) => {
    const vtep = config.vxlans.find((x) => x.localAddress !== undefined)?.localAddress;
    return vtep === undefined ? [] : [{ host, vtep, at: was.index.get(host)! }];
  });
  const hasFar = new Set(left.sessions.flatMap((s) => (s.up && s.port === null ? `${s.host} ${s.farHost}` : [])));
  if (ends.length < 2 || overRoutes.some((s) => hasFar.has(`${s.host} ${s.farHost}`))) return false;
  const reached = (model: NetworkModel, from: (typeof ends)[number], to: (typeof ends)[number]): boolean =>
    pathsTo(model, from.host, to.host, to.vtep) > 0 && pathsIn(model.evpn, to.at, from.at) > 0;
  const isSure = (from: (typeof ends)[number], to: (typeof ends)[number]): boolean =>
    unsureIn(left.underlay, to.at, from.at, to.vtep) === CERTAIN && unsureIn(left.evpn, to.at, from.at) === CERTAIN;
  return ends.every((from) =>
    ends.every((to) => from === to || !reached(was, from, to) || (reached(left, from, to) && isSure(from, to))),
  );
}

/** Ports of which something else is said than before. */
function portsChanged(before: FabricStanding, after: FabricStanding): string[] {
  const said = ({ switches }: FabricStanding): Map<string, string> =>
    new Map(
      switches.flatMap(({ host, config: { ports, ospfPorts, ospf6Ports } }) =>
        ports.map((port) => {
          const led = [ospfPorts, ospf6Ports].map((of) => of?.find((p) => p.name === port.name));
          return [endKey(host, port.name), JSON.stringify([port, led])] as const;
        }),
      ),
    );
  const now = said(after);
  return [...said(before)].flatMap(([end, words]) => (now.get(end) === words ? [] : end));
}

const cabledPorts = (cables: readonly Cable[]): ReadonlySet<string> =>
  new Set(cables.flatMap(({ a, b }) => [endKey(a.host, a.port), endKey(b.host, b.port)]));

/** All that a switch says which a session of the fabric may hang on, as one string. */
function saidToNeighbours(config: SwitchConfig, cabled: ReadonlySet<string>): string {
  const { hostname, bgp, ports, loopbacks, ipv6Loopbacks, ospf, ospfPorts, ospf6, ospf6Ports, filters } = config;
  const { vrfs: _vrfs, evpn, ...outside } = bgp ?? { vrfs: [], evpn: undefined };
  const { vnis: _vnis, ...spoken } = evpn ?? { vnis: [] };
  return JSON.stringify([
    { outside, spoken, loopbacks, ipv6Loopbacks, ospf, ospfPorts, ospf6, ospf6Ports, filters },
    config.staticRoutes,
    config.prefixLists,
    config.ipv6PrefixLists,
    config.accessLists,
    config.ipv6AccessLists,
    config.routeMaps,
    ports.flatMap(({ name, mtu, addresses, ipv6Addresses, vrf, shut, bridging, speed, fec }) =>
      cabled.has(endKey(hostname, name))
        ? { name, mtu, addresses, ipv6Addresses, vrf, shut, bridging, speed, fec }
        : [],
    ),
  ]);
}

interface UpBetween {
  readonly a: string;
  readonly b: string;
  /** Ends that are up, of both. */
  readonly ends: number;
  readonly families: Families;
}
/** Sessions outside of tenants that are up, by the two switches they are between. */
function upBetween(sessions: readonly Session[]): Map<string, UpBetween> {
  const out = new Map<string, UpBetween>();
  for (const s of sessions) {
    if (!s.up || s.farHost === null || isTenants(s)) continue;
    const [a, b] = s.host < s.farHost ? [s.host, s.farHost] : [s.farHost, s.host];
    const pair = `${a} ${b}`;
    const known = out.get(pair);
    const [v4, v6, evpn] = known?.families ?? [0, 0, 0];
    out.set(pair, {
      a,
      b,
      ends: (known?.ends ?? 0) + 1,
      families: [v4 + Number(s.ipv4), v6 + Number(s.ipv6), evpn + Number(s.evpn)],
    });
  }
  return out;
}

type Cables = ReadonlyMap<string, ReadonlySet<string>>;
function cablesBetween(cables: readonly Cable[]): Cables {
  const out = new Map<string, Set<string>>();
  for (const { a, b } of cables)
    for (const [x, y] of [
      [a, b],
      [b, a],
    ] as const) {
      const pair = `${x.host} ${y.host}`;
      let held = out.get(pair);
      if (!held) out.set(pair, (held = new Set()));
      held.add(`${x.port} ${y.port}`);
    }
  return out;
}
/** Who is cabled anew has his session down until that is done by hand, whatever is sent when. */
function sameCables([before, after]: readonly [Cables, Cables], a: string, b: string): boolean {
  const [was, will] = [before.get(`${a} ${b}`), after.get(`${a} ${b}`)];
  return (was?.size ?? 0) === (will?.size ?? 0) && [...(was ?? [])].every((cable) => will!.has(cable));
}

/** A colour for each, from 0, that none of those near it has. */
function coloursOf(near: ReadonlyMap<string, ReadonlySet<string>>): Map<string, number> {
  const colours = new Map<string, number>();
  // Neighbour by neighbour, so that floors of a fabric get two colours wherever two are enough.
  for (const start of near.keys()) {
    const waiting = colours.has(start) ? [] : [start];
    for (let host = waiting.pop(); host !== undefined; host = waiting.pop()) {
      if (colours.has(host)) continue;
      const taken = new Set([...near.get(host)!].map((n) => colours.get(n)));
      let colour = 0;
      while (taken.has(colour)) colour++;
      colours.set(host, colour);
      waiting.push(...near.get(host)!);
    }
  }
  return colours;
}

/** Who hangs together by pairs, in the order of `hosts`. */
function groupsOf(pairs: readonly { readonly a: string; readonly b: string }[], hosts: readonly string[]): string[][] {
  const near = new Map<string, string[]>();
  for (const { a, b } of pairs) {
    near.set(a, [...(near.get(a) ?? []), b]);
    near.set(b, [...(near.get(b) ?? []), a]);
  }
  const seen = new Set<string>();
  return hosts.flatMap((start) => {
    if (seen.has(start) || !near.has(start)) return [];
    const group = new Set([start]);
    for (const host of group) for (const n of near.get(host)!) group.add(n);
    for (const host of group) seen.add(host);
    return [hosts.filter((h) => group.has(h))];
  });
}
