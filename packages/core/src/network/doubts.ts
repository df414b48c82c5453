import type { UnreadLine } from '../dialects/dialect.ts';
import { onceFor } from '../onceFor.ts';
import { lagKey, sviKey } from '../config/interfaces.ts';
import { vxlanKey } from '../config/overlay.ts';
import type { UnicastFamily, PeerPolicy } from '../config/bgp.ts';
import type { RouteMapEntry } from '../config/policy.ts';
import { placeKey, type SwitchConfig } from '../config/switchConfig.ts';
import { vlanOfPort } from '../config/vlanOfPort.ts';
import { familyOfText } from '../numbers/prefix.ts';
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
  /** Routes of IPv6 alone. */
  readonly ipv6: Doubt | undefined;
  /** Everything that is bridged. */
  readonly bridging: Doubt | undefined;
  /** By neighbour or group. */
  readonly peers: ReadonlyMap<string, Doubt>;
  readonly ports: ReadonlyMap<string, Doubt>;
  readonly vlans: ReadonlyMap<number, Doubt>;
  readonly vnis: ReadonlyMap<number, Doubt>;
  readonly vrfs: ReadonlyMap<string, Doubt>;
  /** All that is filtered. */
  readonly filters: Doubt | undefined;
  /** Rules of filters by their place. */
  readonly filterRules: ReadonlyMap<string, Doubt>;
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
      return second === '' ? 'servers of several switches there' : `what LAG ${second} does`;
    case 'svis':
      return `VLAN interface ${second}, and its VRF there`;
    case 'vxlans':
      return `VNI ${second} there`;
    case 'bridge':
      return 'all that is bridged there';
    case 'vrfs':
      return `VRF ${second} there`;
    case 'filters':
      return third === '' ? 'all that is filtered there' : `what chain ${fourth} lets pass`;
    case 'communityLists':
    case 'extendedCommunityLists':
    case 'largeCommunityLists':
    case 'asPathLists':
    case 'accessLists':
    case 'ipv6AccessLists':
      return `routes that list ${second} is asked about`;
    case 'routeMaps':
      return `routes that map ${second} is asked about`;
    case 'bgp':
      if (second === 'peers' && fourth === 'password') return `whether sessions with ${third} come up`;
      if (second === 'peers') return `sessions with ${third}, and routes over them`;
      if (second === 'ipv6' || (second === 'vrfs' && fourth === 'ipv6')) return 'IPv6 routes of the switch';
      if (second === 'vrfs') return `VRF ${third} there`;
      if (second === 'evpn' && third === 'vnis') return `VNI ${fourth} there`;
      return 'all routes of the switch';
    case 'ipv6Loopbacks':
    case 'ipv6PrefixLists':
    case 'ospf6':
    case 'ospf6Ports':
      return 'IPv6 routes of the switch';
    case undefined:
      return 'all of the switch';
    default:
      return 'all routes of the switch';
  }
}

/** Uses of route maps and lists: by neighbours, by tenants, and beyond them. */
interface Uses {
  /** Neighbours and groups outside of VRFs whose routes a map speaks of. */
  readonly peers: readonly string[];
  /** VRFs whose routes it speaks of. */
  readonly vrfs: readonly string[];
  /** Does it say what the switch itself announces outside of them? */
  readonly own: boolean;
}
/** Who uses what `isMap` names, or `asks` for it: policies of neighbours, and what is redistributed. */
function usesIn(
  config: SwitchConfig,
  isMap: (map: string) => boolean,
  asks: (p: PeerPolicy) => boolean = () => false,
): Uses {
  const ofPolicy = (p: PeerPolicy): boolean => asks(p) || [p.mapIn, p.mapOut].some((m) => m !== undefined && isMap(m));
  const tells = ({ connected, static: written, networkMaps = {}, importMap }: UnicastFamily): boolean =>
    [connected?.routeMap, written?.routeMap, importMap, ...Object.values(networkMaps)].some(
      (m) => m !== undefined && isMap(m),
    );
  const { bgp } = config;
  const policies = [bgp?.ipv4, bgp?.ipv6, bgp?.evpn].flatMap((f) => f?.policies ?? []);
  const speaks = (f: UnicastFamily | undefined): boolean =>
    f !== undefined && (tells(f) || (f.policies?.some(ofPolicy) ?? false));
  const vrfs = (bgp?.vrfs ?? []).filter(
    ({ ipv4, ipv6, advertiseIpv4Map, advertiseIpv6Map }) =>
      speaks(ipv4) || speaks(ipv6) || [advertiseIpv4Map, advertiseIpv6Map].some((m) => m !== undefined && isMap(m)),
  );
  return {
    peers: policies.filter(ofPolicy).map((p) => p.peer),
    vrfs: vrfs.map((v) => v.vrf),
    own: bgp !== undefined && (tells(bgp.ipv4) || (bgp.ipv6 !== undefined && tells(bgp.ipv6))),
  };
}
/** A map with all that call it, one over the other. */
function withCallers({ routeMaps }: SwitchConfig, name: string): ReadonlySet<string> {
  const out = new Set([name]);
  for (const at of out) for (const m of routeMaps) if (m.entries.some((e) => e.call === at)) out.add(m.name);
  return out;
}
/** Who uses a map, over maps that call it too. */
function usesOfMap(config: SwitchConfig, name: string): Uses {
  const maps = withCallers(config, name);
  return usesIn(config, (m) => maps.has(m));
}

/** Lists that count where they are asked: names of those of a kind that an entry of a map, or a neighbour, asks. */
const ASKED = {
  communityLists: ({ match, set }) => [match?.community?.list, set?.withoutCommunities],
  largeCommunityLists: ({ match, set }) => [match?.largeCommunity?.list, set?.withoutLarge],
  extendedCommunityLists: ({ match }) => [match?.extendedCommunity],
  asPathLists: ({ match }) => [match?.asPath],
  accessLists: ({ matchAccessList, match: { nextHops } = {} }) => [
    matchAccessList,
    nextHops && 'access' in nextHops ? nextHops.access : undefined,
  ],
  ipv6AccessLists: ({ matchIpv6AccessList }) => [matchIpv6AccessList],
} as const satisfies Readonly<Record<string, (e: RouteMapEntry) => readonly (string | undefined)[]>>;
type AskedList = keyof typeof ASKED;
const byAccess = ({ accessListIn, accessListOut }: PeerPolicy) => [accessListIn, accessListOut];
const ASKED_BY_PEERS: Readonly<Record<AskedList, (p: PeerPolicy) => readonly (string | undefined)[]>> = {
  communityLists: () => [],
  largeCommunityLists: () => [],
  extendedCommunityLists: () => [],
  asPathLists: ({ asPathIn, asPathOut }) => [asPathIn, asPathOut],
  accessLists: byAccess,
  ipv6AccessLists: byAccess,
};
/** Who uses a list: neighbours, and maps that ask it. */
function usesOfList(config: SwitchConfig, part: AskedList, name: string): Uses {
  const asking = config.routeMaps.filter((m) => m.entries.some((e) => ASKED[part](e).includes(name)));
  const maps = new Set(asking.flatMap((m) => [...withCallers(config, m.name)]));
  return usesIn(
    config,
    (m) => maps.has(m),
    (p) => ASKED_BY_PEERS[part](p).includes(name),
  );
}

/** What rests on ports, by their names: the LAG that one is in, where that is routed, and VLANs of both. */
const restingOn = onceFor(({ ports }: SwitchConfig): ReadonlyMap<string, readonly string[]> => {
  const out = new Map<string, string[]>();
  const rest = (name: string, on: string): void => {
    const there = out.get(on);
    if (there) there.push(name);
    else out.set(on, [name]);
  };
  const known = new Map(ports.map((p) => [p.name, p]));
  for (const { name, members = [] } of ports) for (const member of members) rest(name, member);
  for (const { name } of ports) {
    const whole = vlanOfPort(name, (port) => known.has(port))?.port;
    if (whole !== undefined) for (const on of [whole, ...(known.get(whole)!.members ?? [])]) rest(name, on);
  }
  return out;
});

/** What is in doubt on a switch; null = nothing. */
export const doubtsOf = onceFor((sw: ReadSwitch): SwitchDoubts | null => {
  const { host, config } = sw;
  let routing: Doubt | undefined;
  let ipv6: Doubt | undefined;
  let bridging: Doubt | undefined;
  const peers = new Map<string, Doubt>();
  const ports = new Map<string, Doubt>();
  const vlans = new Map<number, Doubt>();
  const vnis = new Map<number, Doubt>();
  const vrfs = new Map<string, Doubt>();
  let filters: Doubt | undefined;
  const filterRules = new Map<string, Doubt>();
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
    const noteUses = ({ peers: used, vrfs: tenants, own }: Uses): void => {
      for (const p of used) note(peers, p, doubt);
      for (const v of tenants) note(vrfs, v, doubt);
      if (own) routing ??= doubt;
    };
    switch (part) {
      case 'ports':
        for (const name of [second, ...(restingOn(config).get(second) ?? [])]) note(ports, name, takes);
        break;
      case 'lags':
        for (const l of config.lags)
          if (second === '' ? l.segment : lagKey(l) === second) for (const port of l.members) note(ports, port, takes);
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
      case 'filters':
        if (third === undefined) filters ??= takes;
        else note(filterRules, placeKey(line.doubts), takes);
        break;
      case 'bgp':
        if (second === 'ipv6' || (second === 'vrfs' && fourth === 'ipv6')) ipv6 ??= doubt;
        else if (second === 'peers' && third !== undefined) note(peers, third, fourth === 'password' ? takes : doubt);
        else if (second === 'vrfs' && third !== undefined) note(vrfs, third, doubt);
        else if (second === 'evpn' && third === 'vnis') note(vnis, Number(fourth), doubt);
        else routing ??= doubt;
        break;
      // A map counts where it is used.
      case 'routeMaps':
        noteUses(usesOfMap(config, second));
        break;
      case 'communityLists':
      case 'largeCommunityLists':
      case 'extendedCommunityLists':
      case 'asPathLists':
      case 'accessLists':
      case 'ipv6AccessLists':
        noteUses(usesOfList(config, part, second));
        break;
      // Lists are used by routing; a loopback is what it announces.
      case 'staticRoutes':
        if (familyOfText(second) === 6) ipv6 ??= doubt;
        else routing ??= doubt;
        break;
      case 'ipv6PrefixLists':
      case 'ipv6Loopbacks':
      case 'ospf6':
      case 'ospf6Ports':
        ipv6 ??= doubt;
        break;
      case 'prefixLists':
      case 'bfdProfiles':
      case 'loopbacks':
        routing ??= doubt;
        break;
      default:
        routing ??= doubt;
        bridging ??= takes;
    }
  }
  return any ? { routing, ipv6, bridging, peers, ports, vlans, vnis, vrfs, filters, filterRules } : null;
});
