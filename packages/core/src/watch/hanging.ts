import { modelNetwork } from '../network/modelNetwork.ts';
import type { NetworkModel } from '../network/networkModel.ts';
import type { Cable } from '../network/cablePlan.ts';
import type { Cause, Draft } from './cause.ts';
import type { LinkState } from './links.ts';
import type { PlannedLink, WatchedSwitch } from './seen.ts';

export interface ServerLeg {
  readonly server: string;
  readonly host: string;
  readonly port: string;
}

/**
 * Servers that lose legs. A switch is stranded when all that is wrong together leaves it no link: it then serves nobody beyond
 * itself, and uplink tracking closes its multihomed ports. A server is named at every cause that takes one of its legs.
 */
export function legsLost(
  causes: readonly Draft[],
  servers: readonly ServerLeg[],
  byHost: ReadonlyMap<string, WatchedSwitch>,
  states: readonly LinkState[],
): (c: Draft) => Pick<Cause, 'serversCut' | 'serversHalf'> {
  const down = new Set(causes.flatMap((c) => c.links.map((l) => l.id)));
  const linksOf = new Map<string, LinkState[]>();
  for (const l of states) for (const { host } of [l.a, l.b]) linksOf.set(host, [...(linksOf.get(host) ?? []), l]);
  const isStranded = (host: string): boolean =>
    (byHost.get(host)!.meant?.vxlans.length ?? 0) > 0 && linksOf.get(host)!.every((l) => down.has(l.id));
  const takes = causes.map((c) => {
    const hosts = new Set(c.links.flatMap((l) => [l.a.host, l.b.host]).filter(isStranded));
    for (const host of c.deadHosts) hosts.add(host);
    return (leg: ServerLeg): boolean => hosts.has(leg.host) || c.deadPorts.has(`${leg.host} ${leg.port}`);
  });
  const left = new Set(servers.filter((leg) => !takes.some((t) => t(leg))).map((leg) => leg.server));
  return (c) => {
    const mine = new Set(servers.filter(takes[causes.indexOf(c)]!).map((leg) => leg.server));
    return {
      serversCut: [...mine].filter((s) => !left.has(s)),
      serversHalf: [...mine].filter((s) => left.has(s)),
    };
  };
}

/** Underlay routes that a cause takes paths from: the whole network as meant, against the same without its links and sessions. */
export function routesLost(meant: NetworkModel, c: Draft, links: readonly PlannedLink[]): Cause['routes'] {
  const lost = new Set([...c.links.map((l) => l.id)]);
  const ports = new Set(c.sessions.flatMap((s) => [`${s.host} ${s.port}`]));
  const left = links.filter(
    (l) => !lost.has(l.id) && !ports.has(`${l.a.host} ${l.a.port}`) && !ports.has(`${l.b.host} ${l.b.port}`),
  );
  if (left.length === links.length) return { fewer: 0, gone: 0 };
  const without = modelNetwork(
    meant.switches,
    left.map(({ a, b }): Cable => ({ a, b })),
  );
  let [fewer, gone] = [0, 0];
  const { size, counts } = meant.underlay;
  for (let i = 0; i < counts.length; i++) {
    const [was, is] = [counts[i]!, without.underlay.counts[i]!];
    if (is >= was || Math.floor(i / size) === i % size) continue;
    if (is === 0) gone++;
    else fewer++;
  }
  return { fewer, gone };
}
