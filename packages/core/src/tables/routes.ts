import { routeKey, type TenantRoute } from '../intent/intent.ts';
import { columnsOf, type Table } from './table.ts';

/** VRF, prefix, next hop (empty = dropped), racks, and as far as said the distance. */
export const routeTable: Table<'route'> = {
  kind: 'route',
  columns: columnsOf('route', {
    vrf: { called: ['tenant'] },
    prefix: { called: ['to'] },
    via: { called: ['next hop', 'gateway'] },
    racks: { called: ['on racks'] },
    distance: {},
    tag: {},
  }),
  reader: () => (row) => {
    const { vrf, prefix, via, racks, distance, tag } = row as Partial<TenantRoute>;
    if (vrf === undefined || prefix === undefined) return 'Write the VRF and the prefix.';
    if (racks === undefined || racks.length === 0) return 'Write the racks whose leaves say it.';
    const item: TenantRoute = {
      vrf,
      prefix,
      ...(via === undefined ? {} : { via }),
      racks,
      ...(distance === undefined ? {} : { distance }),
      ...(tag === undefined ? {} : { tag }),
    };
    return { key: routeKey(item), item };
  },
};
