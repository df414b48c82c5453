import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { MODELS, RACK_PATTERNS, skerryIntent } from '../../demo/skerry.ts';
import { reworked } from '../../testing/reworked.ts';
import { proposeRack } from '../proposals.ts';
import { applyEdit, applyEdits, subjectsOf, type Edit } from './index.ts';
import { editsBetween } from './editsBetween.ts';
import { objectsBetween } from '../collections/differences.ts';
import { removalOf } from '../collections/removal.ts';
import { rebaseEdits } from './rebase.ts';

describe('rebase', () => {
  const base = skerryIntent();
  const change = (name: string, mtu: number): Edit => ({
    kind: 'changeNetwork',
    name,
    network: { ...base.networks.find((n) => n.name === name)!, mtu },
  });
  test('edits on other objects are carried over', () => {
    const newer = applyEdit(base, change('almanac', 1500)).intent;
    const rebased = rebaseEdits(base, newer, [change('echo-store', 8000)]);
    expect(rebased.conflicts).toEqual([]);
    expect(
      rebased.intent.networks
        .map((n) => n.mtu)
        .filter(Boolean)
        .sort(),
    ).toEqual([1500, 1500, 8000]);
  });
  test.each<[string, Edit, Edit, RegExp]>([
    [
      'a rack removal over a newer server on it',
      { kind: 'removeRack', number: 1 },
      {
        kind: 'connectServer',
        port: { rack: 1, side: 'a', port: 'p40', server: 'new', untagged: 'pilot-desk', tagged: [] },
      },
      /server new on rack 1 p40 was changed by a newer revision/,
    ],
    [
      'a clear over a newer network',
      { kind: 'clearFabric' },
      { kind: 'addNetwork', network: { name: 'swell', vrf: 'tides', vlan: 777, subnetLength: 24, racks: [2] } },
      /network swell was changed by a newer revision/,
    ],
    [
      'fewer spines over a newer seating',
      { kind: 'setSpines', count: 3 },
      { kind: 'takeSeat', seat: 'spine-4', serial: 'NEW-SPINE' },
      /seat spine-4 was changed by a newer revision/,
    ],
    [
      'a pattern made anew over a newer one',
      { kind: 'putRackPattern', rackPattern: { ...RACK_PATTERNS[0]!, uplinkPorts: 'p49-p54' } },
      { kind: 'putRackPattern', rackPattern: { ...RACK_PATTERNS[0]!, uplinkPorts: 'p49-p53' } },
      /rack pattern pair-48 was changed/,
    ],
  ])('%s is a conflict', (_what, mine, theirs, says) => {
    const newer = applyEdit(base, theirs);
    expect(newer.findings).toEqual([]);
    const rebased = rebaseEdits(base, newer.intent, [mine]);
    expect(rebased.conflicts.map((c) => c.findings.map((f) => f.message).join(' '))).toEqual([
      expect.stringMatching(says) as string,
    ]);
    expect(rebaseEdits(base, base, [mine]).conflicts).toEqual([]);
  });
  test('any edits over any revisions: each is carried or named, and nobody’s work in between is overwritten', () => {
    const both = { carried: 0, conflicts: 0 };
    fc.assert(
      fc.property(reworked, reworked, reworked, (base, theirs, mine) => {
        const edits = editsBetween(base, mine);
        const rebased = rebaseEdits(base, theirs, edits);
        const named = rebased.conflicts.map((c) => c.edit);
        expect([...rebased.carried, ...named].sort((a, b) => a - b)).toEqual(edits.map((_, i) => i));
        const carried = rebased.carried.map((i) => edits[i]!);
        expect(applyEdits(theirs, carried)).toMatchObject({ intent: rebased.intent, findings: [] });
        const newer = objectsBetween(base, theirs);
        for (const touched of objectsBetween(theirs, rebased.intent)) expect(newer.has(touched)).toBe(false);
        both.carried += carried.length;
        both.conflicts += named.length;
      }),
      { numRuns: 60 },
    );
    expect(both.carried).toBeGreaterThan(0);
    expect(both.conflicts).toBeGreaterThan(0);
  });
  test('an edit names every object that it changes, itself or by what goes with a removal', () => {
    fc.assert(
      fc.property(reworked, reworked, (from, to) => {
        let intent = from;
        for (const edit of editsBetween(from, to)) {
          const about = subjectsOf(edit);
          const after = applyEdit(intent, edit).intent;
          const known = new Set(
            about.flatMap((s) => [s, ...removalOf(intent, s).goes, ...removalOf(intent, s).forgets]),
          );
          if (!about.includes('fabric') && !about.includes('spines'))
            for (const changed of objectsBetween(intent, after)) expect(known, edit.kind).toContain(changed);
          intent = after;
        }
      }),
      { numRuns: 30 },
    );
  });
  test('a rack that brings another pattern under a used name is refused: it would rewrite the racks there are', () => {
    const rack = proposeRack(base, RACK_PATTERNS[0]!);
    const other = { ...RACK_PATTERNS[0]!, uplinkPorts: 'p49-p52' };
    const refused = applyEdit(base, { kind: 'addRack', rack, rackPattern: other });
    expect(refused.intent).toBe(base);
    expect(refused.findings[0]).toMatchObject({
      path: '/rackPattern',
      cure: expect.stringContaining('anew') as string,
    });
    const model = { ...MODELS.find((m) => m.name === RACK_PATTERNS[0]!.leafModel)!, maxMtu: 4000 };
    expect(applyEdit(base, { kind: 'addRack', rack, model }).findings[0]).toMatchObject({ path: '/model' });
    expect(applyEdit(base, { kind: 'addRack', rack, rackPattern: RACK_PATTERNS[0]! }).findings).toEqual([]);
  });
  test('an edit on an object a newer revision changed, or that cannot be applied any more, is named', () => {
    const newer = applyEdits(base, [
      change('echo-store', 1500),
      { kind: 'addVrf', vrf: { name: 'charts', transitVlan: 4003 } },
    ]).intent;
    const rebased = rebaseEdits(base, newer, [
      change('echo-store', 8000),
      { kind: 'addVrf', vrf: { name: 'pilots', transitVlan: 4003 } },
      change('almanac', 8000),
    ]);
    expect(rebased.carried).toEqual([2]);
    expect(rebased.conflicts.map((c) => [c.edit, c.findings[0]!.message])).toEqual([
      [0, 'network echo-store was changed by a newer revision after this edit was made.'],
      [1, "VLAN 4003 is charts's."],
    ]);
    expect(rebased.intent.networks.find((n) => n.name === 'echo-store')!.mtu).toBe(1500);
  });
});
