import { isMask } from '../../secrets/secretRef.ts';
import { sortPeers } from '../../config/deriveConfigs.ts';
import type {
  BgpPeer,
  EvpnVni,
  PrefixListEntry,
  RemoteAs,
  RouteMapEntry,
  SwitchConfig,
} from '../../config/switchConfig.ts';
import { naturally } from '../../numbers/order.ts';
import { parseCidr, parseIpv4 } from '../../numbers/ipv4.ts';
import { isMac } from '../../numbers/mac.ts';
import type { LineRecorder, UnreadLine } from '../dialect.ts';

const FILE = 'frr.conf';

type Draft<T> = { -readonly [K in keyof T]: T[K] };
interface FamilyDraft {
  active: string[];
  ownAsAllowed: Record<string, number>;
  connected?: { routeMap?: string };
  maximumPaths?: number;
}
interface VrfDraft {
  vrf: string;
  asn: number;
  routerId?: string;
  connected?: { routeMap?: string };
  maximumPaths?: number;
  advertiseIpv4: boolean;
  rd?: string;
  imports: string[];
  exports: string[];
}
interface BgpDraft {
  asn: number;
  routerId?: string;
  defaultIpv4: boolean;
  policyRequired: boolean;
  multipathRelax: boolean;
  peers: Map<string, Draft<BgpPeer>>;
  ipv4: FamilyDraft;
  evpn: FamilyDraft & {
    advertiseAllVni: boolean;
    vnis: { vni: number; rd?: string; imports: string[]; exports: string[] }[];
  };
  vrfs: VrfDraft[];
}

/** What `frr.conf` says; what belongs to interfaces (segments, tracking, L3 VNIs) is given by name for merging. */
export interface FrrPart extends Pick<SwitchConfig, 'bfdProfiles' | 'prefixLists' | 'routeMaps' | 'bgp'> {
  readonly hostname: string;
  readonly l3Vnis: ReadonlyMap<string, { readonly vni?: number; readonly line: number }>;
  readonly tracked: ReadonlySet<string>;
  readonly segments: ReadonlyMap<string, { readonly number?: number; readonly systemMac?: string }>;
}

/** `true` = read; a string = understood but wrong; `false` = not a line of this block. */
type Reading = boolean | string;
/** Read, and it speaks of IPv4 unicast: FRR takes lines of that family in the router itself as well. */
const AS_IPV4 = 'as ipv4 unicast' as const;
type AsIpv4 = { readonly as: typeof AS_IPV4 };
type Block = {
  readonly path: string;
  /** Word that closes it beside `exit`. */
  readonly exit?: string;
  read(words: readonly string[], line: string): Reading | Block | AsIpv4;
};
/** Seen on FRR 8.4.4: what a router, or its EVPN family, does not know as its own is taken for IPv4 unicast. */
const isEvpn = (block: Block): boolean => /\.evpn(\.|$)/.test(block.path);

const whole = (text: string | undefined, from: number, to: number): number | null =>
  text !== undefined && /^\d+$/.test(text) && Number(text) >= from && Number(text) <= to ? Number(text) : null;

const isTarget = (text: string): boolean => {
  const m = /^(\d+):(\d+)$/.exec(text);
  if (m) return Number(m[1]) > 65535 ? Number(m[1]) <= 4294967295 && Number(m[2]) <= 65535 : Number(m[2]) <= 4294967295;
  const ip = /^(\d+\.\d+\.\d+\.\d+):(\d+)$/.exec(text);
  return ip !== null && parseIpv4(ip[1]!) !== null && Number(ip[2]) <= 65535;
};

/** Reads `rd` and `route-target` lines, which VNIs and VRFs have alike. */
function readTargets(words: readonly string[], into: { rd?: string; imports: string[]; exports: string[] }): Reading {
  if (words[0] === 'rd') {
    if (!isTarget(words[1] ?? '')) return 'an RD is router-id:number or AS:number';
    into.rd = words[1]!;
    return true;
  }
  if (words[0] !== 'route-target') return false;
  const [, way, ...targets] = words;
  if (targets.length === 0 || !targets.every(isTarget)) return 'a route target is AS:number';
  if (way === 'import' || way === 'both') into.imports.push(...targets);
  if (way === 'export' || way === 'both') into.exports.push(...targets);
  return way === 'import' || way === 'export' || way === 'both' ? true : 'a route target is import, export or both';
}

function readRedistribution(words: readonly string[], into: { connected?: { routeMap?: string } }): Reading {
  if (words[0] !== 'redistribute') return false;
  if (words[1] !== 'connected') return `redistribution of ${words[1] ?? 'nothing'} is not modelled`;
  if (words.length === 2) into.connected = {};
  else if (words[2] === 'route-map' && words[3] !== undefined) into.connected = { routeMap: words[3] };
  else return 'after connected stands route-map and its name';
  return true;
}

const TAKEN_AS_IPV4 = 'EVPN does not take it: FRR puts it, and the lines after it, into IPv4 unicast without a word';

/** Lines of an address family that a router takes without one, and then means IPv4 unicast. */
const isOfIpv4 = (w: readonly string[]): boolean =>
  w[0] === 'redistribute' ||
  w[0] === 'maximum-paths' ||
  (w[0] === 'neighbor' && (w[2] === 'activate' || w[2] === 'allowas-in')) ||
  (w[0] === 'no' && w[1] === 'neighbor' && w[3] === 'activate');

/** Reads FRR's integrated configuration; blocks nest as vtysh nests them, whatever the indentation. */
export function parseFrr(text: string, unread: UnreadLine[], record?: LineRecorder): FrrPart {
  let hostname = '';
  let policyDefault = true;
  let policySaid: boolean | null = null;
  let bgp: BgpDraft | null = null;
  const l3Vnis = new Map<string, { vni?: number; line: number }>();
  const tracked = new Set<string>();
  const segments = new Map<string, { number?: number; systemMac?: string }>();
  const bfd: { name: string; multiplier?: number; transmit?: number; receive?: number }[] = [];
  const prefixLists = new Map<string, PrefixListEntry[]>();
  const routeMaps = new Map<string, Draft<RouteMapEntry>[]>();
  let number = 0;
  let path = '';
  const mark = (at: string): true => {
    path = at;
    return true;
  };

  const vniBlock = (v: Draft<EvpnVni> & { imports: string[]; exports: string[] }): Block => ({
    path: `bgp.evpn.vnis.${v.vni}`,
    exit: 'exit-vni',
    read: (w) => {
      const r = readTargets(w, v);
      if (r === true) mark(`bgp.evpn.vnis.${v.vni}.${w[0]}`);
      return r;
    },
  });

  const familyBlock = (b: BgpDraft, which: 'ipv4' | 'evpn'): Block => ({
    path: `bgp.${which}`,
    exit: 'exit-address-family',
    read: (w) => {
      const family = b[which];
      if (w[0] === 'neighbor' && w[1] !== undefined) {
        if (w[2] === 'activate') {
          if (!b.peers.has(w[1])) return `${w[1]} is not defined above as a neighbour or group`;
          if (!family.active.includes(w[1])) family.active.push(w[1]);
          return mark(`bgp.${which}.active`);
        }
        if (w[2] === 'allowas-in') {
          const n = w[3] === undefined ? 3 : whole(w[3], 1, 10);
          if (n === null) return 'allowas-in takes 1–10';
          family.ownAsAllowed[w[1]] = n;
          return mark(`bgp.${which}.ownAsAllowed`);
        }
        // A line about the neighbour itself: the router knows it, or nobody.
        return false;
      }
      if (w[0] === 'no' && w[1] === 'neighbor' && w[3] === 'activate') {
        family.active = family.active.filter((a) => a !== w[2]);
        return mark(`bgp.${which}.active`);
      }
      if (which === 'ipv4') {
        const r = readRedistribution(w, family);
        if (r !== false) return r === true ? mark('bgp.ipv4.connected') : r;
        if (w[0] === 'maximum-paths') {
          const n = whole(w[1], 1, 256);
          if (n === null) return 'maximum-paths takes 1–256';
          family.maximumPaths = n;
          return mark('bgp.ipv4.maximumPaths');
        }
      } else {
        if (w[0] === 'advertise-all-vni') {
          b.evpn.advertiseAllVni = true;
          return mark('bgp.evpn.advertiseAllVni');
        }
        if (w[0] === 'vni') {
          const vni = whole(w[1], 1, 16777215);
          if (vni === null) return 'a VNI is 1–16777215';
          let v = b.evpn.vnis.find((x) => x.vni === vni);
          if (!v) b.evpn.vnis.push((v = { vni, imports: [], exports: [] }));
          return vniBlock(v);
        }
      }
      return false;
    },
  });

  function readNeighbour(b: BgpDraft, w: readonly string[]): Reading {
    const name = w[1];
    if (name === undefined) return 'the neighbour has no name';
    let rest = w.slice(2);
    if (rest[0] === 'peer-group' && rest.length === 1) {
      b.peers.set(name, { name, kind: 'group' });
      return mark(`bgp.peers.${name}`);
    }
    let peer = b.peers.get(name);
    const viaInterface = rest[0] === 'interface';
    if (viaInterface) rest = rest.slice(1);
    if (!peer) {
      const opening = viaInterface || rest[0] === 'remote-as' || (rest[0] === 'peer-group' && parseIpv4(name) !== null);
      if (!opening) return `${name} is not defined above as a neighbour or group`;
      if (!viaInterface && parseIpv4(name) === null) return `${name} is neither an address nor an interface neighbour`;
      peer = { name, kind: viaInterface ? 'interface' : 'address' };
      b.peers.set(name, peer);
      if (viaInterface && rest.length === 0) return mark(`bgp.peers.${name}`);
    }
    const at = `bgp.peers.${name}`;
    switch (rest[0]) {
      case 'remote-as': {
        const said: RemoteAs | null =
          rest[1] === 'external' || rest[1] === 'internal' ? rest[1] : whole(rest[1], 1, 4294967295);
        if (said === null) return 'an AS number is 1–4294967295';
        peer.remoteAs = said;
        return mark(`${at}.remoteAs`);
      }
      case 'peer-group':
        if (rest[1] === undefined || b.peers.get(rest[1])?.kind !== 'group')
          return `there is no peer group ${rest[1] ?? ''} above`;
        peer.group = rest[1];
        return mark(`${at}.group`);
      case 'description':
        peer.description = rest.slice(1).join(' ');
        return mark(`${at}.description`);
      case 'timers': {
        if (rest[1] === 'connect') {
          const n = whole(rest[2], 1, 65535);
          if (n === null) return 'the connect timer is 1–65535 s';
          peer.connect = n;
          return mark(`${at}.connect`);
        }
        const keepalive = whole(rest[1], 0, 65535);
        const hold = whole(rest[2], 0, 65535);
        if (keepalive === null || hold === null) return 'timers are two numbers of seconds';
        peer.keepalive = keepalive;
        peer.hold = hold;
        return mark(`${at}.timers`);
      }
      case 'bfd':
        peer.bfd = true;
        if (rest[1] === 'profile') {
          if (rest[2] === undefined) return 'the profile has no name';
          peer.bfdProfile = rest[2];
        }
        return mark(`${at}.bfd`);
      case 'password':
        if (rest.length !== 2 || !isMask(rest[1]!)) return 'the password stands here in plain words';
        peer.password = rest[1]!;
        return mark(`${at}.password`);
      case 'shutdown':
        peer.shutdown = true;
        return mark(`${at}.shutdown`);
      default:
        return `“${rest.join(' ')}” is not modelled`;
    }
  }

  const bgpBlock = (b: BgpDraft): Block => ({
    path: 'bgp',
    read: (w, line) => {
      if (isOfIpv4(w)) {
        const r = familyBlock(b, 'ipv4').read(w, line);
        return r === true ? { as: AS_IPV4 } : r;
      }
      if (w[0] === 'neighbor') return readNeighbour(b, w);
      if (line.startsWith('address-family ipv4 unicast') || line === 'address-family ipv4')
        return familyBlock(b, 'ipv4');
      if (line === 'address-family l2vpn evpn') return familyBlock(b, 'evpn');
      if (w[0] === 'bgp' && w[1] === 'router-id') {
        if (parseIpv4(w[2] ?? '') === null) return 'a router id is written like an IPv4 address';
        b.routerId = w[2]!;
        return mark('bgp.routerId');
      }
      if (line === 'no bgp default ipv4-unicast') {
        b.defaultIpv4 = false;
        return mark('bgp.defaultIpv4');
      }
      if (line === 'bgp bestpath as-path multipath-relax') {
        b.multipathRelax = true;
        return mark('bgp.multipathRelax');
      }
      if (line === 'no bgp ebgp-requires-policy' || line === 'bgp ebgp-requires-policy') {
        policySaid = w[0] !== 'no';
        return mark('bgp.policyRequired');
      }
      if (line === 'bgp log-neighbor-changes' || line.startsWith('bgp graceful-restart')) return mark('bgp');
      return false;
    },
  });

  const bgpVrfBlock = (v: VrfDraft): Block => ({
    path: `bgp.vrfs.${v.vrf}`,
    read: (w, line) => {
      const at = `bgp.vrfs.${v.vrf}`;
      if (w[0] === 'bgp' && w[1] === 'router-id') {
        if (parseIpv4(w[2] ?? '') === null) return 'a router id is written like an IPv4 address';
        v.routerId = w[2]!;
        return mark(`${at}.routerId`);
      }
      const ipv4: Block = {
        path: `${at}.ipv4`,
        exit: 'exit-address-family',
        read: (w2) => {
          const r = readRedistribution(w2, v);
          if (r !== false) return r === true ? mark(`${at}.connected`) : r;
          if (w2[0] !== 'maximum-paths') return false;
          const n = whole(w2[1], 1, 256);
          if (n === null) return 'maximum-paths takes 1–256';
          v.maximumPaths = n;
          return mark(`${at}.maximumPaths`);
        },
      };
      if (line === 'address-family ipv4 unicast') return ipv4;
      if (isOfIpv4(w)) {
        const r = ipv4.read(w, line);
        return r === true ? { as: AS_IPV4 } : r;
      }
      if (line === 'address-family l2vpn evpn')
        return {
          path: `${at}.evpn`,
          exit: 'exit-address-family',
          read: (w2, line2) => {
            if (line2 === 'advertise ipv4 unicast') {
              v.advertiseIpv4 = true;
              return mark(`${at}.advertiseIpv4`);
            }
            const r = readTargets(w2, v);
            if (r === true) mark(`${at}.${w2[0]}`);
            return r;
          },
        };
      return false;
    },
  });

  const top: Block = {
    path: '',
    read: (w, line) => {
      switch (w[0]) {
        case 'frr':
          if (w[1] === 'defaults') policyDefault = w[2] !== 'datacenter';
          return w[1] === 'defaults' || w[1] === 'version' ? mark('bgp.policyRequired') : false;
        case 'hostname':
          hostname = w[1] ?? '';
          return mark('hostname');
        case 'service':
        case 'log':
        case 'password':
        case 'no':
          return /^(service integrated-vtysh-config|log (syslog|file|stdout)\b.*|no (ip|ipv6) forwarding|no service .*)$/.test(
            line,
          )
            ? mark('system')
            : false;
        case 'vrf': {
          if (w[1] === undefined) return 'the VRF has no name';
          const entry: { vni?: number; line: number } = { line: number };
          l3Vnis.set(w[1], entry);
          const at = `vrfs.${w[1]}`;
          return {
            path: at,
            exit: 'exit-vrf',
            read: (w2) => {
              if (w2[0] !== 'vni') return false;
              const vni = whole(w2[1], 1, 16777215);
              if (vni === null) return 'a VNI is 1–16777215';
              entry.vni = vni;
              return mark(`${at}.l3Vni`);
            },
          };
        }
        case 'interface': {
          const name = w[1] ?? '';
          return {
            path: `ports.${name}`,
            read: (w2, line2) => {
              if (line2 === 'evpn mh uplink') {
                tracked.add(name);
                return mark(`ports.${name}.tracked`);
              }
              const segment = segments.get(name) ?? {};
              if (w2[0] === 'evpn' && w2[1] === 'mh' && w2[2] === 'es-id') {
                const n = whole(w2[3], 1, 16777215);
                if (n === null) return 'an ES number is 1–16777215';
                segments.set(name, { ...segment, number: n });
                return mark(`lags.${name}.segment`);
              }
              if (w2[0] === 'evpn' && w2[1] === 'mh' && w2[2] === 'es-sys-mac') {
                if (!isMac((w2[3] ?? '').toLowerCase())) return 'it is not a MAC address';
                segments.set(name, { ...segment, systemMac: w2[3]!.toLowerCase() });
                return mark(`lags.${name}.segment`);
              }
              if (w2[0] === 'description') return mark(`ports.${name}`);
              return false;
            },
          };
        }
        case 'ip': {
          if (w[1] !== 'prefix-list') return line === 'ip forwarding' ? mark('system') : false;
          const m = /^ip prefix-list (\S+) seq (\d+) (permit|deny) (\S+)(?: ge (\d+))?(?: le (\d+))?$/.exec(line);
          if (!m || (m[4] !== 'any' && !parseCidr(m[4]!)))
            return 'a prefix list line is: ip prefix-list NAME seq N permit|deny PREFIX [ge N] [le N]';
          const any = m[4] === 'any';
          const entry: Draft<PrefixListEntry> = {
            seq: Number(m[2]),
            permit: m[3] === 'permit',
            prefix: any ? '0.0.0.0/0' : m[4]!,
          };
          if (m[5] !== undefined) entry.ge = Number(m[5]);
          if (m[6] !== undefined || any) entry.le = any ? 32 : Number(m[6]);
          const length = parseCidr(entry.prefix)!.length;
          if (
            (entry.ge !== undefined && (entry.ge <= length || entry.ge > 32)) ||
            (entry.le !== undefined && (entry.le < (entry.ge ?? length) || entry.le > 32))
          )
            return `the daemon refuses it: length ${length} < ge ≤ le ≤ 32 must hold`;
          const list = prefixLists.get(m[1]!);
          if (list) list.push(entry);
          else prefixLists.set(m[1]!, [entry]);
          return mark(`prefixLists.${m[1]}`);
        }
        case 'route-map': {
          const seq = whole(w[3], 1, 65535);
          if (w[1] === undefined || (w[2] !== 'permit' && w[2] !== 'deny') || seq === null)
            return 'a route map opens with: route-map NAME permit|deny N';
          const entry: Draft<RouteMapEntry> = { seq, permit: w[2] === 'permit' };
          const list = routeMaps.get(w[1]);
          if (list) list.push(entry);
          else routeMaps.set(w[1], [entry]);
          const at = `routeMaps.${w[1]}`;
          return {
            path: at,
            read: (w2, line2) => {
              const m = /^match ip address prefix-list (\S+)$/.exec(line2);
              if (!m) return w2[0] === 'match' || w2[0] === 'set' ? `“${line2}” is not modelled` : false;
              entry.matchPrefixList = m[1]!;
              return mark(`${at}.match`);
            },
          };
        }
        case 'vni':
          return 'outside of its block it is the L3 VNI of the default VRF, and the lines after it are lost';
        case 'bfd':
          return {
            path: 'bfdProfiles',
            read: (w2) => {
              if (w2[0] !== 'profile' || w2[1] === undefined) return false;
              const profile: (typeof bfd)[number] = { name: w2[1] };
              bfd.push(profile);
              const at = `bfdProfiles.${w2[1]}`;
              return {
                path: at,
                read: (w3) => {
                  const n = whole(w3[1], 1, 60000);
                  const key = (
                    {
                      'detect-multiplier': 'multiplier',
                      'transmit-interval': 'transmit',
                      'receive-interval': 'receive',
                    } as const
                  )[w3[0]!];
                  if (!key) return false;
                  if (n === null) return 'it is a number of milliseconds, or a small multiplier';
                  profile[key] = n;
                  return mark(at);
                },
              };
            },
          };
        case 'router': {
          const asn = whole(w[2], 1, 4294967295);
          if (w[1] !== 'bgp') return `router ${w[1] ?? ''} is not modelled`;
          if (asn === null) return 'an AS number is 1–4294967295';
          if (w[3] === 'vrf' && w[4] !== undefined) {
            const v: VrfDraft = { vrf: w[4], asn, advertiseIpv4: false, imports: [], exports: [] };
            bgp?.vrfs.push(v);
            return bgp ? bgpVrfBlock(v) : 'the global BGP block must stand above the VRF’s';
          }
          if (bgp && bgp.asn !== asn) return `BGP already runs as ${bgp.asn} above`;
          bgp ??= {
            asn,
            defaultIpv4: true,
            policyRequired: true,
            multipathRelax: false,
            peers: new Map(),
            ipv4: { active: [], ownAsAllowed: {} },
            evpn: { active: [], ownAsAllowed: {}, advertiseAllVni: false, vnis: [] },
            vrfs: [],
          };
          return bgpBlock(bgp);
        }
        default:
          return false;
      }
    },
  };

  const stack: Block[] = [top];
  /** A line ended a block of EVPN unseen; the lines after it still look as if they stood in it. */
  let cutShort = false;
  let start = 0;
  while (start < text.length) {
    let end = text.indexOf('\n', start);
    if (end < 0) end = text.length;
    number++;
    const line = text.slice(start, end).trim();
    start = end + 1;
    if (line === '' || line[0] === '!' || line[0] === '#') continue;
    if (line === 'exit' || line === 'quit') {
      if (stack.length > 1) record?.(stack.pop()!.path, FILE, number);
      cutShort = false;
      continue;
    }
    if (line.startsWith('exit-')) {
      // It closes the block it belongs to and all within; where none is open, it says nothing.
      const at = stack.findLastIndex((b) => b.exit === line);
      if (at > 0) {
        record?.(stack[at]!.path, FILE, number);
        stack.length = at;
      } else if (!cutShort) unread.push({ file: FILE, line: number, text: line, why: 'no such block is open here' });
      cutShort = false;
      continue;
    }
    if (line === 'end') {
      stack.length = 1;
      continue;
    }
    const words = line.split(/\s+/);
    let why = 'no block here knows it';
    let read = false;
    // As vtysh does: a line that the innermost block does not know is tried in the one above it.
    for (let depth = stack.length - 1; depth >= 0; depth--) {
      const answer = stack[depth]!.read(words, line);
      if (answer === false) continue;
      if (typeof answer === 'string') {
        why = answer;
        break;
      }
      read = true;
      // A block of EVPN that ends without being closed: what was written in it counts elsewhere from here on.
      const leavesEvpn = depth < stack.length - 1 && stack.slice(depth + 1).some(isEvpn);
      stack.length = depth + 1;
      if (answer === true) {
        record?.(path, FILE, number);
        cutShort ||= leavesEvpn && depth > 0;
      } else if ('as' in answer) {
        record?.(path, FILE, number);
        cutShort ||= leavesEvpn;
        if (cutShort) unread.push({ file: FILE, line: number, text: line, why: TAKEN_AS_IPV4 });
      } else {
        cutShort = false;
        stack.push(answer);
        record?.(answer.path, FILE, number);
      }
      break;
    }
    if (!read) unread.push({ file: FILE, line: number, text: line, why });
  }

  const bySeq = <T extends { seq: number }>(a: T, b: T): number => a.seq - b.seq;
  const built = bgp as BgpDraft | null;
  return {
    hostname,
    l3Vnis,
    tracked,
    segments,
    bfdProfiles: bfd,
    prefixLists: [...prefixLists].map(([name, entries]) => ({ name, entries: entries.sort(bySeq) })),
    routeMaps: [...routeMaps].map(([name, entries]) => ({ name, entries: entries.sort(bySeq) })),
    ...(built
      ? {
          bgp: {
            ...built,
            policyRequired: policySaid ?? policyDefault,
            peers: sortPeers([...built.peers.values()]),
            evpn: { ...built.evpn, vnis: built.evpn.vnis.sort((a, b) => a.vni - b.vni) },
            vrfs: built.vrfs.sort((a, b) => naturally(a.vrf, b.vrf)),
          },
        }
      : {}),
  };
}
