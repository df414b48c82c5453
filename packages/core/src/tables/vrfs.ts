import type { Vrf } from '../intent/intent.ts';
import { proposeTransitVlan } from '../intent/proposals.ts';
import { columnsOf, type Table } from './table.ts';

/** Name, and as far as said the L3 VNI and its VLAN: adds the VRF, or changes the one of that name. */
export const vrfTable: Table<'vrf'> = {
  kind: 'vrf',
  columns: columnsOf('vrf', {
    name: { called: ['vrf', 'tenant'] },
    transitVlan: { called: ['vlan', "l3 vni's vlan"] },
    vni: { called: ['vni'], implied: (v, _i, values) => values?.[`vrf:${v.name}/vni`] },
    connectedMap: {},
    staticMap: {},
    mostRoutes: { called: ['route limit', 'limit'] },
  }),
  reader: () => (row, now) => {
    const said = row as Partial<Vrf>;
    if (said.name === undefined) return 'The VRF has no name.';
    const known = now.vrfs.find((v) => v.name === said.name);
    return { key: said.name, item: { ...(known ?? { transitVlan: proposeTransitVlan(now) }), ...said } as Vrf };
  },
};
