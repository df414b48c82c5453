import { SKERRY_POOLS } from '../demo/skerry.ts';
import type { Edit } from '../intent/edits/index.ts';
import type { OutsideNeighbour } from '../intent/intent.ts';
import { intentOf, LAY_BORDER } from './fabricOf.ts';

/** A border pair with tenants, whose halves are joined to a router outside; nobody speaks to it yet. */

/** Two tenants with a network each in a rack, and a router outside joined to both halves of the border. */
export const joinedBorder = intentOf(
  LAY_BORDER,
  { kind: 'choosePools', pools: SKERRY_POOLS },
  { kind: 'addVrf', vrf: { name: 'tides', transitVlan: 4001 } },
  { kind: 'addVrf', vrf: { name: 'charts', transitVlan: 4002 } },
  { kind: 'addNetwork', network: { name: 'gauges', vrf: 'tides', vlan: 20, subnetLength: 24, racks: [2], mtu: 9000 } },
  { kind: 'addNetwork', network: { name: 'maps', vrf: 'charts', vlan: 30, subnetLength: 24, racks: [2] } },
  { kind: 'joinOutside', link: { rack: 1, side: 'a', port: 'p46', system: 'offing-1', farPort: 'eth1' } },
  { kind: 'joinOutside', link: { rack: 1, side: 'b', port: 'p46', system: 'offing-1', farPort: 'eth2' } },
);

/** Has the first half speak to the router in the first tenant, but for what is said otherwise. */
export const putNeighbourOf = (of: Partial<OutsideNeighbour> = {}): Edit => ({
  kind: 'putNeighbour',
  neighbour: {
    rack: 1,
    side: 'a',
    port: 'p46',
    vrf: 'tides',
    address: '192.0.2.0/31',
    far: '192.0.2.1',
    asn: 64701,
    takes: [],
    tells: [],
    ...of,
  },
});
