import fc from 'fast-check';
import { expect, test } from 'vitest';
import { POOLS } from '../demo/skerry.ts';
import { judgeNetwork, modelFabric } from '../proof/proveChange.ts';
import { configsOf, otherIntents } from '../testing/fabricOf.ts';
import { compileFabric } from './compileFabric.ts';

test('what is laid out, written and read back is sound: every session up, every rule held', () => {
  const shapes = new Set<string>();
  fc.assert(
    fc.property(otherIntents, (intent) => {
      shapes.add(intent.shape!);
      const { drawn } = configsOf(intent);
      const compiled = compileFabric(intent, drawn.values, POOLS);
      expect(compiled.switches.flatMap((s) => [...s.findings, ...s.parsed.unread])).toEqual([]);
      const network = modelFabric(compiled);
      expect(network.sessions.filter((s) => !s.up).map((s) => `${s.host} ${s.peer}: ${s.reason}`)).toEqual([]);
      expect(network.sessions).toHaveLength(2 * compiled.cables.length);
      expect(judgeNetwork(network).findings).toEqual([]);
    }),
    { numRuns: 40 },
  );
  expect(shapes).toEqual(new Set(['five-stages', 'collapsed']));
});
