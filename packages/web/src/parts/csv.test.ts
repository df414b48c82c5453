import fc from 'fast-check';
import Papa from 'papaparse';
import { expect, test } from 'vitest';
import { csvCell, csvOf } from './csv.ts';

test('promise 9: no cell of an export is run as a formula, and nothing of it is lost', () => {
  const cell = fc.oneof(
    fc.string({ unit: 'binary' }),
    fc.constantFrom('=1+1', '+cmd', '-2', '@x', '\t=1', '|x', ' =HYPERLINK("x")'),
  );
  fc.assert(
    fc.property(fc.array(fc.array(cell, { minLength: 2, maxLength: 4 }), { minLength: 1 }), (rows) => {
      const read = Papa.parse<string[]>(csvOf(rows).slice(0, -1), { delimiter: ',', newline: '\n' }).data;
      expect(read.map((r) => r.map((c) => (/^'[\t\r ]*[=+\-@|%]/.test(c) ? c.slice(1) : c)))).toEqual(rows);
      for (const c of read.flat()) expect(/^[\t\r ]*[=+\-@|%]/.test(c)).toBe(false);
    }),
  );
  expect(csvCell(-3)).toBe('-3');
});
