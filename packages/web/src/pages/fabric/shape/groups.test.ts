import fc from 'fast-check';
import { expect, test } from 'vitest';
import { worstOf } from '../../../parts/moods.ts';
import { groupRacks, layGroups, RACKS_SHOWN, seedSpots, type GroupedRack } from './groups.ts';

const racks = (n: number, place: (i: number) => string = () => ''): GroupedRack[] =>
  Array.from({ length: n }, (_, i) => ({ rack: i + 1, place: place(i), seats: [`leaf-${i + 1}a`, `leaf-${i + 1}b`] }));

test('every rack is in exactly one group, and there are never more groups than petals', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 1200 }), (n) => {
      const groups = groupRacks(racks(n));
      expect(groups.length).toBeLessThanOrEqual(RACKS_SHOWN);
      expect(groups.flatMap((g) => g.racks)).toEqual(racks(n).map((r) => r.rack));
      expect(new Set(groups.map((g) => g.id)).size).toBe(groups.length);
    }),
  );
});

test('racks that say where they stand are grouped by that, when all do', () => {
  const halls = racks(60, (i) => `hall ${i % 3}`);
  expect(groupRacks(halls).map((g) => [g.name, g.racks.length])).toEqual([
    ['hall 0', 20],
    ['hall 1', 20],
    ['hall 2', 20],
  ]);
  expect(groupRacks([...halls, ...racks(1)])[0]!.name).toMatch(/^racks/);
});

test('every switch has a spot of its own inside the picture, at any size', () => {
  fc.assert(
    fc.property(fc.integer({ min: 25, max: 600 }), fc.integer({ min: 1, max: 32 }), (n, s) => {
      const groups = groupRacks(racks(n));
      const laid = layGroups(groups, [Array.from({ length: s }, (_, i) => `spine-${i + 1}`)], 760, 600);
      const seeds = laid.petals.flatMap((p) => p.seeds);
      expect(seeds.map((x) => x.seat).sort()).toEqual(groups.flatMap((g) => g.seats).sort());
      expect(new Set(seeds.map((x) => `${x.x.toFixed(2)} ${x.y.toFixed(2)}`)).size).toBe(seeds.length);
      for (const p of [...seeds, ...laid.spines]) {
        expect(p.x).toBeGreaterThan(0);
        expect(p.x).toBeLessThan(760);
        expect(p.y).toBeGreaterThan(0);
        expect(p.y).toBeLessThan(600);
      }
    }),
    { numRuns: 30 },
  );
});

test('seeds do not touch each other', () => {
  fc.assert(
    fc.property(fc.integer({ min: 2, max: 150 }), (n) => {
      const { spots, size } = seedSpots(n);
      expect(spots).toHaveLength(n);
      for (const [i, a] of spots.entries())
        for (const b of spots.slice(i + 1)) expect(Math.hypot(a.x - b.x, a.y - b.y)).toBeGreaterThan(2 * size);
    }),
    { numRuns: 30 },
  );
});

test('the worst is what one must know first', () => {
  expect(worstOf(['as meant', 'waiting', 'drifted', 'unread'])).toBe('drifted');
  expect(worstOf([])).toBe('as meant');
});
