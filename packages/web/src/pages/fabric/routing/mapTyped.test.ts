import { policyIntents } from '@anthemion/core/testing/policiesOf';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { mapOf, typedEntry } from './mapTyped.ts';

test('a route map that is opened and sent again is the same; what is empty says nothing', () => {
  fc.assert(
    fc.property(policyIntents, ({ policies }) => {
      for (const p of policies)
        if (p.is === 'route-map') expect(mapOf({ name: p.name, entries: p.entries.map(typedEntry) })).toEqual(p);
    }),
    { numRuns: 30 },
  );
  const blank = typedEntry({ seq: 10, permit: true });
  const typed = {
    ...blank,
    set: { ...blank.set, communities: ' 64701:7,no-export ', how: 'add' as const, prepend: '64710 x' },
  };
  expect(mapOf({ name: 'any', entries: [typed, { ...typed, seq: 20, way: 'deny' }] }).entries).toEqual([
    // What is no number is left for the schema to refuse.
    { seq: 10, permit: true, set: { prepend: [64710, 'x'], communities: ['64701:7', 'no-export'], additive: true } },
    { seq: 20, permit: false },
  ]);
});
