import fc from 'fast-check';
import { expect, test } from 'vitest';
import { racksOf, racksText } from './racksText.ts';

test('racks are read back as they were written', () => {
  fc.assert(
    fc.property(fc.uniqueArray(fc.integer({ min: 1, max: 200 })), (racks) => {
      expect(racksOf(racksText(racks))).toEqual([...racks].sort((a, b) => a - b));
    }),
  );
  expect(racksOf('1-3, 7')).toEqual([1, 2, 3, 7]);
  expect(racksOf('1 to 3')).toBeNull();
});
