import { vrfs } from '../collections/tenants.ts';
import type { Vrf } from '../intent.ts';
import { vrfSchema } from '../schemas/objects.ts';
import { checkVrf } from './checkTenants.ts';
import { editFields, exists, refuse, unless, type EditKindOf } from './edit.ts';

export interface AddVrf {
  readonly kind: 'addVrf';
  readonly vrf: Vrf;
}

export const addVrf: EditKindOf<AddVrf> = {
  kind: 'addVrf',
  schema: editFields('addVrf', { vrf: vrfSchema }),
  apply: (intent, { vrf }) =>
    intent.vrfs.some((v) => v.name === vrf.name)
      ? refuse(intent, exists('VRF', vrf.name, '/vrf/name'))
      : unless(checkVrf(intent, vrf), intent, () => vrfs.put(intent, vrf.name, vrf)),
  sentence: ({ vrf }) => `Add VRF ${vrf.name}`,
  subjects: ({ vrf }) => [`vrf:${vrf.name}`],
  makes: {
    of: 'vrf',
    add: (vrf) => ({ kind: 'addVrf', vrf }),
    // Its VLAN may be somebody else's on the way.
    anew: (is, was, from) =>
      from.vrfs.some((v) => v.name !== was.name && v.transitVlan === is.transitVlan) ||
      from.networks.some((n) => n.vlan === is.transitVlan),
  },
};
