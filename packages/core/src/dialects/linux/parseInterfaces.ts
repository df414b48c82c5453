import type {
  Bridging,
  LagConfig,
  PortConfig,
  SviConfig,
  SwitchConfig,
  VrfConfig,
  VxlanConfig,
} from '../../config/switchConfig.ts';
import { naturally } from '../../numbers/order.ts';
import { parseCidr, parseIpv4 } from '../../numbers/ipv4.ts';
import { isMac } from '../../numbers/mac.ts';
import type { LineRecorder, UnreadLine } from '../dialect.ts';

const FILE = 'interfaces';

interface Line {
  readonly number: number;
  readonly key: string;
  readonly value: string;
}
interface Stanza {
  readonly name: string;
  readonly number: number;
  readonly lines: Line[];
}

export type InterfacesPart = Pick<SwitchConfig, 'loopbacks' | 'ports' | 'lags' | 'bridge' | 'vxlans' | 'vrfs' | 'svis'>;

/** Writable twin of a readonly type, for building. */
type Draft<T> = { -readonly [K in keyof T]: T[K] };

const isNumber = (text: string): boolean => /^\d+$/.test(text);
const isWhole = (text: string, from: number, to: number): boolean =>
  isNumber(text) && Number(text) >= from && Number(text) <= to;

/** `10 20-22` → [10, 20, 21, 22], or null. */
function parseVids(text: string): number[] | null {
  const out: number[] = [];
  for (const word of text.split(/\s+/)) {
    const m = /^(\d+)(?:-(\d+))?$/.exec(word);
    if (!m) return null;
    const from = Number(m[1]);
    const to = Number(m[2] ?? m[1]);
    if (from < 1 || to > 4094 || to < from) return null;
    for (let v = from; v <= to; v++) out.push(v);
  }
  return out.sort((a, b) => a - b);
}

function readStanzas(text: string, unread: UnreadLine[]): Stanza[] {
  const stanzas = new Map<string, Stanza>();
  let current: Stanza | null = null;
  let number = 0;
  let start = 0;
  while (start < text.length) {
    let end = text.indexOf('\n', start);
    if (end < 0) end = text.length;
    number++;
    const line = text.slice(start, end).trim();
    start = end + 1;
    if (line === '' || line.charCodeAt(0) === 35) continue;
    const space = line.search(/\s/);
    const key = space < 0 ? line : line.slice(0, space);
    const value = space < 0 ? '' : line.slice(space).trim();
    if (key === 'auto' || key === 'allow-hotplug') {
      current = null;
      continue;
    }
    if (key === 'iface') {
      const name = value.split(/\s+/)[0]!;
      const known = stanzas.get(name);
      current = known ?? { name, number, lines: [] };
      if (!known) stanzas.set(name, current);
      continue;
    }
    if (key === 'source' || !current) {
      unread.push({ file: FILE, line: number, text: line, why: 'it stands outside a stanza' });
      continue;
    }
    current.lines.push({ number, key, value });
  }
  return [...stanzas.values()];
}

/** Reads an ifupdown2 `interfaces` file. What kind of interface a stanza makes follows from its words. */
export function parseInterfaces(text: string, unread: UnreadLine[], record?: LineRecorder): InterfacesPart {
  const loopbacks: string[] = [];
  const ports: PortConfig[] = [];
  const lags: LagConfig[] = [];
  const vxlans: VxlanConfig[] = [];
  const vrfs: VrfConfig[] = [];
  const svis: SviConfig[] = [];
  let bridge: InterfacesPart['bridge'];

  for (const stanza of readStanzas(text, unread)) {
    const has = (key: string): boolean => stanza.lines.some((l) => l.key === key);
    const refuse = (l: Line, why: string): void => {
      unread.push({ file: FILE, line: l.number, text: `${l.key} ${l.value}`.trim(), why });
    };
    /** Walks the lines with a reader per keyword; a reader answers null for good, or why the value is wrong. */
    const walk = (
      path: string,
      readers: Readonly<Record<string, (value: string, path: string) => string | null>>,
    ): void => {
      record?.(path, FILE, stanza.number);
      record?.(path, FILE, stanza.number - 1);
      for (const l of stanza.lines) {
        const reader = readers[l.key];
        const why = reader ? reader(l.value, path) : `${l.key} is not a word for this kind of interface`;
        if (why !== null) refuse(l, why);
        else record?.(`${path}.${l.key}`, FILE, l.number);
      }
    };
    const address =
      (into: string[]) =>
      (value: string): string | null => {
        const cidr = parseCidr(value.split(/\s+/)[0]!);
        if (!cidr) return 'it is not an address with its length';
        into.push(value.split(/\s+/)[0]!);
        return null;
      };
    const mtu =
      (draft: { mtu?: number }) =>
      (value: string): string | null => {
        if (!isWhole(value, 68, 65535)) return 'an MTU is 68–65535';
        draft.mtu = Number(value);
        return null;
      };
    const bridgingReaders = (set: (b: Draft<Bridging>) => void) => {
      let draft: Draft<Bridging> | null = null;
      const bridging = (): Draft<Bridging> => {
        if (!draft) set((draft = { tagged: [] }));
        return draft;
      };
      const vlan = (value: string): string | null => {
        if (!isWhole(value, 1, 4094)) return 'a VLAN is 1–4094';
        bridging().untagged = Number(value);
        return null;
      };
      return {
        'bridge-access': vlan,
        'bridge-pvid': vlan,
        'bridge-vids': (value: string): string | null => {
          const vids = parseVids(value);
          if (!vids) return 'VLANs are 1–4094';
          bridging().tagged = vids;
          return null;
        },
        'bridge-allow-untagged': (value: string): string | null =>
          value === 'yes' || value === 'no' ? null : 'it is yes or no',
      };
    };
    const text1 =
      (set: (value: string) => void) =>
      (value: string): null => {
        set(value);
        return null;
      };

    if (stanza.name === 'lo') {
      walk('loopbacks', { address: address(loopbacks) });
    } else if (has('vxlan-id')) {
      const v: Draft<VxlanConfig> = { name: stanza.name, vni: 0, learning: true, arpSuppression: false };
      walk(`vxlans.${stanza.name}`, {
        'vxlan-id': (value) => {
          if (!isWhole(value, 1, 16777215)) return 'a VNI is 1–16777215';
          v.vni = Number(value);
          return null;
        },
        'vxlan-local-tunnelip': (value) => {
          if (parseIpv4(value) === null) return 'it is not an IPv4 address';
          v.localAddress = value;
          return null;
        },
        'bridge-access': (value) => {
          if (!isWhole(value, 1, 4094)) return 'a VLAN is 1–4094';
          v.vlan = Number(value);
          return null;
        },
        'bridge-learning': text1((value) => (v.learning = value === 'on')),
        'bridge-arp-nd-suppress': text1((value) => (v.arpSuppression = value === 'on')),
        mtu: mtu(v),
      });
      vxlans.push(v);
    } else if (has('vlan-id') || has('vlan-raw-device')) {
      const addresses: string[] = [];
      const s: Draft<SviConfig> = {
        name: stanza.name,
        vlan: Number(/(?<!\d)\d+$/.exec(stanza.name)?.[0] ?? 0),
        addresses,
      };
      walk(`svis.${stanza.name}`, {
        'vlan-id': (value) => {
          if (!isWhole(value, 1, 4094)) return 'a VLAN is 1–4094';
          s.vlan = Number(value);
          return null;
        },
        'vlan-raw-device': () => null,
        address: address(addresses),
        'address-virtual': (value) => {
          const [mac = '', cidr = ''] = value.split(/\s+/);
          if (!isMac(mac.toLowerCase()) || !parseCidr(cidr)) return 'it takes a MAC and an address with its length';
          s.virtual = { mac: mac.toLowerCase(), address: cidr };
          return null;
        },
        hwaddress: (value) => {
          const mac = value.replace(/^ether\s+/, '').toLowerCase();
          if (!isMac(mac)) return 'it is not a MAC address';
          s.mac = mac;
          return null;
        },
        vrf: text1((value) => (s.vrf = value)),
        mtu: mtu(s),
      });
      svis.push(s);
    } else if (has('vrf-table')) {
      walk(`vrfs.${stanza.name}`, { 'vrf-table': () => null });
      vrfs.push({ name: stanza.name });
    } else if (has('bridge-ports') || has('bridge-vlan-aware')) {
      const b = { name: stanza.name, members: [] as string[], vlans: [] as number[] };
      walk('bridge', {
        'bridge-vlan-aware': (value) => (value === 'yes' ? null : 'the bridge must be VLAN-aware'),
        'bridge-ports': text1((value) => (b.members = value.split(/\s+/).filter(Boolean).sort(naturally))),
        'bridge-vids': (value) => {
          const vids = parseVids(value);
          if (!vids) return 'VLANs are 1–4094';
          b.vlans = vids;
          return null;
        },
        'bridge-stp': (value) => (/^(on|off|yes|no)$/.test(value) ? null : 'it is on or off'),
      });
      bridge = b;
    } else if (has('bond-slaves')) {
      const l: Draft<LagConfig> = { name: stanza.name, members: [] };
      walk(`lags.${stanza.name}`, {
        alias: text1((value) => (l.description = value)),
        'bond-slaves': text1((value) => (l.members = value.split(/\s+/).filter(Boolean).sort(naturally))),
        'bond-mode': (value) => (value === '802.3ad' || value === '4' ? null : 'a LAG here speaks LACP: 802.3ad'),
        'bond-miimon': (value) => (isNumber(value) ? null : 'it is a number of milliseconds'),
        'bond-lacp-rate': (value) => (/^(0|1|fast|slow)$/.test(value) ? null : 'it is 0 or 1'),
        'bond-ad-actor-system': (value) => (isMac(value.toLowerCase()) ? null : 'it is not a MAC address'),
        mtu: mtu(l),
        ...bridgingReaders((b) => (l.bridging = b)),
      });
      lags.push(l);
    } else {
      const addresses: string[] = [];
      const p: Draft<PortConfig> = { name: stanza.name, addresses };
      walk(`ports.${stanza.name}`, {
        alias: text1((value) => (p.description = value)),
        address: address(addresses),
        mtu: mtu(p),
        'link-speed': () => null,
        'link-down': (value) => {
          if (value !== 'yes' && value !== 'no') return 'it is yes or no';
          if (value === 'yes') p.shut = true;
          return null;
        },
        ...bridgingReaders((b) => (p.bridging = b)),
      });
      ports.push(p);
    }
  }
  return {
    loopbacks,
    ports: ports.sort((a, b) => naturally(a.name, b.name)),
    lags: lags.sort((a, b) => naturally(a.name, b.name)),
    ...(bridge ? { bridge } : {}),
    vxlans: vxlans.sort((a, b) => a.vni - b.vni),
    vrfs: vrfs.sort((a, b) => naturally(a.name, b.name)),
    svis: svis.sort((a, b) => a.vlan - b.vlan),
  };
}
