import fc from 'fast-check';
import { expect, test } from 'vitest';
import { rehearsalCut } from './rehearsalCut.ts';

const leaves = ['l1', 'l2', 'l3', 'l4', 'l5'];
const spines = ['s1', 's2', 's3'];
const cables = leaves.flatMap((l) =>
  spines.map((s, i) => ({ a: { host: l, port: `p${i + 1}` }, b: { host: s, port: `p${l}` } })),
);
const all = [...spines, ...leaves];
const cut = (changed: readonly string[], most: number): string[] => rehearsalCut(all, new Set(changed), cables, most);

test('what changes runs with those beside it; of many that change half of the room', () => {
  expect(cut(['l2'], 20)).toEqual(all);
  expect(cut(['l2'], 4)).toEqual(['s1', 's2', 's3', 'l2']);
  // Three of the four that change, and of the spines as many as there is room for.
  expect(cut(['l1', 'l3', 'l4', 'l5'], 5)).toEqual(['s1', 's2', 'l1', 'l3', 'l4']);
  expect(cut(['l1', 'l3', 'l4', 'l5'], 4)).toEqual(['s1', 's2', 'l1', 'l3']);
  expect(cut(['s2'], 3)).toEqual(['s2', 'l1', 'l2']);
  expect(rehearsalCut(['a', 'b', 'c'], new Set(['a', 'b', 'c']), [], 2)).toEqual(['a', 'b']);
});

test('never more than there is room for, all of them where there is, and something that changes', () => {
  fc.assert(
    fc.property(fc.subarray(all, { minLength: 1 }), fc.integer({ min: 1, max: 9 }), (changed, most) => {
      const run = cut(changed, most);
      expect(run).toHaveLength(Math.min(most, all.length));
      expect(new Set(run).size).toBe(run.length);
      expect(run.some((h) => changed.includes(h))).toBe(true);
    }),
  );
});
