import fc from 'fast-check';
import { expect, test } from 'vitest';
import { Places } from './places.ts';

test('a fabric keeps its place, and no place has two more fabrics than another', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 4 }),
      fc.array(fc.constantFrom(...'abcdefgh'), { minLength: 1 }),
      (many, names) => {
        const places = new Places(many);
        const first = new Map<string, number>();
        for (const n of names) {
          const at = places.of(n);
          expect(at).toBe(first.get(n) ?? at);
          first.set(n, at);
        }
        const counts = Array.from({ length: many }, (_, i) => [...first.values()].filter((p) => p === i).length);
        expect(Math.max(...counts) - Math.min(...counts)).toBeLessThan(2);
      },
    ),
  );
});
