import { vxlanKey, type VxlanConfig } from '../../config/overlay.ts';
import { parseIpv4 } from '../../numbers/ipv4.ts';
import type { Draft } from './draft.ts';
import { vxlanName } from './names.ts';
import type { Sheet } from './sheet.ts';
import { word, type StanzaKind } from './stanzas.ts';
import { mtuWord, whole } from './words.ts';

const onOff = (on: boolean): string => (on ? 'on' : 'off');

function vxlanStanza(v: VxlanConfig): string {
  const name = vxlanName(v);
  return (
    `\n\nauto ${name}\niface ${name}\n    vxlan-id ${v.vni}` +
    (v.localAddress === undefined ? '' : `\n    vxlan-local-tunnelip ${v.localAddress}`) +
    (v.vlan === undefined ? '' : `\n    bridge-access ${v.vlan}`) +
    `\n    bridge-learning ${onOff(v.learning)}\n    bridge-arp-nd-suppress ${onOff(v.arpSuppression)}` +
    (v.mtu === undefined ? '' : `\n    mtu ${v.mtu}`)
  );
}

export function writeVxlan(v: VxlanConfig, sheet: Sheet): void {
  if (v.called === undefined) sheet.count(vxlanStanza(v));
  else sheet.say(vxlanStanza(v));
}

export const vxlanKind: StanzaKind<Draft<VxlanConfig>> = {
  marks: ['vxlan-id'],
  open: (_, draft) => {
    const vxlan: Draft<VxlanConfig> = { vni: 0, learning: true, arpSuppression: false };
    draft.vxlans.push(vxlan);
    return vxlan;
  },
  words: {
    'vxlan-id': word('vni', (item, value) => {
      const vni = whole(value, 1, 16777215);
      if (vni === null) return 'a VNI is 1–16777215';
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
};
