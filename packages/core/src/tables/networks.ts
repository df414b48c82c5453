import { proposeVlan } from '../intent/proposals.ts';
import type { Network } from '../intent/intent.ts';
import { columnsOf, type Table } from './table.ts';

const DEFAULT_LENGTH = 24;

/** Name, VRF, and as far as said VLAN, VNI, subnet, MTU, racks: adds the network, or changes the one of that name. */
export const networkTable: Table<'network'> = {
  kind: 'network',
  columns: columnsOf('network', {
    name: { called: ['network'] },
    vrf: { called: ['tenant'] },
    vlan: {},
    vni: { implied: (n, _i, values) => values?.[`network:${n.name}/vni`] },
    subnet: { called: ['prefix'], implied: (n, _i, values) => values?.[`network:${n.name}/subnet`] },
    mtu: { implied: (_n, intent, values) => (values ? String(intent.settings.tenantMtu) : undefined) },
    racks: { called: ['rack'] },
    subnetLength: {},
    families: {},
    subnet6: { called: ['ipv6 prefix'], implied: (n, _i, values) => values?.[`network:${n.name}/subnet6`] },
    furtherSubnets: {},
  }),
  reader: () => (row, now) => {
    const said = row as Partial<Network>;
    if (said.name === undefined) return 'The network has no name.';
    const known = now.networks.find((n) => n.name === said.name);
    if (said.vrf === undefined && !known) return `${said.name} has no VRF. Write it in the second column.`;
    const length = /\/(\d{1,2})$/.exec(said.subnet ?? '')?.[1];
    const sized = {
      ...said,
      ...(length === undefined ? {} : { subnetLength: Number(length) }),
      // Who gives it a subnet of IPv6 wants that beside the other.
      ...(said.subnet6 === undefined || said.families || known?.families ? {} : { families: 'both' }),
    };
    const base: Omit<Network, 'name' | 'vrf'> = known ?? {
      vlan: proposeVlan(now),
      subnetLength: DEFAULT_LENGTH,
      racks: now.racks.map((r) => r.number),
    };
    return { key: said.name, item: { ...base, ...sized } as Network };
  },
};
