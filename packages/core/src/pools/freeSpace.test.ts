import fc from 'fast-check';
import { expect, test } from 'vitest';
import { FreeSpace } from './freeSpace.ts';

/** A block aligned to its size within 0–255. */
const blocks = fc.tuple(fc.integer({ min: 0, max: 5 }), fc.nat(255)).map(([bits, at]) => {
  const size = 2 ** bits;
  const from = at - (at % size);
  return { from, to: from + size - 1 };
});

test('answers as a plain list of 256 flags does', () => {
  fc.assert(
    fc.property(
      fc.array(blocks, { maxLength: 30 }),
      fc.integer({ min: 0, max: 5 }),
      fc.nat(255),
      fc.nat(255),
      (taken, bits, a, b) => {
        const space = new FreeSpace();
        const flags = new Array<boolean>(256).fill(false);
        for (const block of taken) {
          space.take(block);
          flags.fill(true, block.from, block.to + 1);
        }
        const range = { from: Math.min(a, b), to: Math.max(a, b) };
        const size = 2 ** bits;
        let first: number | null = null;
        for (let at = Math.ceil(range.from / size) * size; at + size - 1 <= range.to; at += size)
          if (!flags.slice(at, at + size).includes(true)) {
            first = at;
            break;
          }
        expect(space.firstFree(range, size)).toBe(first);
        expect(space.takenIn(range)).toBe(flags.slice(range.from, range.to + 1).filter(Boolean).length);
        expect(space.isFree(range)).toBe(!flags.slice(range.from, range.to + 1).includes(true));
      },
    ),
    { numRuns: 300 },
  );
});
