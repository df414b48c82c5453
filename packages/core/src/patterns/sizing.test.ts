import { describe, expect, test } from 'vitest';
import { FABRIC_PATTERNS, layEdits, MODELS, RACK_PATTERNS } from '../demo/skerry.ts';
import { sizePattern } from './sizing.ts';
import { applyEdits } from '../intent/edits/index.ts';
import { emptyIntent } from '../intent/intent.ts';

describe('patterns', () => {
  const parts = { models: MODELS, rackPatterns: RACK_PATTERNS };
  test('sizing of Skerry', () => {
    const size = sizePattern(FABRIC_PATTERNS[0]!, parts);
    expect(size).toMatchObject({
      switches: 14,
      links: 40,
      tiers: [{ tier: 'spine', switches: 4, portsNeeded: 10, portsFitted: 32 }],
      largestLeaves: 32,
      draws: { spineAsns: 1, leafAsns: 10, loopbacks: 14, vteps: 10, linkPrefixes: 0 },
      findings: [],
    });
    // 48 × 25G over 4 × 100G, and over 3 × 100G with a spine lost.
    expect(size.rackSizings[0]).toMatchObject({ oversubscription: 3, oversubscriptionSpineLost: 4 });
  });
  test('with spanning tree the links to one switch above carry everything, before and after a loss', () => {
    const quiet = FABRIC_PATTERNS.find((p) => p.shape === 'switched')!;
    const size = (of: object) => sizePattern({ ...quiet, ...of }, parts);
    expect(size({})).toMatchObject({
      switches: 6,
      links: 8,
      draws: { spineAsns: 0, leafAsns: 0, loopbacks: 0, vteps: 0 },
    });
    // 48 × 25G over 1 × 100G.
    expect(size({}).rackSizings[0]).toMatchObject({ oversubscription: 12, oversubscriptionSpineLost: 12 });
    expect(size({ parallel: 2 }).rackSizings[0]).toMatchObject({ oversubscription: 6, oversubscriptionSpineLost: 6 });
    const one = size({ spines: { ...quiet.spines, count: 1 } });
    expect(one.rackSizings[0]).toMatchObject({ oversubscription: 12, oversubscriptionSpineLost: null });
    expect(size({ racks: [{ pattern: 'pair-48', count: 1 }] }).findings.map((f) => [f.path, f.cure])).toEqual([
      ['/racks/0/pattern', 'Use racks of one leaf.'],
    ]);
  });
  test('ten thousand racks are sized at once, and laid out only when they can be', () => {
    const huge = { ...FABRIC_PATTERNS[0]!, racks: [{ pattern: 'single-48', count: 10_000 }] };
    const before = process.cpuUsage();
    const size = sizePattern(huge, parts);
    const { user, system } = process.cpuUsage(before);
    // A second is what one waits; it takes less than one thousandth of it.
    expect((user + system) / 1e6).toBeLessThan(1);
    expect(size).toMatchObject({ switches: 10_004, links: 40_000, largestLeaves: 32 });
    expect(size.findings.map((f) => f.cure)).toEqual(['Use at most 32 leaves, or a spine model with more ports.']);
    const laid = applyEdits(emptyIntent('x', 'x'), layEdits(huge));
    expect(laid.findings[0]).toMatchObject({ path: '/pattern/racks', cure: 'Make it two fabrics.' });
  });
  test('a pattern that needs more ports than a model has says where and how far it may go', () => {
    const pattern = {
      ...FABRIC_PATTERNS[0]!,
      spines: { count: 9, model: 'TV-S32C' },
      racks: [{ pattern: 'single-48', count: 40 }],
    };
    expect(sizePattern(pattern, parts).findings.map((f) => [f.path, f.message])).toEqual([
      ['/racks/0/pattern', 'single-48 has 8 uplinks; 9 spines × 1 need 9.'],
      ['/spines/model', '40 leaves × 1 links need 40 ports on every spine; TV-S32C has 32.'],
    ]);
  });
});
