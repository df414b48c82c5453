import fc from 'fast-check';
import Papa from 'papaparse';
import { expect, test } from 'vitest';
import { csvOf, listText, pastedCells } from './csv.ts';

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
  expect(csvOf([[-3, 4]])).toBe('-3,4\n');
});

test('what is pasted from a spreadsheet is cells, one cell alone is text', () => {
  expect(pastedCells('p1\techo-801\np2\techo-802\n')).toEqual([
    ['p1', 'echo-801'],
    ['p2', 'echo-802'],
  ]);
  expect(pastedCells('p1,"echo, the first"')).toEqual([['p1', 'echo, the first']]);
  expect(pastedCells('echo-801')).toEqual([]);
});

test('a list that is read back here keeps every cell as it is, also one that an export would guard', () => {
  const rows = [
    ['serial', 'location'],
    ['TVL9001', '-2 floor, "old" hall'],
    ['TVL9002', '=store'],
  ];
  expect(Papa.parse<string[]>(listText(rows).trim()).data).toEqual(rows);
});
