import type { SwitchConfig } from '../../config/switchConfig.ts';
import type { Finding } from '../../finding.ts';
import { TABLES, type TableName } from '../../hardware/tables.ts';
import { groupBy } from '../../numbers/order.ts';
import type { FabricRule } from '../rule.ts';

/** How much of each table a configuration takes. */
const TAKEN: Readonly<Record<TableName, (c: SwitchConfig) => number>> = {
  vnis: (c) => c.vxlans.length,
  vrfs: (c) => c.vrfs.length,
  lags: (c) => c.lags.length + c.ports.filter((p) => p.members).length,
  gateways: (c) => c.svis.filter((s) => s.addresses.length > 0 || s.ipv6Addresses !== undefined).length,
};

export const tablesHold: FabricRule = {
  id: 'tables-hold',
  title: 'No switch is asked to hold more than its tables do',
  severity: 'error',
  source: 'table sizes of the switch model',
  scope: 'layout',
  judge: ({ intent, compiled }) => {
    const models = new Map(intent.models.flatMap((m) => (m.tables ? [[m.name, m.tables] as const] : [])));
    if (models.size === 0) return [];
    const all = compiled.switches.flatMap(({ seat, config }) =>
      (Object.keys(TAKEN) as TableName[]).flatMap((table) => {
        const most = models.get(seat.model)?.[table];
        const taken = TAKEN[table](config);
        return most === undefined || taken <= most ? [] : [{ seat, table, most, taken }];
      }),
    );
    return [...groupBy(all, (t) => `${t.seat.model} ${t.table}`).values()].map((alike): Finding => {
      const worst = alike.reduce((a, b) => (b.taken > a.taken ? b : a));
      const { seat, table, most, taken } = worst;
      const more = alike.length === 1 ? '' : ` (and ${alike.length - 1} more switches have too many)`;
      return {
        rule: 'tables-hold',
        severity: 'error',
        message: `${seat.model} holds ${most} ${TABLES[table]}; ${seat.host} would have ${taken}${more}.`,
        cure: 'Carry networks on fewer racks, use a model that holds more, or mend what its model says.',
        host: seat.host,
        subjects: [`model:${seat.model}`],
      };
    });
  },
};
