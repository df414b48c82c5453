import { sameContent } from '../../numbers/content.ts';
import { networks } from '../collections/tenants.ts';
import type { Network } from '../intent.ts';
import { networkSchema } from '../schemas/objects.ts';
import { checkNetwork, inOrder } from './checkTenants.ts';
import { editFields, exists, refuse, unless, type EditKindOf } from './edit.ts';

export interface AddNetwork {
  readonly kind: 'addNetwork';
  readonly network: Network;
}

export const addNetwork: EditKindOf<AddNetwork> = {
  kind: 'addNetwork',
  schema: editFields('addNetwork', { network: networkSchema }),
  apply: (intent, { network }) =>
    intent.networks.some((n) => n.name === network.name)
      ? refuse(intent, exists('network', network.name, '/network/name'))
      : unless(checkNetwork(intent, network), intent, () => networks.put(intent, network.name, inOrder(network))),
  sentence: ({ network }) =>
    network.vrf === ''
      ? `Add network ${network.name}, bridged only`
      : `Add network ${network.name} to VRF ${network.vrf}`,
  subjects: ({ network }) => [`network:${network.name}`],
  makes: {
    of: 'network',
    add: (network) => ({ kind: 'addNetwork', network }),
    // VLAN, VNI and subnet may be exchanged between two, so both leave theirs first.
    anew: (is, was) =>
      (['vlan', 'vrf', 'vni', 'subnet', 'subnet6', 'furtherSubnets'] as const).some(
        (field) => !sameContent(is[field], was[field]),
      ),
  },
};
