import type { SwitchConfig } from '../config/switchConfig.ts';
import { configDifferences, sayDifference } from '../config/differences.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { ospfIn } from '../network/ospfIn.ts';
import { modelNetwork } from '../network/modelNetwork.ts';
import type { Cable, CableEnd } from '../network/cablePlan.ts';
import { cablesOf } from '../layout/links.ts';
import { serverSeats } from '../layout/serverSeats.ts';
import { routersOutside } from '../compile/routersOutside.ts';
import { callersIn } from '../compile/speaking.ts';
import { seenAdjacent, seenPeer, type PlannedLink, type WatchedSwitch } from '../watch/seen.ts';
import type { ServerLeg } from '../watch/hanging.ts';
import type { WatchInputs } from '../watch/watchFabric.ts';
import { configsOf } from './fabricOf.ts';

/** What is done to a fabric that is as meant. */
export interface Damage {
  /** Cables as they lie; absent = as planned. */
  readonly cables?: readonly Cable[];
  /** What runs where it is not what is meant. */
  readonly runs?: Readonly<Record<string, SwitchConfig>>;
  /** Switches without power. */
  readonly dead?: readonly string[];
  /** Switches whose management does not answer, though they run. */
  readonly mute?: readonly string[];
  /** Routers outside do not answer. */
  readonly nobodyOutside?: boolean;
}

export const endOf = ({ host, port }: CableEnd): string => `${host} ${port}`;

/** The plan of a fabric: cables, configurations, servers. */
export function planOf(intent: FabricIntent) {
  const { layout, configs, drawn } = configsOf(intent);
  const links: readonly PlannedLink[] = cablesOf(layout);
  const servers: ServerLeg[] = intent.ports.flatMap((p) =>
    serverSeats(layout, p).map(({ host }) => ({ server: p.server, host, port: p.port })),
  );
  return {
    links,
    servers,
    meant: new Map(layout.seats.map((s) => [s.host, configs.get(s.id)!])),
    outside: routersOutside(intent, layout, configs, drawn.values),
    callers: callersIn(intent, layout, drawn.values),
  };
}

/** What reading every switch of a fabric would give after some damage: what the stand-in switches say, without them. */
export function readFabric(intent: FabricIntent, damage: Damage = {}): WatchInputs {
  const { links, servers, meant, outside, callers } = planOf(intent);
  const dead = new Set(damage.dead);
  const runs = new Map([...meant].map(([host, config]) => [host, damage.runs?.[host] ?? config]));
  const shut = (e: CableEnd): boolean => runs.get(e.host)!.ports.some((p) => p.name === e.port && p.shut === true);
  const lit = (damage.cables ?? links.map(({ a, b }): Cable => ({ a, b }))).filter(
    ({ a, b }) => !dead.has(a.host) && !dead.has(b.host) && !shut(a) && !shut(b),
  );
  const far = new Map(lit.flatMap(({ a, b }) => [[endOf(a), b] as const, [endOf(b), a] as const]));
  const litOutside = new Set(outside.cables.flatMap(({ a }) => (shut(a) ? [] : endOf(a))));
  const live = [...runs].filter(([host]) => !dead.has(host));
  const network = modelNetwork(
    [
      ...live.map(([host, config]) => ({ host, config, unread: [] })),
      ...(damage.nobodyOutside ? [] : outside.switches),
    ],
    [...lit, ...outside.cables],
  );
  const { sessions } = network;
  const adjacencies = ospfIn(network).flatMap(({ by, ospf }) => ospf.adjacencies.map((a) => ({ by, ...a })));
  const switches = [...meant].map(([host, config]): WatchedSwitch => {
    const now = runs.get(host)!;
    const gone = dead.has(host) || (damage.mute ?? []).includes(host);
    const state = (up: boolean): string => (up ? 'Established' : 'Active');
    return {
      host,
      out: false,
      placed: true,
      meant: config,
      runs: now,
      why: gone ? 'no answer' : null,
      byHand: configDifferences(config, now).map(sayDifference),
      seen: gone
        ? null
        : {
            signal: new Map(
              now.ports.map((p) => [p.name, far.has(`${host} ${p.name}`) || litOutside.has(`${host} ${p.name}`)]),
            ),
            neighbours: new Map(
              now.ports.flatMap((p) => {
                const end = far.get(`${host} ${p.name}`);
                return end ? [[p.name, end] as const] : [];
              }),
            ),
            adjacent: new Map(
              adjacencies.filter((a) => a.host === host && a.up).map((a) => [seenAdjacent(a.by, a.port), 'Full']),
            ),
            peers: new Map(
              sessions
                .filter((s) => s.host === host)
                .map((s) => [
                  seenPeer(s.vrf, s.peer),
                  { ipv4: state(s.up && s.ipv4), ipv6: state(s.up && s.ipv6), evpn: state(s.up && s.evpn) },
                ]),
            ),
          },
    };
  });
  return { switches, links, servers, callers };
}
