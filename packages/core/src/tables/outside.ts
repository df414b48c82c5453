import { outsideKey, type OutsideLink } from '../intent/intent.ts';
import { columnsOf, keptWhereUnsaid, type Table } from './table.ts';

/** System, its port, rack, port, and as far as said leaf and whether it is another site: joins it. */
export const outsideTable: Table<'outside'> = {
  kind: 'outside',
  columns: columnsOf('outside', {
    system: { called: ['leads to', 'name'] },
    farPort: { called: ['far port'] },
    rack: { read: (text) => Number(/^(?:rack-?)?(\d{1,4})$/i.exec(text)?.[1] ?? Number.NaN) || null },
    side: { called: ['on'], read: (text) => /^(?:leaf )?([ab])$/i.exec(text)?.[1]?.toLowerCase() ?? null },
    port: {},
    lag: { called: ['lag'] },
    to: { read: (text) => (/^(another )?site$/i.test(text) ? 'site' : /^outside$/i.test(text) ? undefined : null) },
    shut: { called: ['state'] },
    speed: { called: ['gb/s'] },
    fec: {},
  }),
  reader: () => (row, now) => {
    const { system, farPort, rack, port, side = 'a', to } = row as Partial<OutsideLink>;
    if (system === undefined || farPort === undefined) return 'Write the system and its port.';
    if (rack === undefined || port === undefined) return 'Write the rack and the port the cable leaves by.';
    const known = now.outside.find((o) => outsideKey(o) === outsideKey({ rack, side, port }));
    const item: OutsideLink = {
      rack,
      side,
      port,
      ...(to === undefined ? {} : { to }),
      system,
      farPort,
      ...keptWhereUnsaid(row, known, ['lag', 'shut', 'speed', 'fec']),
    };
    return known && known.system !== system
      ? `${port} of rack ${rack} leads to ${known.system}. Choose another port.`
      : { key: outsideKey(item), item };
  },
};
