import type { OutsideNeighbour } from '../intent/intent.ts';
import { neighbourKey } from '../intent/neighbourPlace.ts';
import { columnsOf, type Table } from './table.ts';

/**
 * Rack, port, VRF, both addresses and the AS number, and as far as said leaf, what is told both ways, the limit, the secret, BFD, the VLAN, the route maps and
 * the words of its session.
 */
export const neighbourTable: Table<'neighbour'> = {
  kind: 'neighbour',
  columns: columnsOf('neighbour', {
    rack: { read: (text) => Number(/^(?:rack-?)?(\d{1,4})$/i.exec(text)?.[1] ?? Number.NaN) || null },
    side: { called: ['on'], read: (text) => /^(?:leaf )?([ab])$/i.exec(text)?.[1]?.toLowerCase() ?? null },
    port: {},
    vrf: { called: ['tenant'] },
    address: { called: ['address'] },
    far: { called: ['neighbour'] },
    loopback: {},
    hops: {},
    asn: { called: ['AS', 'ASN'] },
    takes: { called: ['takes'] },
    tells: { called: ['tells'] },
    limit: { called: ['limit'] },
    password: { called: ['secret'] },
    bfd: {},
    vlan: { called: ['tag'] },
    mapIn: { called: ['in'] },
    mapOut: { called: ['out'] },
    aggregates: {},
    originate: {},
    hold: {},
    ttlSecurity: {},
    localAs: {},
    ownAs: {},
    asOverride: {},
    closed: {},
  }),
  reader: () => (row) => {
    const {
      rack,
      side = 'a',
      port,
      vrf,
      address,
      far,
      asn,
      takes = [],
      tells = [],
      ...more
    } = row as Partial<OutsideNeighbour>;
    if (rack === undefined || port === undefined) return 'Write the rack and the port the router is joined to.';
    if (vrf === undefined) return 'Write the VRF that speaks to it.';
    if (address === undefined || far === undefined || asn === undefined)
      return 'Write our address with its length, its address and its AS number.';
    const item: OutsideNeighbour = { rack, side, port, vrf, address, far, asn, takes, tells, ...more };
    return { key: neighbourKey(item), item };
  },
};
