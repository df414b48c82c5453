import fc from 'fast-check';
import { expect, test } from 'vitest';
import { alikeRouters, settlePaths, type PathEdge, type PathRouter } from './pathVector.ts';

/** Some tiers, each cabled to the next but for a few cables, with AS numbers and ids in any order. */
const networks = fc
  .record({
    tiers: fc.array(fc.integer({ min: 1, max: 5 }), { minLength: 2, maxLength: 4 }),
    asns: fc.infiniteStream(fc.constantFrom(0, 0, 0, 0, 7, 8)),
    ids: fc.infiniteStream(fc.integer({ min: 1, max: 1000 })),
    relaxed: fc.infiniteStream(fc.constantFrom(true, true, true, false)),
    widths: fc.infiniteStream(fc.constantFrom(64, 64, 2)),
    allowances: fc.infiniteStream(fc.constantFrom(0, 0, 0, 0, 0, 0, 1)),
    missing: fc.infiniteStream(fc.constantFrom(false, false, false, false, false, true)),
    more: fc.array(fc.tuple(fc.nat(19), fc.nat(19)), { maxLength: 2 }),
  })
  .map((g) => {
    const take = <T>(from: Iterator<T>): T => from.next().value as T;
    const routers: PathRouter[] = [];
    const tiers = g.tiers.map((n) =>
      Array.from({ length: n }, () => {
        const shared = take(g.asns);
        const asn = shared === 0 ? 65000 + routers.length : shared;
        return (
          routers.push({ asn, routerId: take(g.ids), maximumPaths: take(g.widths), multipathRelax: take(g.relaxed) }) -
          1
        );
      }),
    );
    const pairs = tiers.flatMap((tier, i) =>
      tier.flatMap((a) => (tiers[i + 1] ?? []).flatMap((b) => (take(g.missing) ? [] : [[a, b] as const]))),
    );
    for (const [a, b] of g.more) if (a < b && b < routers.length) pairs.push([a, b]);
    const edges = pairs.flatMap(([a, b]): PathEdge[] => [
      { from: a, to: b, ownAsAllowed: take(g.allowances) },
      { from: b, to: a, ownAsAllowed: take(g.allowances) },
    ]);
    return { routers, edges };
  });

test('settling one of those that are alike gives exactly what settling each gives', () => {
  let [withLike, all] = [0, 0];
  fc.assert(
    fc.property(networks, ({ routers, edges }) => {
      const each = new Int32Array(routers.length).fill(-1);
      expect([...settlePaths(routers, edges).counts]).toEqual([...settlePaths(routers, edges, each).counts]);
      all++;
      if (alikeRouters(routers, edges).some((c) => c >= 0)) withLike++;
    }),
    { numRuns: 1500 },
  );
  // It is no test of nothing: about a fifth of these networks have some, which swings by a few in a hundred.
  expect(withLike / all).toBeGreaterThan(0.1);
});

test('leaves of one fabric are alike; who shares an AS number, has another neighbour or other words is not', () => {
  const router = (asn: number, more: Partial<PathRouter> = {}): PathRouter => ({
    asn,
    routerId: asn,
    maximumPaths: 64,
    multipathRelax: true,
    ...more,
  });
  const routers = [router(1), router(1), router(2), router(3), router(4), router(5, { maximumPaths: 2 }), router(6)];
  const both = (a: number, b: number): PathEdge[] => [
    { from: a, to: b, ownAsAllowed: 0 },
    { from: b, to: a, ownAsAllowed: 0 },
  ];
  const edges = [2, 3, 4, 5].flatMap((l) => [...both(0, l), ...both(1, l)]).concat(both(0, 6));
  expect([...alikeRouters(routers, edges)]).toEqual([-1, -1, 0, 0, 0, -1, -1]);
});
