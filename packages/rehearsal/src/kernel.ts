import { bridgeMembers, lagName, sviMtu, sviName, vlanPort, vxlanName } from '@anthemion/core';
import type { HostPort, SwitchConfig, SwitchFolder } from '@anthemion/core';

/** Something of a text that this kernel cannot show, so that nothing is claimed of it. */
export interface NotShown {
  readonly host: string;
  readonly what: string;
}

/** A server that is plugged in: where, and in which bridge it finds itself. */
export interface PluggedHost {
  readonly of: HostPort;
  /** Number of its namespace. */
  readonly n: number;
}

/** The commands that make one switch, within its own network namespace where its ports are there already. */
export interface SwitchPlan {
  readonly host: string;
  readonly script: string;
  readonly notShown: readonly NotShown[];
}

/** How a bridge is made: as soon as the kernel lets one forward. */
const modeOf = (tree: { readonly priority?: number } | undefined): string =>
  tree === undefined
    ? 'stp_state 0 forward_delay 0'
    : `stp_state 1 forward_delay 200 hello_time 100 max_age 600 priority ${tree.priority ?? DEFAULT_PRIORITY}`;
const DEFAULT_PRIORITY = 32768;

/** Ports of a switch by name that are in a bridge with tagged VLANs, on their own or as the first of a LAG. */
export function taggedPorts(config: SwitchConfig): Map<string, readonly number[]> {
  const carriers = [
    ...config.ports.map((p) => ({ port: p.name, bridging: p.bridging })),
    ...config.lags.map((l) => ({ port: l.members[0] ?? '', bridging: l.bridging })),
  ];
  return new Map(carriers.flatMap(({ port, bridging }) => (bridging?.tagged.length ? [[port, bridging.tagged]] : [])));
}

const quoted = (word: string): string => `'${word.replaceAll("'", "'\\''")}'`;

/**
 * A switch as kernel commands, on a kernel without VRF, bond and VLAN devices: a VRF is a namespace, a VLAN is a plain
 * bridge named as its SVI (each with a spanning tree of its own where the text has one), a LAG is its first port, and a trunk has
 * a cable for each of its VLANs, as a port has for those that are routed by themselves. What goes beyond that is named, not left out silently.
 * @param trunks ports that are cabled to another switch and carry tagged VLANs
 */
export function planSwitch(host: string, config: SwitchConfig, trunks: ReadonlySet<string> = new Set()): SwitchPlan {
  const bridgeMode = modeOf(config.bridge?.spanningTree);
  const lines: string[] = [];
  const notShown: NotShown[] = [];
  const cannot = (what: string): void => void notShown.push({ host, what });
  const spaceOf = (vrf: string | undefined): string => (vrf === undefined ? '' : `-n ${quoted(vrf)} `);

  for (const address of [...config.loopbacks, ...(config.ipv6Loopbacks ?? [])])
    lines.push(`ip address add ${address} dev lo`);
  for (const v of config.vrfs) {
    lines.push(`ip netns add ${quoted(v.name)}`, `ip -n ${quoted(v.name)} link set lo up`);
    lines.push(`ip netns exec ${quoted(v.name)} sh -c ${quoted(FORWARDING)}`);
  }
  // The bridge of each VLAN, in the VRF of its SVI.
  const bridgeOf = new Map<number, { readonly name: string; readonly space: string }>();
  for (const s of config.svis) {
    const space = spaceOf(s.vrf);
    const name = sviName(s);
    bridgeOf.set(s.vlan, { name, space });
    const mac = s.virtual?.mac ?? s.mac;
    lines.push(`ip ${space}link add ${name} ${mac === undefined ? '' : `address ${mac} `}type bridge ${bridgeMode}`);
    for (const a of [...s.addresses, ...(s.ipv6Addresses ?? []), ...(s.virtual ? [s.virtual.address] : [])])
      lines.push(`ip ${space}address add ${a} dev ${name}`);
    // Said, it stays, whatever joins.
    lines.push(`ip ${space}link set dev ${name} mtu ${sviMtu(config, s)} up`);
  }
  for (const vlan of config.bridge?.vlans ?? [])
    if (!bridgeOf.has(vlan)) {
      bridgeOf.set(vlan, { name: `br${vlan}`, space: '' });
      lines.push(`ip link add br${vlan} type bridge ${bridgeMode}`, `ip link set br${vlan} up`);
    }
  const inBridge = new Set(config.bridge ? bridgeMembers(config.bridge) : []);
  const join = (port: string, vlan: number | undefined, mtu: number | undefined): void => {
    const bridge = vlan === undefined ? undefined : bridgeOf.get(vlan);
    if (!bridge) return;
    if (bridge.space !== '') lines.push(`ip link set ${port} netns ${bridge.space.slice(3).trim()}`);
    if (mtu !== undefined) lines.push(`ip ${bridge.space}link set ${port} mtu ${mtu}`);
    lines.push(`ip ${bridge.space}link set ${port} master ${bridge.name}`, `ip ${bridge.space}link set ${port} up`);
  };
  for (const x of config.vxlans) {
    const name = vxlanName(x);
    if (x.localAddress === undefined || x.vlan === undefined || !inBridge.has(name)) {
      cannot(`${name}: a VXLAN without source, VLAN or bridge`);
      continue;
    }
    lines.push(
      `ip link add ${name} type vxlan id ${x.vni} local ${x.localAddress} dstport 4789 ${x.learning ? '' : 'nolearning'}`,
    );
    join(name, x.vlan, x.mtu);
    const bridge = bridgeOf.get(x.vlan)!;
    lines.push(
      `ip ${bridge.space}link set ${name} type bridge_slave neigh_suppress ${x.arpSuppression ? 'on' : 'off'} learning ${x.learning ? 'on' : 'off'}`,
    );
  }
  const lagOf = new Map(config.lags.flatMap((l) => l.members.map((m) => [m, l] as const)));
  for (const l of config.lags) {
    if (l.members.length > 1) cannot(`${lagName(l)}: only its first port is plugged, there is no bonding`);
    if (l.segment)
      cannot(`${lagName(l)}: which end of its segment forwards what is flooded, and the other half of its pair`);
  }
  for (const p of config.ports) {
    if (p.members) cannot(`${p.name}: one cable stands for it, there is no bonding`);
    const lag = lagOf.get(p.name);
    const bridging = lag ? lag.bridging : p.bridging;
    const isTrunk = trunks.has(p.name);
    if ((bridging?.tagged.length ?? 0) > 0 && !isTrunk)
      cannot(`${lag ? lagName(lag) : p.name}: its tagged VLANs ${bridging!.tagged.join(', ')}`);
    lines.push(`if ip link show dev ${p.name} >/dev/null 2>&1; then`);
    const space = spaceOf(p.vrf);
    if (p.vrf !== undefined) lines.push(`ip link set ${p.name} netns ${quoted(p.vrf)}`);
    if (p.mtu !== undefined) lines.push(`ip ${space}link set ${p.name} mtu ${p.mtu}`);
    for (const a of [...p.addresses, ...(p.ipv6Addresses ?? [])])
      lines.push(`ip ${space}address add ${a} dev ${p.name}`);
    if (p.shut) lines.push(`ip ${space}link set ${p.name} down`);
    else {
      lines.push(`ip ${space}link set ${p.name} up`);
      if (inBridge.has(lag ? lagName(lag) : p.name) && (!lag || lag.members[0] === p.name)) {
        join(p.name, bridging?.untagged, lag?.mtu);
        for (const vlan of isTrunk ? (bridging?.tagged ?? []) : [])
          join(vlanPort(p.name, vlan), vlan, lag?.mtu ?? p.mtu);
      }
    }
    lines.push('fi');
  }
  return { host, script: lines.join('\n'), notShown };
}

/**
 * Something of the name of each LAG with light on it, as a bond with an open port has, so that FRR tells of its segment. It takes
 * segments on what is no bond only where that is not there yet: `off` before it loads, `on` after.
 */
export function lagDevices({ lags, ports }: SwitchConfig): { readonly off: string; readonly on: string } {
  const open = lags.filter((l) => l.members.some((m) => ports.some((p) => p.name === m && !p.shut)));
  const each = (does: (name: string, i: number) => string): string =>
    open.map((l, i) => does(quoted(lagName(l)), i)).join('\n');
  return {
    off: each((name) => `ip link del ${name} 2>/dev/null || true`),
    on: each(
      (name, i) => `ip link add ${name} type veth peer name es${i}; ip link set es${i} up; ip link set ${name} up`,
    ),
  };
}

/** Sysctls of a namespace that forwards. */
export const FORWARDING = [
  'echo 1 > /proc/sys/net/ipv4/ip_forward',
  'echo 1 > /proc/sys/net/ipv6/conf/all/forwarding',
  'echo 0 > /proc/sys/net/ipv4/conf/all/rp_filter',
  'echo 0 > /proc/sys/net/ipv4/conf/default/rp_filter',
  'echo 0 > /proc/sys/net/ipv6/conf/default/accept_dad',
  // Frames of a bridge are for its own filters alone, as on a switch where br_netfilter is not loaded.
  'for f in /proc/sys/net/bridge/bridge-nf-call-*tables; do [ -e $f ] && echo 0 > $f; done; true',
].join('; ');

/** The servers that can be plugged in: on an untagged port that is bridged and open. The others are named. */
export function plugHosts({ switches, hosts }: SwitchFolder): {
  readonly plugged: readonly PluggedHost[];
  readonly notShown: readonly NotShown[];
} {
  const plugged: PluggedHost[] = [];
  const notShown: NotShown[] = [];
  const configs = new Map(switches.map((s) => [s.host, s.config]));
  const taken = new Set<string>();
  // Of a server at both halves of a pair one end is plugged in: two with one address would answer by turns.
  const addresses = new Set<string>();
  for (const of of hosts) {
    const config = configs.get(of.switch);
    const lag = config?.lags.find((l) => l.members.includes(of.port));
    const port = config?.ports.find((p) => p.name === of.port);
    const untagged = (lag ?? port)?.bridging?.untagged;
    const place = `${of.switch} ${of.port}`;
    const free = untagged === of.vlan && !port?.shut && !addresses.has(of.ip);
    // Of a server with addresses of both families.
    const same = plugged.find((p) => p.of.host === of.host && `${p.of.switch} ${p.of.port}` === place);
    if (free && (same ? same.of.vlan === of.vlan : !taken.has(place))) {
      taken.add(place);
      addresses.add(of.ip);
      plugged.push({ of, n: same?.n ?? plugged.length });
    } else if (addresses.has(of.ip))
      notShown.push({ host: of.switch, what: `server ${of.host} on ${of.port}: ${of.ip} is plugged in elsewhere` });
    else notShown.push({ host: of.switch, what: `server ${of.host} on ${of.port}: tagged, shut or not alone on it` });
  }
  return { plugged, notShown };
}
