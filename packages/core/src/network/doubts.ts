import type { UnreadLine } from '../dialects/dialect.ts';
import { onceFor } from '../onceFor.ts';
import { lagKey, sviKey } from '../config/interfaces.ts';
import { vxlanKey } from '../config/overlay.ts';
import type { ReadSwitch } from './networkModel.ts';

/** A line that is not understood, on its switch. */
export interface Doubt {
  readonly host: string;
  readonly line: UnreadLine;
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

/** Why an answer is uncertain, in words. */
export const doubtWords = ({ host, line }: Doubt): string =>
  `${host} ${line.file}:${line.line}, “${line.text}”, is not understood`;

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
    case 'bgp':
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
    const doubt = { host, line };
    const [part, second = '', third, fourth = ''] = line.doubts as readonly string[];
    switch (part) {
      case 'ports':
        note(ports, second, doubt);
        break;
      case 'lags':
        for (const port of config.lags.find((l) => lagKey(l) === second)?.members ?? []) note(ports, port, doubt);
        break;
      case 'svis': {
        const svi = config.svis.find((s) => sviKey(s) === second);
        if (svi) note(vlans, svi.vlan, doubt);
        if (svi?.vrf !== undefined) note(vrfs, svi.vrf, doubt);
        break;
      }
      case 'vxlans': {
        const vxlan = config.vxlans.find((v) => vxlanKey(v) === second);
        if (vxlan) note(vnis, vxlan.vni, doubt);
        break;
      }
      case 'bridge':
        bridging ??= doubt;
        break;
      case 'vrfs':
        note(vrfs, second, doubt);
        break;
      case 'bgp':
        if (second === 'peers' && third !== undefined) note(peers, third, doubt);
        else if (second === 'vrfs' && third !== undefined) note(vrfs, third, doubt);
        else if (second === 'evpn' && third === 'vnis') note(vnis, Number(fourth), doubt);
        else routing ??= doubt;
        break;
      // Lists and maps are used by routing; a loopback is what it announces.
      case 'prefixLists':
      case 'routeMaps':
      case 'bfdProfiles':
      case 'loopbacks':
        routing ??= doubt;
        break;
      default:
        routing ??= doubt;
        bridging ??= doubt;
    }
  }
  return any ? { routing, bridging, peers, ports, vlans, vnis, vrfs } : null;
});
