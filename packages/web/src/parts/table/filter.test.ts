import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { completions, filterRows, readFilter } from './filter.ts';

interface Port {
  readonly name: string;
  readonly vlan: number;
  readonly state: string;
}
const columns = [
  { id: 'name', title: 'Port', text: (p: Port) => p.name },
  { id: 'vlan', title: 'VLAN', text: (p: Port) => p.vlan },
  { id: 'state', title: 'Its state', text: (p: Port) => p.state },
];
const rows: Port[] = [
  { name: 'p1', vlan: 20, state: 'as meant' },
  { name: 'p10', vlan: 210, state: 'drifted' },
  { name: 'p11', vlan: 300, state: 'unread' },
];
const names = (query: string): string[] => filterRows(rows, readFilter(query, columns), columns).map((r) => r.name);

describe('the typed filter', () => {
  test.each([
    ['', ['p1', 'p10', 'p11']],
    ['p1', ['p1', 'p10', 'p11']],
    ['port=p1', ['p1']],
    ['vlan>200', ['p10', 'p11']],
    ['vlan>200 -state:drifted', ['p11']],
    ['its-state:"as meant"', ['p1']],
    ['state:"as m', ['p1']],
    ['nothing:here', []],
    ['-drifted -unread', ['p1']],
    ['vlan<x', []],
  ])('%s', (query, found) => expect(names(query)).toEqual(found));

  test('a term and its opposite part the rows, whatever is typed', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 12 }), (word) => {
        fc.pre(/^[^\s"-]\S*$/.test(word) && !word.includes('"'));
        // A column with its sign and nothing after it says nothing yet.
        fc.pre(readFilter(word, columns).length > 0);
        expect([...names(word), ...names(`-${word}`)].sort()).toEqual(['p1', 'p10', 'p11']);
      }),
    );
  });

  test('the last word is completed: first the column, then its values with how many rows have them', () => {
    expect(completions('vl', rows, columns)).toEqual([{ insert: 'vlan:', note: 'VLAN' }]);
    expect(completions('p1 -its', rows, columns)).toEqual([{ insert: 'p1 -its-state:', note: 'Its state' }]);
    expect(completions('state:', rows, columns).map((c) => c.insert)).toEqual([
      'state:"as meant" ',
      'state:drifted ',
      'state:unread ',
    ]);
    expect(completions('state:d', rows, columns)).toEqual([{ insert: 'state:drifted ', note: '1' }]);
    expect(completions('', rows, columns)).toEqual([]);
  });
});
