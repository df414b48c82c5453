import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { planWaves, type RolloutTarget } from './planWaves.ts';

const leaf = (n: number, side?: 'a' | 'b', load = 0): RolloutTarget => ({
  host: `lf-${n}${side ?? ''}`,
  seat: `leaf-${n}${side ?? ''}`,
  role: 'leaf',
  model: 'L',
  dialect: 'linux',
  fate: 'changed',
  load,
  ...(side ? { side, peer: `leaf-${n}${side === 'a' ? 'b' : 'a'}` } : {}),
});
const spine = (n: number): RolloutTarget => ({
  host: `sp-${n}`,
  seat: `spine-${n}`,
  role: 'spine',
  model: 'S',
  dialect: 'linux',
  fate: 'changed',
  load: 0,
});
const options = { spineShare: 0.25, spines: 4, leavesPerWave: 100 };

const fleets = fc
  .record({ singles: fc.nat(4), pairs: fc.nat(4), halves: fc.nat(2), spines: fc.nat(8) })
  .map(({ singles, pairs, halves, spines }) => {
    const targets: RolloutTarget[] = [];
    let n = 1;
    for (let i = 0; i < singles; i++) targets.push(leaf(n++));
    for (let i = 0; i < pairs; i++, n++) targets.push(leaf(n, 'a', i), leaf(n, 'b', i));
    for (let i = 0; i < halves; i++) targets.push(leaf(n++, 'b'));
    for (let i = 1; i <= spines; i++) targets.push(spine(i));
    return { targets, spines };
  });

describe('waves', () => {
  test('each switch once; never both of a pair; never more than the share of spines', () => {
    fc.assert(
      fc.property(fleets, fc.constantFrom(0.25, 0.5), (fleet, spineShare) => {
        const together: [string, string][] = fleet.targets.slice(1).map((t, i) => [fleet.targets[i]!.host, t.host]);
        const waves = planWaves(fleet.targets, { spineShare, spines: fleet.spines, leavesPerWave: 3, together });
        expect(waves.flatMap((w) => w.hosts).sort()).toEqual(fleet.targets.map((t) => t.host).sort());
        for (const wave of waves) {
          const inWave = fleet.targets.filter((t) => wave.hosts.includes(t.host));
          expect(inWave.filter((t) => t.role === 'spine').length).toBeLessThanOrEqual(
            Math.max(1, Math.floor(fleet.spines * spineShare)),
          );
          for (const t of inWave) expect(inWave.map((x) => x.seat)).not.toContain(t.peer);
        }
      }),
    );
  });
  test('one canary of each kind, the least loaded; spines before leaves', () => {
    const waves = planWaves(
      [leaf(1, undefined, 9), leaf(2, undefined, 3), leaf(3, undefined, 5), spine(1), spine(2)],
      options,
    );
    expect(waves.map((w) => w.hosts)).toEqual([['lf-2', 'sp-1'], ['sp-2'], ['lf-1', 'lf-3']]);
  });
  test('removals go leaves first', () => {
    const gone = [leaf(1), leaf(2), leaf(3), spine(1), spine(2)].map((t) => ({ ...t, fate: 'gone' as const }));
    expect(planWaves(gone, options).map((w) => w.hosts)).toEqual([['lf-1', 'sp-1'], ['lf-2', 'lf-3'], ['sp-2']]);
  });
  test('both ends of a session that must change together share a wave', () => {
    const waves = planWaves([leaf(1), leaf(2), spine(1), leaf(3)], {
      ...options,
      together: [
        ['lf-2', 'lf-3'],
        ['lf-1', 'lf-2'],
      ],
    });
    expect(waves.map((w) => w.hosts)).toEqual([['lf-1', 'sp-1', 'lf-2'], ['lf-3']]);
  });
});
