import type { UnreadLine } from '../dialects/dialect.ts';
import { onceFor } from '../onceFor.ts';
import { lagKey, sviKey } from '../config/interfaces.ts';
import { vxlanKey } from '../config/overlay.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import type { ReadSwitch } from './readSwitch.ts';

/** Something of a switch because of which answers may be otherwise. */
export interface Doubt {
  readonly host: string;
  /** Why: the line, in words. */
  readonly words: string;
  /** May routes be changed, or new ones come, or can it only take away what is there? */
  readonly alters: boolean;
}

/** What the lines of one switch that are not understood may change. */
export interface SwitchDoubts {
  /** Routes of the underlay or of EVPN, or all there is. */
  readonly routing: Doubt | undefined;
  /** Everything that is bridged. */
  readonly bridging: Doubt | undefined;
  /** By neighbour or group. */
  readonly peers: ReadonlyMap<string, Doubt>;
  readonly ports: ReadonlyMap<string, Doubt>;
  readonly vlans: ReadonlyMap<number, Doubt>;
  readonly vnis: ReadonlyMap<number, Doubt>;
  readonly vrfs: ReadonlyMap<string, Doubt>;
}

const lineWords = (host: string, { file, line, text }: UnreadLine): string =>
  `${host} ${file}:${line}, “${text}”, is not understood`;

/** What a line may change, in words; null = nothing. */
export function doubtedWords({ doubts }: UnreadLine): string | null {
  if (doubts === undefined) return null;
  const [part, second = '', third = '', fourth = ''] = doubts as readonly string[];
  switch (part) {
    case 'ports':
      return `what port ${second} does`;
    case 'lags':
      return `what LAG ${second} does`;
    case 'svis':
      return `VLAN interface ${second}, and its VRF there`;
    case 'vxlans':
      return `VNI ${second} there`;
    case 'bridge':
      return 'all that is bridged there';
    case 'vrfs':
      return `VRF ${second} there`;
    case 'routeMaps':
      return `routes that map ${second} is asked about`;
    case 'bgp':
      if (second === 'peers' && fourth === 'password') return `whether sessions with ${third} come up`;
      if (second === 'peers') return `sessions with ${third}, and routes over them`;
      if (second === 'vrfs') return `VRF ${third} there`;
      if (second === 'evpn' && third === 'vnis') return `VNI ${fourth} there`;
      return 'all routes of the switch';
    case undefined:
      return 'all of the switch';
    default:
      return 'all routes of the switch';
  }
}

/** Uses of route maps and lists: by neighbours, and beyond them. */
interface Uses {
  /** Neighbours and groups whose routes a map speaks of. */
  readonly peers: readonly string[];
  /** Does it say what the switch itself announces? */
  readonly own: boolean;
}
/** Who uses a map, over maps that call it too. */
function usesOfMap(config: SwitchConfig, name: string, seen: ReadonlySet<string> = new Set()): Uses {
  const { bgp, routeMaps } = config;
  const policies = [...(bgp?.ipv4.policies ?? []), ...(bgp?.evpn.policies ?? [])];
  const callers = routeMaps.filter((m) => !seen.has(m.name) && m.entries.some((e) => e.call === name));
  const above = callers.map((m) => usesOfMap(config, m.name, new Set([...seen, name])));
  const told = [bgp?.ipv4.connected, bgp?.ipv4.static];
  return {
    peers: [
      ...policies.filter((p) => p.mapIn === name || p.mapOut === name).map((p) => p.peer),
      ...above.flatMap((u) => u.peers),
    ],
    own: told.some((r) => r?.routeMap === name) || above.some((u) => u.own),
  };
}
/** Maps in which a list of paths is asked. */
const mapsWithPaths = ({ routeMaps }: SwitchConfig, list: string): string[] =>
  routeMaps.filter((m) => m.entries.some((e) => e.match?.asPath === list)).map((m) => m.name);

/** What is in doubt on a switch; null = nothing. */
export const doubtsOf = onceFor((sw: ReadSwitch): SwitchDoubts | null => {
  const { host, config } = sw;
  let routing: Doubt | undefined;
  let bridging: Doubt | undefined;
  const peers = new Map<string, Doubt>();
  const ports = new Map<string, Doubt>();
  const vlans = new Map<number, Doubt>();
  const vnis = new Map<number, Doubt>();
  const vrfs = new Map<string, Doubt>();
  let any = false;
  /** The first line that doubts something is the one that is named. */
  const note = <K>(map: Map<K, Doubt>, key: K, doubt: Doubt): void => void (map.has(key) || map.set(key, doubt));
  for (const line of sw.unread) {
    if (line.doubts === undefined) continue;
    any = true;
    const [part, second = '', third, fourth = ''] = line.doubts as readonly string[];
    const said = lineWords(host, line);
    const doubt: Doubt = { host, words: said, alters: true };
    const takes: Doubt = { host, words: said, alters: false };
    const noteUses = ({ peers: used, own }: Uses): void => {
      for (const p of used) note(peers, p, doubt);
      if (own) routing ??= doubt;
    };
    switch (part) {
      case 'ports':
        note(ports, second, takes);
        break;
      case 'lags':
        for (const port of config.lags.find((l) => lagKey(l) === second)?.members ?? []) note(ports, port, takes);
        break;
      case 'svis': {
        const svi = config.svis.find((s) => sviKey(s) === second);
        if (svi) note(vlans, svi.vlan, takes);
        if (svi?.vrf !== undefined) note(vrfs, svi.vrf, takes);
        break;
      }
      case 'vxlans': {
        const vxlan = config.vxlans.find((v) => vxlanKey(v) === second);
        if (vxlan) note(vnis, vxlan.vni, takes);
        break;
      }
      case 'bridge':
        bridging ??= takes;
        break;
      case 'vrfs':
        note(vrfs, second, doubt);
        break;
      case 'bgp':
        if (second === 'peers' && third !== undefined) note(peers, third, fourth === 'password' ? takes : doubt);
        else if (second === 'vrfs' && third !== undefined) note(vrfs, third, doubt);
        else if (second === 'evpn' && third === 'vnis') note(vnis, Number(fourth), doubt);
        else routing ??= doubt;
        break;
      // A map counts where it is used.
      case 'routeMaps':
        noteUses(usesOfMap(config, second));
        break;
      case 'asPathLists': {
        for (const map of mapsWithPaths(config, second)) noteUses(usesOfMap(config, map));
        for (const p of config.bgp?.ipv4.policies ?? [])
          if (p.asPathIn === second || p.asPathOut === second) note(peers, p.peer, doubt);
        break;
      }
      // Lists are used by routing; a loopback is what it announces.
      case 'prefixLists':
      case 'staticRoutes':
      case 'bfdProfiles':
      case 'loopbacks':
        routing ??= doubt;
        break;
      default:
        routing ??= doubt;
        bridging ??= takes;
    }
  }
  return any ? { routing, bridging, peers, ports, vlans, vnis, vrfs } : null;
});
