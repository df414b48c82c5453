import type { Vni } from '../numbers/vni.ts';
import { vrfVniKey } from '../pools/demands.ts';
import type { ConfigSection } from './section.ts';
import { onceFor } from '../onceFor.ts';
import type { Carriage } from './carriage.ts';

export interface VrfConfig {
  readonly name: string;
  readonly l3Vni?: Vni;
}
export interface VrfsPart {
  readonly vrfs: readonly VrfConfig[];
  /** L3 VNI of what is in no VRF; absent = none. It is no VNI of a VLAN any more. */
  readonly outsideL3Vni?: Vni;
}

const carried = onceFor(({ vrfs }: Carriage) => vrfs.map((v): VrfConfig => ({ name: v.vrf.name, l3Vni: v.vni })));

export const vrfs: ConfigSection<VrfsPart> = {
  blank: { vrfs: [] },
  derive: ({ carriage }) => ({ vrfs: carried(carriage) }),
  members: { vrfs: { key: (v: VrfConfig) => v.name, word: 'VRF' } },
  words: { l3Vni: 'L3 VNI', outsideL3Vni: 'L3 VNI of the default VRF' },
  causeOf: ([part, name = '', field]) => ({
    // None of the intent has one outside of its VRFs.
    subject: part === 'outsideL3Vni' ? 'fabric' : `vrf:${name}`,
    label: `VRF ${name}`,
    ...(field === 'l3Vni' ? { key: vrfVniKey(name), role: 'vni' as const } : {}),
  }),
};
