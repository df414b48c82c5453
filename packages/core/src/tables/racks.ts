import type { Rack } from '../intent/intent.ts';
import { proposeRack } from '../intent/proposals.ts';
import { columnsOf, type Table } from './table.ts';

/** Number, pattern, place: adds the rack at the next free position, or says where the known one stands. */
export const rackTable: Table<'rack'> = {
  kind: 'rack',
  columns: columnsOf('rack', {
    number: { called: ['rack'] },
    pattern: {},
    place: { called: ['location', 'room'] },
    slot: { called: ['position'] },
    pod: {},
  }),
  reader: () => (row, now) => {
    const said = row as Partial<Rack>;
    if (said.number === undefined) return 'The rack has no number.';
    const known = now.racks.find((r) => r.number === said.number);
    const pattern = now.rackPatterns.find((p) => p.name === (said.pattern ?? known?.pattern));
    if (!pattern)
      return said.pattern === undefined
        ? `Rack ${said.number} has no pattern. Write one of ${now.rackPatterns.map((p) => p.name).join(', ')}.`
        : `There is no rack pattern ${said.pattern}. Write one of ${now.rackPatterns.map((p) => p.name).join(', ')}.`;
    if (known && pattern.name !== known.pattern)
      return `Rack ${said.number} is made by ${known.pattern}. Remove it first, or give the new one another number.`;
    if (known && said.pod !== undefined && said.pod !== known.pod)
      return `Rack ${said.number} stands in pod ${known.pod ?? 'none'}. Remove it first, or give the new one another number.`;
    if (known && said.slot !== undefined && said.slot !== known.slot)
      return `Rack ${said.number} has position ${known.slot}, where its cables are. Leave it there.`;
    const proposed = proposeRack(now, pattern, undefined, said.pod);
    return { key: String(said.number), item: { ...(known ?? proposed), ...said } };
  },
};
