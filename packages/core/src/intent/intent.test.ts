import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { RACK_PATTERNS, skerryEdits, skerryIntent } from '../demo/skerry.ts';
import { layOut } from '../layout/layout.ts';
import { intents, wideIntents } from '../testing/fabricOf.ts';
import { reworked } from '../testing/reworked.ts';
import { proposeRack, proposeTransitVlan, proposeVlan } from './proposals.ts';
import { applyEdit, applyEdits, describeEdit, editSchema, type Edit } from './edits/index.ts';
import { editsBetween, invertEdit } from './edits/editsBetween.ts';
import { emptyIntent, type FabricIntent } from './intent.ts';
import { objectsBetween } from './collections/differences.ts';
import { ALL_COLLECTIONS } from './collections/index.ts';
import { validate } from './schemas/validate.ts';

describe('edits', () => {
  test('the edits between two intents turn one into the other', () => {
    fc.assert(
      fc.property(fc.oneof(intents, wideIntents), fc.oneof(intents, wideIntents), (from, to) => {
        const made = applyEdits(from, editsBetween(from, to));
        expect(made.findings).toEqual([]);
        expect(made.intent).toEqual(to);
      }),
      { numRuns: 80 },
    );
  });

  test('whatever changed (a pattern or a model under the same name too), the edits between carry it, and undo it', () => {
    fc.assert(
      fc.property(reworked, reworked, (from, to) => {
        const edits = editsBetween(from, to);
        const made = applyEdits(from, edits);
        expect(made.findings).toEqual([]);
        expect(made.intent).toEqual(to);
        let intent = from;
        for (const edit of edits) {
          const after = applyEdit(intent, edit).intent;
          expect(applyEdits(after, invertEdit(edit, intent))).toEqual({ intent, findings: [] });
          intent = after;
        }
      }),
      { numRuns: 60 },
    );
  });
  test('no part of an intent is outside the table of collections', () => {
    const parts = new Set<string>(ALL_COLLECTIONS.map((c) => c.part));
    // Told with what the fabric was laid from; a fabric keeps its name and prefix.
    for (const told of ['parallel', 'name', 'namePrefix']) parts.add(told);
    expect([...parts].sort()).toEqual(Object.keys(emptyIntent('a', 'b')).sort());
  });
  test('two intents differ in an object exactly when their content differs', () => {
    fc.assert(
      fc.property(reworked, reworked, (a, b) => {
        expect(objectsBetween(a, structuredClone(a)).size).toBe(0);
        expect(objectsBetween(a, b).size > 0).toBe(JSON.stringify({ ...a }) !== JSON.stringify({ ...b }));
      }),
      { numRuns: 60 },
    );
  });

  test('every step of Skerry can be undone, step by step, back to the empty fabric', () => {
    let intent = emptyIntent('skerry', 'sk');
    const history = skerryEdits().map((edit) => {
      const before = intent;
      const step = applyEdit(before, edit);
      expect(step.findings).toEqual([]);
      intent = step.intent;
      return { before, edit };
    });
    for (const { before, edit } of history.reverse()) {
      intent = applyEdits(intent, invertEdit(edit, before)).intent;
      expect(intent).toEqual(before);
    }
  });

  test('every edit of the demo passes its schema and says what it does', () => {
    for (const edit of skerryEdits()) {
      expect(validate(editSchema, JSON.parse(JSON.stringify(edit)))).toHaveProperty('value');
      expect(describeEdit(edit)).toMatch(/^[A-Z].{5,}/);
    }
  });

  const skerry = skerryIntent();
  const network = { name: 'extra', vrf: 'tides', vlan: 777, subnetLength: 24, racks: [1] };
  test.each<[Edit, string, RegExp, RegExp]>([
    [
      { kind: 'addNetwork', network: { ...network, vlan: 212 } },
      '/network/vlan',
      /VLAN 212 is echo-store's/,
      /316 is free/,
    ],
    [
      { kind: 'addNetwork', network: { ...network, vrf: 'charts' } },
      '/network/vrf',
      /no VRF charts/,
      /soundings, tides/,
    ],
    [
      { kind: 'addNetwork', network: { ...network, racks: [99] } },
      '/network/racks',
      /no rack 99/,
      /racks of this fabric/,
    ],
    [
      { kind: 'addNetwork', network: { ...network, subnet: '10.0.0.1/24' } },
      '/network/subnet',
      /host bits/,
      /10\.32\.14\.0\/24/,
    ],
    [{ kind: 'addNetwork', network: { ...network, vni: 16777216 } }, '/network/vni', /outside 1–16777215/, /drawn/],
    [{ kind: 'addVrf', vrf: { name: 'charts', transitVlan: 4001 } }, '/vrf/transitVlan', /soundings's/, /4003 is free/],
    ...(['default', 'lo', 'bridge', 'bond1', 'p12'] as const).map((name): [Edit, string, RegExp, RegExp] => [
      { kind: 'addVrf', vrf: { name, transitVlan: 4003 } },
      '/vrf/name',
      new RegExp(`^${name} is `),
      /Choose another/,
    ]),
    [
      { kind: 'takeSeat', seat: 'leaf-1', serial: skerry.seating['leaf-2']! },
      '/serial',
      /sits in leaf-2 already/,
      /Leave that seat/,
    ],
    [
      {
        kind: 'connectServer',
        port: { rack: 1, side: 'a', port: 'p1', server: 'x', untagged: 'pilot-desk', tagged: [] },
      },
      '/port/port',
      /p1 of rack 1 is soundings-101's/,
      /p7 is free/,
    ],
    [
      {
        kind: 'connectServer',
        port: { rack: 1, side: 'both', port: 'p9', server: 'x', untagged: 'pilot-desk', tagged: [] },
      },
      '/port/side',
      /needs a pair/,
      /side a/,
    ],
    [
      { kind: 'connectServer', port: { rack: 1, side: 'a', port: 'p9', server: 'x', untagged: 'almanac', tagged: [] } },
      '/port/untagged',
      /not carried on rack 1/,
      /Carry almanac/,
    ],
    [
      { kind: 'removeNetwork', name: 'almanac' },
      '/name',
      /Network almanac is still used by server almanac-605 on rack 6 p5/,
      /Free its ports/,
    ],
    [
      { kind: 'removeVrf', name: 'tides' },
      '/name',
      /VRF tides is still used by network almanac/,
      /Remove its networks/,
    ],
    [{ kind: 'carryNetwork', name: 'almanac', racks: [] }, '/racks', /uses almanac/, /Free that port/],
  ])('%j is refused at its field with a cure', (edit, path, says, cure) => {
    const { findings, intent } = applyEdit(skerry, edit);
    expect(intent).toBe(skerry);
    expect(findings[0]).toMatchObject({
      path,
      message: expect.stringMatching(says) as string,
      cure: expect.stringMatching(cure) as string,
    });
  });

  test('promise 8: what is in use is refused by the name of its user, else nothing is left that names what went', () => {
    let refused = 0;
    fc.assert(
      fc.property(intents, (intent) => {
        const uses = (key: string, value: string | number) => {
          const named = (at: unknown): boolean =>
            Array.isArray(at)
              ? at.some(named)
              : typeof at === 'object' && at !== null && Object.entries(at).some(([k, v]) => isUse(k, v) || named(v));
          const isUse = (k: string, v: unknown) =>
            k === key && (v === value || (Array.isArray(v) && v.includes(value)));
          return (of: FabricIntent) => named(of);
        };
        const tries: [Edit, ((of: FabricIntent) => boolean)[], 'refused' | 'goes along'][] = [
          ...intent.models.map((m): (typeof tries)[number] => [
            { kind: 'removeModel', name: m.name },
            [uses('leafModel', m.name), (of) => of.spines.model === m.name],
            'refused',
          ]),
          ...intent.rackPatterns.map((p): (typeof tries)[number] => [
            { kind: 'removeRackPattern', name: p.name },
            [uses('pattern', p.name)],
            'refused',
          ]),
          ...intent.vrfs.map((v): (typeof tries)[number] => [
            { kind: 'removeVrf', name: v.name },
            [uses('vrf', v.name)],
            'refused',
          ]),
          ...intent.networks.map((n): (typeof tries)[number] => [
            { kind: 'removeNetwork', name: n.name },
            [uses('untagged', n.name), uses('tagged', n.name)],
            'refused',
          ]),
          ...intent.racks.map((r): (typeof tries)[number] => [
            { kind: 'removeRack', number: r.number },
            [uses('rack', r.number), (of) => of.networks.some((n) => n.racks.includes(r.number))],
            'goes along',
          ]),
        ];
        for (const [edit, users, then] of tries) {
          const made = applyEdit(intent, edit);
          const used = users.some((u) => u(intent));
          if (used && then === 'refused') {
            refused += 1;
            expect(made.intent).toBe(intent);
            expect(made.findings[0]).toMatchObject({
              rule: expect.stringMatching(/-in-use$/) as string,
              path: '/name',
            });
          } else {
            expect(made.findings, JSON.stringify(edit)).toEqual([]);
            expect(
              users.some((u) => u(made.intent)),
              JSON.stringify(edit),
            ).toBe(false);
          }
        }
      }),
      { numRuns: 60 },
    );
    expect(refused).toBeGreaterThan(0);
  });

  test('a subnet inside another of the VRF is refused by name, in another VRF it is fine', () => {
    const with1 = applyEdit(skerry, { kind: 'addNetwork', network: { ...network, subnet: '10.40.0.0/16' } }).intent;
    const inside = applyEdit(with1, {
      kind: 'addNetwork',
      network: { ...network, name: 'inner', vlan: 778, subnet: '10.40.3.0/24' },
    });
    expect(inside.findings[0]?.message).toBe(
      "10.40.3.0/24 lies inside 10.40.0.0/16, which is extra's, in the same VRF.",
    );
    expect(
      applyEdit(with1, {
        kind: 'addNetwork',
        network: { ...network, vrf: 'soundings', name: 'inner', vlan: 778, subnet: '10.40.3.0/24' },
      }).findings,
    ).toEqual([]);
  });

  test('proposals are free values', () => {
    expect(proposeVlan(skerry)).toBe(316);
    expect(proposeTransitVlan(skerry)).toBe(4003);
    expect(proposeRack(skerry, RACK_PATTERNS[0]!)).toEqual({ number: 9, pattern: 'pair-48', slot: 11 });
  });

  test('adding and removing racks moves no cable', () => {
    const cables = (i: typeof skerry) => new Map(layOut(i).links.map((l) => [l.id, `${l.a.port} ${l.b.port}`]));
    const before = cables(skerry);
    const without = applyEdit(skerry, { kind: 'removeRack', number: 3 }).intent;
    const grown = applyEdit(without, { kind: 'addRack', rack: proposeRack(without, RACK_PATTERNS[0]!) }).intent;
    for (const [id, ends] of cables(grown)) if (before.has(id)) expect(ends).toBe(before.get(id));
    expect(layOut(grown).links).toHaveLength(44);
  });
});
