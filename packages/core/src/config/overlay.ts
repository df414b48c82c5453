import { hostPart, type Ipv4 } from '../numbers/ipv4.ts';
import type { VlanId, Vni } from '../numbers/vni.ts';
import { networkVniKey, vrfVniKey, vtepKey, type ValueKey } from '../pools/demands.ts';
import { patternCause, type Cause, type ConfigSection, type OriginContext } from './section.ts';
import { onceFor } from '../onceFor.ts';
import type { Carriage } from './carriage.ts';

/** A VXLAN interface: one VNI on one VLAN. */
export interface VxlanConfig {
  readonly vni: Vni;
  /** Name on the switch, where it is not the one the dialect gives. */
  readonly called?: string;
  readonly vlan?: VlanId;
  readonly localAddress?: Ipv4;
  readonly learning: boolean;
  readonly arpSuppression: boolean;
  readonly mtu?: number;
}
export interface OverlayPart {
  /** By VNI. */
  readonly vxlans: readonly VxlanConfig[];
}

export const vxlanKey = (v: Pick<VxlanConfig, 'vni' | 'called'>): string => v.called ?? String(v.vni);
/** What people call a VXLAN interface. */
export const vxlanWords = (v: Pick<VxlanConfig, 'vni' | 'called'>): string => v.called ?? `VNI ${v.vni}`;

const carried = onceFor(({ networks, vrfs }: Carriage) =>
  [
    ...networks.flatMap(({ vni, vlan, mtu }) => (vni === undefined ? [] : [{ vni, vlan, mtu }])),
    ...vrfs.map((v) => ({ vni: v.vni, vlan: v.vrf.transitVlan, mtu: v.mtu })),
  ].sort((a, b) => a.vni - b.vni),
);

/** The network or VRF a VNI was drawn for. */
export function vniCause(vni: string, context: OriginContext): Cause {
  const { intent, values } = context;
  const network = intent.networks.find((n) => values.get(networkVniKey(n.name)) === vni);
  if (network) return vniOf(`network:${network.name}`, `network ${network.name}`, networkVniKey(network.name));
  const vrf = intent.vrfs.find((v) => values.get(vrfVniKey(v.name)) === vni);
  return vrf ? vniOf(`vrf:${vrf.name}`, `VRF ${vrf.name}`, vrfVniKey(vrf.name)) : patternCause(context);
}
const vniOf = (subject: Cause['subject'], label: string, key: ValueKey): Cause => ({
  subject,
  label,
  key,
  role: 'vni',
});

export const overlay: ConfigSection<OverlayPart> = {
  blank: { vxlans: [] },
  derive: ({ routing, carriage }) => {
    if (!routing) return { vxlans: [] };
    const localAddress = routing.vtep === undefined ? undefined : hostPart(routing.vtep);
    return {
      vxlans: carried(carriage).map(({ vni, vlan, mtu }) => ({
        vni,
        vlan,
        localAddress,
        learning: false,
        arpSuppression: true,
        mtu,
      })),
    };
  },
  members: { vxlans: { key: vxlanKey, word: 'VXLAN interface' } },
  words: {
    localAddress: 'VTEP address',
    learning: 'address learning',
    arpSuppression: 'ARP suppression',
    vni: 'VNI',
  },
  causeOf: ([, name = '', field = ''], context) => {
    const cause = vniCause(name, context);
    if (field === '' || field === 'vni') return cause;
    const plain = { subject: cause.subject, label: cause.label };
    return field === 'localAddress' ? { ...plain, key: vtepKey(context.seat.id), role: 'vtep' } : plain;
  },
};
