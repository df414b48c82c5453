import fc from 'fast-check';
import { expect, test } from 'vitest';
import { POOLS } from '../demo/skerry.ts';
import { FABRIC_SHAPES, isRouted, ledByOspf, shapeOf } from '../patterns/patterns.ts';
import { judgeNetwork } from '../proof/judgeNetwork.ts';
import { modelFabric } from '../proof/proveChange.ts';
import { configsOf, otherIntents, singleIntents, wideIntents } from '../testing/fabricOf.ts';
import { compileFabric } from './compileFabric.ts';

test('what is laid out, written and read back is sound: every session up, every rule held', () => {
  const shapes = new Set<string>();
  fc.assert(
    fc.property(fc.oneof(otherIntents, wideIntents, singleIntents), (intent) => {
      shapes.add(shapeOf(intent));
      const { drawn, layout } = configsOf(intent);
      const compiled = compileFabric(intent, drawn.values, POOLS);
      expect(compiled.switches.flatMap((s) => [...s.findings, ...s.parsed.unread])).toEqual([]);
      const network = modelFabric(compiled);
      expect(network.sessions.filter((s) => !s.up).map((s) => `${s.host} ${s.peer}: ${s.reason}`)).toEqual([]);
      // Between loopbacks there is one for two switches on different floors, however many cables join them; on one floor each speaks to all.
      const joined = new Set(layout.links.flatMap((l) => (l.kind === 'fabric' ? `${l.a.seat} ${l.b.seat}` : [])));
      const n = layout.seats.length;
      const between = shapeOf(intent) === 'collapsed' ? (n * (n - 1)) / 2 : joined.size;
      const each = ledByOspf(intent.settings) ? between : compiled.cables.length;
      expect(network.sessions).toHaveLength(isRouted(intent) ? 2 * each : 0);
      expect(judgeNetwork(network).findings).toEqual([]);
    }),
    { numRuns: 80 },
  );
  expect(shapes).toEqual(new Set(FABRIC_SHAPES));
});
