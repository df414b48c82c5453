import fc from 'fast-check';
import { expect, test } from 'vitest';
import { POOLS } from '../demo/skerry.ts';
import { FABRIC_SHAPES, isRouted, shapeOf } from '../patterns/patterns.ts';
import { judgeNetwork } from '../proof/judgeNetwork.ts';
import { modelFabric } from '../proof/proveChange.ts';
import { configsOf, otherIntents, wideIntents } from '../testing/fabricOf.ts';
import { compileFabric } from './compileFabric.ts';

test('what is laid out, written and read back is sound: every session up, every rule held', () => {
  const shapes = new Set<string>();
  fc.assert(
    fc.property(fc.oneof(otherIntents, wideIntents), (intent) => {
      shapes.add(shapeOf(intent));
      const { drawn } = configsOf(intent);
      const compiled = compileFabric(intent, drawn.values, POOLS);
      expect(compiled.switches.flatMap((s) => [...s.findings, ...s.parsed.unread])).toEqual([]);
      const network = modelFabric(compiled);
      expect(network.sessions.filter((s) => !s.up).map((s) => `${s.host} ${s.peer}: ${s.reason}`)).toEqual([]);
      expect(network.sessions).toHaveLength(isRouted(intent) ? 2 * compiled.cables.length : 0);
      expect(judgeNetwork(network).findings).toEqual([]);
    }),
    { numRuns: 80 },
  );
  expect(shapes).toEqual(new Set(FABRIC_SHAPES));
});
