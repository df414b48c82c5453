import type { LagConfig, PortConfig, SviConfig } from '../../config/interfaces.ts';
import { lagKey, sviKey } from '../../config/interfaces.ts';
import { FECS, type Fec } from '../../hardware/drive.ts';
import type { Cidr } from '../../numbers/ipv4.ts';
import { parseCidr } from '../../numbers/ipv4.ts';
import { familyOfText, formatAny, parseAnyCidr } from '../../numbers/prefix.ts';
import { isMac } from '../../numbers/mac.ts';
import { naturally } from '../../numbers/order.ts';
import { bridgedWords, bridgingLines } from './bridging.ts';
import type { ConfigDraft, Draft } from './draft.ts';
import { lagName, readLagName, sviName } from './names.ts';
import { ACTOR_SYSTEM_WORDS, actorSystemLine } from './pairing.ts';
import { readRouted, type LagDraft, type RoutedDraft } from './routedLags.ts';
import { isPlain, type Sheet } from './sheet.ts';
import { word, type StanzaKind } from './stanzas.ts';
import { aliasWord, mtuWord, readAddress, vrfWord, whole } from './words.ts';

const line = (key: string, value: string | number | undefined): string =>
  value === undefined ? '' : `\n    ${key} ${value}`;
const addressLines = (addresses: readonly Cidr[]): string => {
  let out = '';
  for (const a of addresses) out += `\n    address ${a}`;
  return out;
};

export const loopbackStanza = (loopbacks: readonly Cidr[], ipv6: readonly Cidr[] = []): string =>
  `\nauto lo\niface lo inet loopback${addressLines(loopbacks)}${addressLines(ipv6)}`;

export function writePort(p: PortConfig, sheet: Sheet): void {
  const alias = line('alias', p.description);
  const text = portStanza(p, alias);
  sheet.say(text, isPlain(p.name) && isPlain(p.vrf ?? '-') ? alias : text);
}
/** What ifupdown2 calls what corrects errors (3.0, `ethtool`). */
const FEC_NAMES: Readonly<Record<Fec, string>> = { rs: 'rs', 'base-r': 'baser', off: 'off' };
const MBITS = 1000;
const driveLines = ({ speed, fec }: PortConfig): string =>
  // Of most ports nothing is said.
  speed === undefined && fec === undefined
    ? ''
    : line('link-speed', speed === undefined ? undefined : speed * MBITS) +
      line('link-fec', fec === undefined ? undefined : FEC_NAMES[fec]);
const portStanza = (p: PortConfig, alias: string): string =>
  `\n\nauto ${p.name}\niface ${p.name}` +
  alias +
  (p.members === undefined ? '' : bondLines(p.members)) +
  addressLines(p.addresses) +
  addressLines(p.ipv6Addresses ?? []) +
  line('mtu', p.mtu) +
  driveLines(p) +
  (p.shut ? '\n    link-down yes' : '') +
  line('vrf', p.vrf) +
  bridgingLines(p.bridging);

const bondLines = (members: readonly string[]): string =>
  `\n    bond-slaves ${members.join(' ')}\n    bond-mode 802.3ad\n    bond-miimon 100\n    bond-lacp-rate 1`;

export function lagStanza(l: LagConfig): string {
  const name = lagName(l);
  return (
    `\n\nauto ${name}\niface ${name}` +
    line('alias', l.description) +
    bondLines(l.members) +
    actorSystemLine(l) +
    line('mtu', l.mtu) +
    bridgingLines(l.bridging)
  );
}

function sviStanza(s: SviConfig, bridge: string): string {
  const name = sviName(s);
  return (
    `\n\nauto ${name}\niface ${name}` +
    addressLines(s.addresses) +
    addressLines(s.ipv6Addresses ?? []) +
    (s.virtual
      ? `\n    address-virtual ${[s.virtual.mac, s.virtual.address, ...(s.virtual.ipv6Addresses ?? [])].join(' ')}`
      : '') +
    `\n    vlan-id ${s.vlan}\n    vlan-raw-device ${bridge}` +
    line('hwaddress', s.mac) +
    line('mtu', s.mtu) +
    line('vrf', s.vrf)
  );
}

/** Stanzas in a row, and those of them that stand for more than plain words. */
interface Run {
  readonly text: string;
  readonly words: string;
}
function runOf(svis: readonly SviConfig[], bridge: string): Run {
  const bridgeIsPlain = isPlain(bridge);
  let [text, words] = ['', ''];
  for (const s of svis) {
    const said = sviStanza(s, bridge);
    text += said;
    if (!bridgeIsPlain || !isPlain(s.called ?? '-') || !isPlain(s.vrf ?? '-')) words += said;
  }
  return { text, words };
}

/** What was written last, and the run of it that the switch before began with as well. */
let last: { readonly svis: readonly SviConfig[]; readonly bridge: string; readonly shared: number; readonly run: Run } =
  {
    svis: [],
    bridge: '',
    shared: 0,
    run: { text: '', words: '' },
  };

/** Gateways are the same on every switch, often the very objects; such a run of them is written once. */
export function writeSvis(svis: readonly SviConfig[], bridge: string, sheet: Sheet): void {
  let shared = 0;
  if (bridge === last.bridge) while (shared < svis.length && svis[shared] === last.svis[shared]) shared++;
  const run = shared === last.shared && bridge === last.bridge ? last.run : runOf(svis.slice(0, shared), bridge);
  last = { svis, bridge, shared, run };
  const own = runOf(svis.slice(shared), bridge);
  sheet.say(run.text + own.text, run.words + own.words);
}

const addressWord = word<{ addresses: readonly Cidr[]; ipv6Addresses?: readonly Cidr[] }>('addresses', (item, value) =>
  readAddress(
    value,
    (a) => (item.addresses = [...item.addresses, a]),
    (a) => (item.ipv6Addresses = [...(item.ipv6Addresses ?? []), a]),
  ),
);

export const loopbackKind: StanzaKind<ConfigDraft> = {
  marks: [],
  open: (_, draft) => draft,
  words: {
    address: word(undefined, (draft, value) =>
      readAddress(
        value,
        (a) => draft.loopbacks.push(a),
        (a) => (draft.ipv6Loopbacks = [...(draft.ipv6Loopbacks ?? []), a]),
      ),
    ),
  },
  place: () => ['loopbacks'],
  everywhere: true,
};

export const portKind: StanzaKind<Draft<PortConfig>> = {
  marks: [],
  open: (name, draft) => {
    const port: Draft<PortConfig> = { name, addresses: [] };
    draft.ports.push(port);
    return port;
  },
  words: {
    alias: aliasWord(),
    address: addressWord,
    mtu: mtuWord(),
    'link-speed': word('speed', (item, value) => {
      const speed = whole(value, 10, 400 * MBITS);
      if (speed === null) return 'it is a number of Mb/s';
      item.speed = speed / MBITS;
      return null;
    }),
    'link-fec': word('fec', (item, value) => {
      // Of itself, as the line has it.
      if (value === 'auto') return null;
      const fec = FECS.find((f) => FEC_NAMES[f] === value);
      if (fec === undefined) return 'it is rs, baser, auto or off';
      item.fec = fec;
      return null;
    }),
    vrf: vrfWord(),
    'link-down': word('shut', (item, value) => {
      if (value !== 'yes' && value !== 'no') return 'it is yes or no';
      if (value === 'yes') item.shut = true;
      return null;
    }),
    ...bridgedWords,
  },
  place: (p) => ['ports', p.name],
};

export const lagKind: StanzaKind<LagDraft> = {
  marks: ['bond-slaves'],
  open: (name, draft) => {
    const lag: LagDraft = { ...readLagName(name), members: [] };
    draft.lags.push(lag);
    return lag;
  },
  words: {
    alias: aliasWord(),
    'bond-slaves': word('members', (item, value) => {
      item.members = value.split(/\s+/).filter(Boolean).sort(naturally);
      return null;
    }),
    'bond-mode': word(undefined, (_, value) =>
      value === '802.3ad' || value === '4' ? null : 'a LAG here speaks LACP: 802.3ad',
    ),
    'bond-miimon': word(undefined, (_, value) =>
      whole(value, 0, 1e9) === null ? 'it is a number of milliseconds' : null,
    ),
    'bond-lacp-rate': word(undefined, (_, value) => (/^(0|1|fast|slow)$/.test(value) ? null : 'it is 0 or 1')),
    ...ACTOR_SYSTEM_WORDS,
    mtu: mtuWord(),
    address: word('addresses', (lag, value, line) =>
      readRouted(lag, `address ${value}`, line, (routed) => addressWord.read(routed, value, line)),
    ),
    vrf: word('vrf', (lag, value, line) =>
      readRouted(lag, `vrf ${value}`, line, (routed) => vrfWord<RoutedDraft>().read(routed, value, line)),
    ),
    ...bridgedWords,
  },
  place: (l) => ['lags', lagKey(l)],
};

export const sviKind: StanzaKind<Draft<SviConfig>> = {
  marks: ['vlan-id', 'vlan-raw-device'],
  open: (name, draft) => {
    const svi: Draft<SviConfig> = { vlan: Number(/(?<!\d)\d+$/.exec(name)?.[0] ?? 0), addresses: [] };
    draft.svis.push(svi);
    return svi;
  },
  words: {
    'vlan-id': word('vlan', (item, value) => {
      const vlan = whole(value, 1, 4094);
      if (vlan === null) return 'a VLAN is 1–4094';
      item.vlan = vlan;
      return null;
    }),
    'vlan-raw-device': word(undefined, () => null),
    address: addressWord,
    'address-virtual': word('virtual', (item, value) => {
      const [mac = '', ...said] = value.split(/\s+/);
      const ipv6 = said.flatMap((a) => (familyOfText(a) === 6 ? (parseAnyCidr(a) ?? []) : []));
      const [address, more] = said.filter((a) => familyOfText(a) === 4);
      if (!isMac(mac.toLowerCase()) || address === undefined || more !== undefined || !parseCidr(address))
        return 'it takes a MAC and one address of IPv4 with its length, then those of IPv6';
      item.virtual = {
        mac: mac.toLowerCase(),
        address,
        ...(ipv6.length > 0 ? { ipv6Addresses: ipv6.map(formatAny) } : {}),
      };
      return null;
    }),
    hwaddress: word('mac', (item, value) => {
      const mac = value.replace(/^ether\s+/, '').toLowerCase();
      if (!isMac(mac)) return 'it is not a MAC address';
      item.mac = mac;
      return null;
    }),
    vrf: vrfWord(),
    mtu: mtuWord(),
  },
  close: (svi, name) => {
    if (name !== sviName(svi)) svi.called = name;
  },
  place: (s) => ['svis', sviKey(s)],
  // An anycast gateway is the same on every switch.
  alike: (s) => s.addresses.length > 0 || s.ipv6Addresses !== undefined,
  take: (s, draft) => void draft.svis.push(s),
};
