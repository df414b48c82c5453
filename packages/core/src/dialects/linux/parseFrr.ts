import { sortPeers } from '../../config/deriveConfigs.ts';
import type { PrefixListEntry, RouteMapEntry, SwitchConfig } from '../../config/switchConfig.ts';
import { parseCidr } from '../../numbers/ipv4.ts';
import { isMac } from '../../numbers/mac.ts';
import { naturally } from '../../numbers/order.ts';
import type { LineRecorder, UnreadLine } from '../dialect.ts';
import { bgpReaders, type BgpDraft, type VrfDraft } from './frr/bgpBlocks.ts';
import { isEvpn, whole, type Block, type Draft } from './frr/blocks.ts';

const FILE = 'frr.conf';

/** What `frr.conf` says; what belongs to interfaces (segments, tracking, L3 VNIs) is given by name for merging. */
export interface FrrPart extends Pick<SwitchConfig, 'bfdProfiles' | 'prefixLists' | 'routeMaps' | 'bgp'> {
  readonly hostname: string;
  readonly l3Vnis: ReadonlyMap<string, { readonly vni?: number; readonly line: number }>;
  readonly tracked: ReadonlySet<string>;
  readonly segments: ReadonlyMap<string, { readonly number?: number; readonly systemMac?: string }>;
}

const TAKEN_AS_IPV4 = 'EVPN does not take it: FRR puts it, and the lines after it, into IPv4 unicast without a word';

/** Reads FRR's integrated configuration; blocks nest as vtysh nests them, whatever the indentation. */
export function parseFrr(text: string, unread: UnreadLine[], record?: LineRecorder): FrrPart {
  let hostname = '';
  let policyDefault = true;
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
  const { bgpBlock, bgpVrfBlock } = bgpReaders(mark);

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
            policySaid: null,
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
  const bgpOf = ({ policySaid, ...b }: BgpDraft): FrrPart['bgp'] => ({
    ...b,
    policyRequired: policySaid ?? policyDefault,
    peers: sortPeers([...b.peers.values()]),
    evpn: { ...b.evpn, vnis: b.evpn.vnis.sort((x, y) => x.vni - y.vni) },
    vrfs: b.vrfs.sort((x, y) => naturally(x.vrf, y.vrf)),
  });
  return {
    hostname,
    l3Vnis,
    tracked,
    segments,
    bfdProfiles: bfd,
    prefixLists: [...prefixLists].map(([name, entries]) => ({ name, entries: entries.sort(bySeq) })),
    routeMaps: [...routeMaps].map(([name, entries]) => ({ name, entries: entries.sort(bySeq) })),
    ...(built ? { bgp: bgpOf(built) } : {}),
  };
}
