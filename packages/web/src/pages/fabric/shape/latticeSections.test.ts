import {
  emptyIntent,
  layEdits,
  applyEdits,
  FABRIC_PATTERNS,
  DEMO_FABRICS,
  layOut,
  type FabricIntent,
} from '@anthemion/core';
import { intents, otherIntents, wideIntents } from '@anthemion/core/testing/fabricOf';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { latticeSections } from './latticeSections.ts';

const cablesIn = (intent: FabricIntent): string[] =>
  latticeSections(layOut(intent)).flatMap((s) => s.rows.flatMap((r) => [...r.cells.values()].flat().map((c) => c.id)));

test('whatever the shape, every cable is in one cell, between the two switches it joins, and no row or column is empty', () => {
  fc.assert(
    fc.property(fc.oneof(intents, otherIntents, wideIntents), (intent) => {
      const layout = layOut(intent);
      const all = [...layout.links.map((l) => l.id), ...layout.outward.map((o) => o.id)];
      expect(cablesIn(intent).toSorted()).toEqual(all.toSorted());
      const linkOf = new Map(layout.links.map((l) => [l.id, l]));
      for (const { columns, rows } of latticeSections(layout)) {
        for (const c of columns) expect(rows.some((r) => r.cells.has(c.key))).toBe(true);
        for (const { seat, cells } of rows)
          for (const [key, cables] of cells)
            for (const { id } of cables) {
              expect(columns.map((c) => c.key)).toContain(key);
              const link = linkOf.get(id);
              if (link) expect(link.a.seat).toBe(seat.id);
              const column = columns.find((c) => c.key === key)!;
              if (link && column.seat) expect(link.b.seat).toBe(column.seat.id);
            }
      }
    }),
    { numRuns: 40 },
  );
});

test('five stages: from the top down, a section for each pod, then pairs, then what is outside', () => {
  const sections = latticeSections(
    layOut(applyEdits(emptyIntent('holm', 'ho'), DEMO_FABRICS.find((f) => f.name === 'holm')!.edits()).intent),
  );
  expect(sections.map((s) => s.title)).toEqual([
    'Super-spines over spines',
    'Pod 1: spines over leaves',
    'Pod 2: spines over leaves',
    'Within racks',
    'Out of the fabric',
  ]);
  // A spine has no cell with itself.
  expect(sections[0]!.rows.map((r) => [r.seat.id, [...r.cells.keys()]])).toEqual([
    ['spine-1.1', ['super-spine-1.1']],
    ['spine-1.2', ['super-spine-2.1']],
    ['spine-2.1', ['super-spine-1.1']],
    ['spine-2.2', ['super-spine-2.1']],
  ]);
  expect(sections.at(-1)!.rows.flatMap((r) => [...r.cells.values()].flat().map((c) => c.words))).toEqual([
    'p46 – offing-2 eth1',
    'p46 – offing-2 eth2',
  ]);
});

test('switches that stand beside one another are against each other', () => {
  const alone = FABRIC_PATTERNS.find((p) => p.shape === 'collapsed')!;
  const [first] = latticeSections(layOut(applyEdits(emptyIntent('x', 'x'), layEdits(alone)).intent));
  expect(first!.title).toBe('Leaves side by side');
});
