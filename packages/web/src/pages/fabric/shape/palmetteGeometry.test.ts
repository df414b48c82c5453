import fc from 'fast-check';
import { expect, test } from 'vitest';
import { arcsFor, layPalmette, type PetalInput } from './palmetteGeometry.ts';

const racks = (n: number): PetalInput[] =>
  Array.from({ length: n }, (_, i) => ({
    rack: i + 1,
    seats: i % 3 === 0 ? [`leaf-${i}a`, `leaf-${i}b`] : [`leaf-${i}`],
  }));

test('every seat has a place inside the picture, at any size', () => {
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 1000 }), fc.integer({ min: 0, max: 32 }), (n, s) => {
      const fan = layPalmette(
        racks(n),
        [Array.from({ length: s }, (_, i) => `spine-${i + 1}`), ['super-spine-1.1']].slice(0, 1 + (n % 2)),
        760,
        600,
      );
      expect(fan.petals.map((p) => p.rack)).toEqual(racks(n).map((r) => r.rack));
      expect(fan.spines).toHaveLength(s + (n % 2));
      for (const point of [...fan.spines, ...fan.petals.flatMap((p) => p.leaves)]) {
        expect(point.x).toBeGreaterThan(0);
        expect(point.x).toBeLessThan(760);
        expect(point.y).toBeGreaterThan(0);
        expect(point.y).toBeLessThan(600);
      }
    }),
    { numRuns: 40 },
  );
});

test('a small fabric is one arc at full size, a large one takes more and smaller ones', () => {
  expect(arcsFor(8)).toBe(1);
  expect(arcsFor(1000)).toBeGreaterThan(5);
  expect(layPalmette(racks(8), [], 760, 600).petals[0]!.scale).toBe(1);
  expect(layPalmette(racks(500), [], 760, 600).petals[0]!.scale).toBeLessThan(0.5);
});

test('no two leaves stand on one spot', () => {
  const leaves = layPalmette(racks(200), [['spine-1']], 760, 600).petals.flatMap((p) => p.leaves);
  expect(new Set(leaves.map((l) => `${l.x.toFixed(1)} ${l.y.toFixed(1)}`)).size).toBe(leaves.length);
});
