import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { planWaves, type RolloutTarget } from './planWaves.ts';

const leaf = (n: number, side?: 'a' | 'b', load = 0): RolloutTarget => ({
  host: `lf-${n}${side ?? ''}`,
  seat: `leaf-${n}${side ?? ''}`,
  floor: 0,
  called: 'leaves',
  groups: [],
  model: 'L',
  dialect: 'linux',
  fate: 'changed',
  load,
  ...(side ? { side, peer: `leaf-${n}${side === 'a' ? 'b' : 'a'}` } : {}),
});
const above = (n: number, floor: number, stands: string): RolloutTarget => ({
  host: `${stands.replaceAll(' ', '')}-${n}`,
  seat: `${stands}-${n}`,
  floor,
  called: floor === 1 ? 'spines' : 'super-spines',
  groups: [stands],
  model: 'S',
  dialect: 'linux',
  fate: 'changed',
  load: 0,
});
const spine = (n: number): RolloutTarget => ({ ...above(n, 1, 'spine'), host: `sp-${n}` });
const options = { share: 0.25, standing: new Map([['spine', 4]]), servedPerWave: 100 };

const fleets = fc
  .record({
    singles: fc.nat(4),
    pairs: fc.nat(4),
    halves: fc.nat(2),
    borders: fc.nat(5),
    groups: fc.array(fc.record({ floor: fc.integer({ min: 1, max: 2 }), size: fc.integer({ min: 1, max: 8 }) }), {
      maxLength: 4,
    }),
  })
  .map(({ singles, pairs, halves, borders, groups }) => {
    const targets: RolloutTarget[] = [];
    let n = 1;
    for (let i = 0; i < singles; i++) targets.push(leaf(n++));
    for (let i = 0; i < pairs; i++, n++) targets.push(leaf(n, 'a', i), leaf(n, 'b', i));
    for (let i = 0; i < halves; i++) targets.push(leaf(n++, 'b'));
    const standing = new Map<string, number>(
      groups.map((g, i) => [`${g.floor === 1 ? 'spine' : 'super-spine'} ${i}`, g.size]),
    );
    for (const [stands, size] of [...standing])
      for (let i = 1; i <= size; i++) targets.push(above(i, stands.startsWith('super') ? 2 : 1, stands));
    for (let i = 0; i < borders; i++)
      targets.push({ ...leaf(n++), groups: i === 0 ? ['border', 'site-gateway'] : ['border'] });
    standing.set('border', borders);
    standing.set('site-gateway', Math.min(1, borders));
    return { targets, standing };
  });

describe('waves', () => {
  test('each switch once; never both of a pair; never more than the share of those that stand in for one another or have one duty', () => {
    fc.assert(
      fc.property(fleets, fc.constantFrom(0.25, 0.5), fc.nat(3), (fleet, share, sets) => {
        const together = [fleet.targets.slice(0, sets), fleet.targets.slice(sets, 2 * sets)].map((set) =>
          set.map((t) => t.host),
        );
        const waves = planWaves(fleet.targets, { share, standing: fleet.standing, servedPerWave: 3, together });
        expect(waves.flatMap((w) => w.hosts).sort()).toEqual(fleet.targets.map((t) => t.host).sort());
        // Who has to be sent together is, and before the others; one alone goes with those.
        const whole = together.filter((set) => set.length > 1);
        expect(waves.flatMap((w) => (w.together ? [w.hosts] : []))).toEqual(whole);
        expect(waves.slice(0, whole.length).every((w) => w.together)).toBe(true);
        for (const wave of waves.slice(whole.length)) {
          const inWave = fleet.targets.filter((t) => wave.hosts.includes(t.host));
          for (const [stands, size] of fleet.standing)
            expect(inWave.filter((t) => t.groups.includes(stands)).length).toBeLessThanOrEqual(
              Math.max(1, Math.floor(size * share)),
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
  test('five stages: super-spines, then the spines of all pods side by side, then leaves; removals the other way', () => {
    const supers = [1, 2].flatMap((n) => ['super-spine 1', 'super-spine 2'].map((s) => above(n, 2, s)));
    const spines = [1, 2].flatMap((n) => ['spine 1', 'spine 2'].map((s) => above(n, 1, s)));
    const standing = new Map([...supers, ...spines].map((t) => [t.groups[0]!, 2]));
    const waves = planWaves([leaf(1), leaf(2), ...spines, ...supers], { ...options, standing });
    expect(waves.map((w) => w.hosts)).toEqual([
      ['lf-1', 'spine1-1', 'super-spine1-1'],
      ['super-spine2-1', 'super-spine1-2'],
      ['super-spine2-2'],
      ['spine2-1', 'spine1-2'],
      ['spine2-2'],
      ['lf-2'],
    ]);
    const gone = [leaf(1), leaf(2), ...spines, ...supers].map((t) => ({ ...t, fate: 'gone' as const }));
    const back = planWaves(gone, { ...options, standing }).flatMap((w) => w.hosts);
    expect(back.indexOf('lf-2')).toBeLessThan(back.indexOf('spine1-2'));
    expect(back.indexOf('spine2-2')).toBeLessThan(back.indexOf('super-spine1-2'));
  });
  test('two border leaves never share a wave, though they are no pair', () => {
    const border = (n: number): RolloutTarget => ({ ...leaf(n), groups: ['border'] });
    const waves = planWaves([leaf(1), border(2), border(3), leaf(4), leaf(5)], {
      ...options,
      standing: new Map([['border', 2]]),
    });
    expect(waves.map((w) => w.hosts)).toEqual([
      ['lf-1', 'lf-2'],
      ['lf-3', 'lf-4', 'lf-5'],
    ]);
  });
  test('of a pair that takes turns one half carries all the while: who is brought back comes first, who is drained last', () => {
    const [back, drained] = [
      { ...leaf(7, 'a'), turn: 'back' as const },
      { ...leaf(7, 'b'), turn: 'drained' as const },
    ];
    for (const pair of [
      [back, drained],
      [drained, back],
    ]) {
      const waves = planWaves([...pair, leaf(1), leaf(2), spine(1)], options);
      expect(waves.map((w) => [w.name, w.hosts])).toEqual([
        ['Wave 1', ['lf-7a']],
        ['Canary', ['lf-1', 'sp-1']],
        ['Wave 2', ['lf-2']],
        ['Wave 3', ['lf-7b']],
      ]);
      // The second waits for the first, as for all that carry what it does.
      expect(waves.map((w) => w.after)).toEqual([undefined, undefined, undefined, [{ host: 'lf-7b', other: 'lf-7a' }]]);
    }
    const turning = [
      { ...spine(1), turn: 'back' as const },
      { ...spine(2), turn: 'drained' as const },
      { ...leaf(3), turn: 'drained' as const },
    ];
    expect(planWaves(turning, options).flatMap((w) => w.after ?? [])).toEqual([{ host: 'sp-2', other: 'sp-1' }]);
    // Who is sent to together comes before all the same.
    const together = planWaves([back, drained, leaf(1), leaf(2)], { ...options, together: [['lf-1', 'lf-2']] });
    expect(together.map((w) => w.hosts)).toEqual([['lf-1', 'lf-2'], ['lf-7a'], ['lf-7b']]);
    // Never more of those that stand in for one another than the share.
    const spines = [1, 2].map((n) => ({ ...spine(n), turn: 'drained' as const }));
    expect(planWaves(spines, options).map((w) => w.hosts)).toEqual([['sp-1'], ['sp-2']]);
  });
  test('removals go leaves first', () => {
    const gone = [leaf(1), leaf(2), leaf(3), spine(1), spine(2)].map((t) => ({ ...t, fate: 'gone' as const }));
    expect(planWaves(gone, options).map((w) => w.hosts)).toEqual([['lf-1', 'sp-1'], ['lf-2', 'lf-3'], ['sp-2']]);
  });
});
