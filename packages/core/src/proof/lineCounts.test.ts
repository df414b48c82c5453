import { diffLines } from 'diff';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { lineCounts } from './lineCounts.ts';

test('lines are counted as if nothing had been left out at both ends', () => {
  const text = fc
    .tuple(fc.array(fc.constantFrom('a', 'b', 'ab', ' a', ''), { maxLength: 12 }), fc.boolean())
    .map(([lines, ended]) => lines.join('\n') + (ended && lines.length > 0 ? '\n' : ''));
  fc.assert(
    fc.property(text, text, text, text, (head, a, b, tail) => {
      const [before, after] = [`${head}${a}${tail}`, `${head}${b}${tail}`];
      const [added, removed] = (['added', 'removed'] as const).map((way) =>
        diffLines(before, after).reduce((n, part) => n + (part[way] ? (part.count ?? 0) : 0), 0),
      );
      expect(lineCounts(before, after)).toEqual({ added, removed });
    }),
    { numRuns: 2000 },
  );
  expect(lineCounts('a\nb\nc\n', 'a\nx\ny\nc\n')).toEqual({ added: 2, removed: 1 });
});
