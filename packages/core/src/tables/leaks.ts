import { leakKey, type Leak } from '../intent/intent.ts';
import { columnsOf, type Table } from './table.ts';

/** The VRF, the one it has routes of, and which (empty = the subnets of its networks). */
export const leakTable: Table<'leak'> = {
  kind: 'leak',
  columns: columnsOf('leak', {
    into: { called: ['into', 'tenant'] },
    from: { called: ['from', 'of'] },
    prefixes: { called: ['prefix'] },
  }),
  reader: () => (row) => {
    const { into, from, prefixes = [] } = row as Partial<Leak>;
    if (into === undefined || from === undefined) return 'Write the VRF, and the one it has routes of.';
    const item: Leak = { into, from, prefixes };
    return { key: leakKey(item), item };
  },
};
