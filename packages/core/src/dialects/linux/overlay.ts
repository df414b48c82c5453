import { vxlanKey, type VxlanConfig } from '../../config/overlay.ts';
import { parseIpv4 } from '../../numbers/ipv4.ts';
import type { Draft } from './draft.ts';
import { vxlanName } from './names.ts';
import type { Sheet } from './sheet.ts';
import { word, type StanzaKind } from './stanzas.ts';
import { mtuWord, whole } from './words.ts';

const onOff = (on: boolean): string => (on ? 'on' : 'off');

/** Lines before the address of the tunnel, and after it. */
interface Halves {
  readonly of: VxlanConfig;
  readonly before: string;
  readonly after: string;
}
const MOST_HALVES = 20_000;
/** Made so far, by VNI: a VNI is the same on all switches, but for where its tunnel starts. */
const halves = new Map<number, Halves>();
const alike = (a: VxlanConfig, b: VxlanConfig): boolean =>
  a.vlan === b.vlan &&
  a.mtu === b.mtu &&
  a.learning === b.learning &&
  a.arpSuppression === b.arpSuppression &&
  a.called === b.called;

function halvesOf(v: VxlanConfig): Halves {
  const known = halves.get(v.vni);
  if (known && alike(known.of, v)) return known;
  const name = vxlanName(v);
  const made = {
    of: v,
    before: `\n\nauto ${name}\niface ${name}\n    vxlan-id ${v.vni}`,
    after:
      (v.vlan === undefined ? '' : `\n    bridge-access ${v.vlan}`) +
      `\n    bridge-learning ${onOff(v.learning)}\n    bridge-arp-nd-suppress ${onOff(v.arpSuppression)}` +
      (v.mtu === undefined ? '' : `\n    mtu ${v.mtu}`),
  };
  if (halves.size >= MOST_HALVES) halves.clear();
  halves.set(v.vni, made);
  return made;
}

const tunnelLine = (address: string): string => `\n    vxlan-local-tunnelip ${address}`;
function vxlanStanza(v: VxlanConfig): string {
  const { before, after } = halvesOf(v);
  return v.localAddress === undefined ? before + after : before + tunnelLine(v.localAddress) + after;
}

/** Stanzas of a whole switch but for the line of its address, which stands between each two of `parts`. */
interface Sheaf {
  readonly of: readonly VxlanConfig[];
  readonly parts: readonly string[];
}
/** What was written last: switches that carry the same follow one another. */
let last: Sheaf = { of: [], parts: [] };

function partsOf(of: readonly VxlanConfig[]): readonly string[] {
  if (of.length === last.of.length && of.every((v, i) => alike(v, last.of[i]!) && v.vni === last.of[i]!.vni))
    return last.parts;
  const all = of.map(halvesOf);
  const parts = all.map(({ before }, i) => (i === 0 ? '' : all[i - 1]!.after) + before);
  parts.push(all.at(-1)!.after);
  last = { of, parts };
  return parts;
}

export function writeVxlans(vxlans: readonly VxlanConfig[], sheet: Sheet): void {
  const address = vxlans[0]?.localAddress;
  if (address !== undefined && vxlans.every((v) => v.localAddress === address && v.called === undefined))
    sheet.count(partsOf(vxlans).join(tunnelLine(address)));
  else
    for (const v of vxlans)
      if (v.called === undefined) sheet.count(vxlanStanza(v));
      else sheet.say(vxlanStanza(v));
}

/** One less than a VNI may be (RFC 7348 §5). */
const MOST_VNI = 16777214;

export const vxlanKind: StanzaKind<Draft<VxlanConfig>> = {
  marks: ['vxlan-id'],
  open: (_, draft) => {
    const vxlan: Draft<VxlanConfig> = { vni: 0, learning: true, arpSuppression: false };
    draft.vxlans.push(vxlan);
    return vxlan;
  },
  words: {
    'vxlan-id': word('vni', (item, value) => {
      const vni = whole(value, 1, MOST_VNI);
      if (vni === null) return `ifupdown2 takes a VNI of 1–${MOST_VNI}`;
      item.vni = vni;
      return null;
    }),
    'vxlan-local-tunnelip': word('localAddress', (item, value) => {
      if (parseIpv4(value) === null) return 'it is not an IPv4 address';
      item.localAddress = value;
      return null;
    }),
    'bridge-access': word('vlan', (item, value) => {
      const vlan = whole(value, 1, 4094);
      if (vlan === null) return 'a VLAN is 1–4094';
      item.vlan = vlan;
      return null;
    }),
    'bridge-learning': word('learning', (item, value) => {
      item.learning = value === 'on';
      return null;
    }),
    'bridge-arp-nd-suppress': word('arpSuppression', (item, value) => {
      item.arpSuppression = value === 'on';
      return null;
    }),
    mtu: mtuWord(),
  },
  close: (vxlan, name) => {
    if (name !== vxlanName(vxlan)) vxlan.called = name;
  },
  place: (v) => ['vxlans', vxlanKey(v)],
  // A VNI is the same on all switches, but for where its tunnel starts.
  alike: (v) => v.localAddress !== undefined,
  take: (v, draft) => void draft.vxlans.push(v),
  own: {
    word: 'vxlan-local-tunnelip',
    with: (v, localAddress) => (parseIpv4(localAddress) === null ? null : { ...v, localAddress }),
  },
};
