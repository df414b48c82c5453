import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { networkDifferences } from '../ask/differences.ts';
import { compileFabric } from '../compile/compileFabric.ts';
import { POOLS } from '../demo/skerry.ts';
import { applyEdits } from '../intent/edits/index.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { judgeNetwork } from '../proof/judgeNetwork.ts';
import { modelFabric } from '../proof/proveChange.ts';
import { configsOf } from '../testing/fabricOf.ts';
import { policyIntents } from '../testing/policiesOf.ts';
import type { NetworkModel } from './networkModel.ts';
import { sameOuterMaps } from './outerMaps.ts';

const compiled = (intent: FabricIntent) => compileFabric(intent, configsOf(intent).drawn.values, POOLS);

describe('a map that tenants alone ask for', () => {
  test('leaves sessions and paths as they are, and everything else is as if computed anew', () => {
    let taken = 0;
    fc.assert(
      fc.property(policyIntents, fc.nat(2), fc.boolean(), (intent, i, keeps) => {
        const [was] = intent.policies.filter((p) => p.is === 'route-map' && p.name === `map-${i}`);
        if (was?.is !== 'route-map') return fc.pre(false);
        const entries = was.entries.map((e) => ({ ...e, permit: keeps ? e.permit : !e.permit, set: { metric: 99 } }));
        const { intent: other, findings } = applyEdits(intent, [{ kind: 'putPolicy', policy: { ...was, entries } }]);
        fc.pre(findings.length === 0);
        const before = modelFabric(compiled(intent));
        const judged = judgeNetwork(before);
        const after = compiled(other);
        const [next, anew]: NetworkModel[] = [modelFabric(after, before), modelFabric(after)];
        if (next!.sessions === before.sessions) taken++;
        expect(networkDifferences(next!, anew!)).toEqual([]);
        expect(judgeNetwork(next!, judged).findings).toEqual(judgeNetwork(anew!).findings);
      }),
      { numRuns: 60 },
    );
    // Of sixty about 45; the others are said of what is outside of tenants as well.
    expect(taken).toBeGreaterThan(15);
  });

  test('is none where anybody else says its name, or calls it', () => {
    const entry = { seq: 10, permit: true };
    const of = (metric: number, more: object = {}) =>
      ({
        routeMaps: [{ name: 'told', entries: [{ ...entry, set: { metric } }] }],
        bgp: { vrfs: [] },
        ...more,
      }) as never;
    const calling = (metric: number) => {
      const { routeMaps } = of(metric) as { routeMaps: object[] };
      return of(metric, { routeMaps: [...routeMaps, { name: 'outer', entries: [{ ...entry, call: 'told' }] }] });
    };
    const inTenant = { bgp: { peers: [], vrfs: [{ ipv4: { connected: { routeMap: 'told' } } }] } };
    const inPeers = { bgp: { peers: [], ipv4: { policies: [{ peer: '10.0.0.1', in: 'told' }] }, vrfs: [] } };
    expect([
      sameOuterMaps(of(1), of(1)),
      sameOuterMaps(of(1), of(2)),
      sameOuterMaps(of(1, inTenant), of(2, inTenant)),
    ]).toEqual([true, true, true]);
    expect([
      sameOuterMaps(of(1, inPeers), of(2, inPeers)),
      sameOuterMaps(of(1), of(2, inPeers)),
      sameOuterMaps(calling(1), calling(2)),
      sameOuterMaps(of(1, { ospf: { connected: { routeMap: 'told' } } }), of(2)),
    ]).toEqual([false, false, false, false]);
  });
});
