import {
  bothWays,
  DEFAULT_MTU,
  legReach,
  VXLAN_OVERHEAD_IPV4,
  type NetworkModel,
  type SwitchFolder,
} from '@anthemion/core';
import type { PluggedHost } from './kernel.ts';
import type { Lab } from './lab.ts';
import { stopsBefore } from './stops.ts';
import type { Tally } from './tally.ts';

/** What servers ask of one another beside pings, where there are filters. */
const CALLS = [
  { protocol: 'tcp', port: 22 },
  { protocol: 'tcp', port: 5432 },
  { protocol: 'udp', port: 53 },
] as const;

/** Sizes of packets that may fare otherwise: what the least port takes, what gateways take, a little more, and what links do not. */
function sizesFor({ switches }: SwitchFolder): number[] {
  const configs = switches.map((s) => s.config);
  const gateways = configs.flatMap((c) => c.svis.flatMap((s) => s.mtu ?? []));
  const ports = configs.flatMap((c) => c.ports.map((p) => p.mtu ?? DEFAULT_MTU));
  const links = configs.flatMap((c) => c.ports.flatMap((p) => (p.bridging ? [] : [p.mtu ?? DEFAULT_MTU])));
  const most = Math.max(DEFAULT_MTU, ...gateways);
  const tooMuch = Math.min(...links) - VXLAN_OVERHEAD_IPV4 + 1;
  // What no port takes says nothing of links.
  const wanted = [Math.min(...ports), most, most + 5, ...(tooMuch <= most ? [tooMuch] : [])];
  return [...new Set(wanted)].filter((n) => n > 576 && n < 9400).sort((a, b) => a - b);
}

/** Would a packet go from one VRF to another within a switch? Where a VRF is a namespace none does. */
function leaks(network: NetworkModel, a: PluggedHost, b: PluggedHost): boolean {
  const { there, back } = bothWays(network, a.of, b.of);
  return [there, back].some((way) =>
    way?.steps?.some(({ route }) => 'ways' in route && route.ways.some((w) => w.leakedFrom !== undefined)),
  );
}

/** Large packets are sent between so many pairs of servers at most, evenly among all: each takes long. */
const LARGE_PAIRS = 40;

/** Compares what servers send one another: pings, large ones where `sizes` says so, calls where switches filter, and what filters counted. */
export async function compareTraffic(
  folder: SwitchFolder,
  lab: Lab,
  network: NetworkModel,
  sizes: boolean,
  { count, differ, isUnsure }: Tally,
): Promise<void> {
  const isSix = ({ of }: PluggedHost): boolean => of.ip.includes(':');
  const pairs = lab.plugged.flatMap((a) =>
    lab.plugged.filter((b) => b.n !== a.n && isSix(a) === isSix(b)).map((b) => [a, b] as const),
  );
  const filtering = folder.switches.some((s) => s.config.filters || s.unread.some((u) => u.file === 'nftables.conf'));
  const stops = filtering ? await stopsBefore(folder, lab) : null;
  const reached = await lab.servers.pings(pairs);
  for (const [a, b] of pairs) {
    if (leaks(network, a, b)) {
      lab.notShown.push({ host: a.of.switch, what: 'packets from VRF to VRF within a switch' });
      continue;
    }
    stops?.expect(bothWays(network, a.of, b.of));
    // Two servers may have one name; of several switches they are plugged in at one.
    const reach = legReach(network, a.of, b.of);
    if (isUnsure(reach)) continue;
    if (isSix(a)) count.ipv6Pings++;
    else count.pings++;
    differ(
      a.of.switch,
      `${a.of.host} reaches ${b.of.host}${isSix(a) ? ' by IPv6' : ''}`,
      reach.ok ? 'yes' : 'no',
      reached.has(`${a.of.ip} ${b.of.ip}`) ? 'yes' : 'no',
    );
  }
  const some = pairs.filter((_, i) => i % Math.ceil(pairs.length / LARGE_PAIRS) === 0);
  for (const size of sizes ? sizesFor(folder) : []) {
    const came = await lab.servers.pings(some, size);
    for (const [a, b] of some) {
      if (leaks(network, a, b)) continue;
      const traffic = { protocol: 'icmp', size } as const;
      const reach = legReach(network, a.of, b.of, traffic);
      if (isUnsure(reach)) continue;
      count.largePings++;
      const about = `${a.of.host} reaches ${b.of.host} by ${size} bytes`;
      const seen = came.has(`${a.of.ip} ${b.of.ip}`) ? 'yes' : 'no';
      differ(a.of.switch, about, reach.ok ? 'yes' : seen === 'no' ? 'no' : `no: ${reach.how}`, seen);
    }
  }
  // Where nothing is filtered, a call goes where a ping goes.
  const calls = filtering ? pairs.flatMap(([from, to]) => CALLS.map((traffic) => ({ from, to, ...traffic }))) : [];
  const answered = calls.length === 0 ? new Set<number>() : await lab.servers.calls(calls);
  for (const [i, { from, to, protocol, port }] of calls.entries()) {
    if (leaks(network, from, to)) continue;
    stops?.expect(bothWays(network, from.of, to.of, { protocol, port }));
    const reach = legReach(network, from.of, to.of, { protocol, port });
    if (isUnsure(reach)) continue;
    count.calls++;
    const seen = answered.has(i) ? 'yes' : 'no';
    differ(
      from.of.switch,
      `${from.of.host} reaches ${to.of.host} by ${protocol} ${port}`,
      reach.ok ? 'yes' : 'no',
      seen,
    );
  }
  for (const { host, line, model, seen } of (await stops?.seen()) ?? []) {
    count.counters++;
    differ(host, `line ${line} of its filters`, model ? 'stops packets' : 'stops none', seen);
  }
}
