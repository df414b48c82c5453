import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { FABRIC_PATTERNS, layEdits, MODELS, POOLS, RACK_PATTERNS, skerryEdits, skerryIntent } from '../demo/skerry.ts';
import { sizePattern } from '../patterns/sizing.ts';
import { layOut } from '../layout/layout.ts';
import { intentOf, intents } from '../testing/fabricOf.ts';
import { proposeRack, proposeTransitVlan, proposeVlan } from './proposals.ts';
import { applyEdit, applyEdits, describeEdit, EDITS, editSchema, subjectsOf, type Edit } from './edits/index.ts';
import { editsBetween, invertEdit } from './edits/editsBetween.ts';
import { emptyIntent, type FabricIntent } from './intent.ts';
import { readIntentFile, writeIntentFile } from './intentFile.ts';
import { objectsBetween } from './collections/differences.ts';
import { ALL_COLLECTIONS } from './collections/index.ts';
import { removalOf } from './collections/removal.ts';
import { racksText } from './racksText.ts';
import { rebaseEdits } from './edits/rebase.ts';
import { validate } from './schemas/validate.ts';

/** One of ten ways in which a team changes what is there. */
function rework(intent: FabricIntent, move: number): FabricIntent {
  const [pattern, model, vrf, network] = [intent.rackPatterns[0], intent.models[0], intent.vrfs[0], intent.networks[0]];
  const tries: Edit[][] = [
    pattern ? [{ kind: 'putRackPattern', rackPattern: { ...pattern, uplinkPorts: 'p49-p55' } }] : [],
    model ? [{ kind: 'putModel', model: { ...model, maxMtu: model.maxMtu - 16 } }] : [],
    [{ kind: 'putRackPattern', rackPattern: { ...RACK_PATTERNS[1]!, name: 'spare-pair' } }],
    vrf ? [{ kind: 'changeVrf', name: vrf.name, vrf: { ...vrf, transitVlan: proposeTransitVlan(intent) } }] : [],
    network ? [{ kind: 'changeNetwork', name: network.name, network: { ...network, vlan: proposeVlan(intent) } }] : [],
    intent.racks[0] ? [{ kind: 'removeRack', number: intent.racks[0].number }] : [],
    [{ kind: 'setSpines', count: 1 }],
    pattern
      ? [
          ...intent.racks
            .filter((r) => r.pattern === pattern.name)
            .map((r): Edit => ({ kind: 'removeRack', number: r.number })),
          {
            kind: 'putRackPattern',
            rackPattern: { ...pattern, kind: pattern.kind === 'single' ? 'esi-pair' : 'single' },
          },
        ]
      : [],
    [{ kind: 'changeSettings', settings: { linkMtu: 9000 } }],
    [{ kind: 'clearFabric' }],
  ];
  const made = applyEdits(intent, tries[move]!);
  return made.findings.length > 0 ? intent : made.intent;
}

// Rack patterns and models of the same name with other content, VLANs exchanged, things removed here and added there.
const reworked = fc
  .tuple(intents, fc.array(fc.nat({ max: 9 }), { maxLength: 6 }))
  .map(([intent, moves]) => moves.reduce((now, move) => rework(now, move), intent));

describe('edits', () => {
  test('the edits between two intents turn one into the other', () => {
    fc.assert(
      fc.property(intents, intents, (from, to) => {
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

/** Every kind of edit once on Skerry, with what it says of itself where the intent before is at hand. */
describe('sentences', () => {
  const skerry = skerryIntent();
  const [pilots, vrf, port] = [
    skerry.networks.find((n) => n.name === 'pilot-desk')!,
    skerry.vrfs[0]!,
    skerry.ports[0]!,
  ];
  const [model, pattern] = [skerry.models.find((m) => m.name === 'TV-L48F')!, skerry.rackPatterns[0]!];
  const seat = Object.keys(skerry.seating)[0]!;
  const digest = 'A'.repeat(22);
  const snippet = { name: 'motd', file: 'frr.conf' as const, on: 'all' as const, text: '! calm\n! sea\n' };
  const noted = applyEdits(skerry, [
    { kind: 'putSnippet', snippet },
    { kind: 'putSecret', secret: { name: 'bgp', digest } },
  ]).intent;
  const SAID: readonly (readonly [Edit, string])[] = [
    [
      { kind: 'layFabric', pattern: FABRIC_PATTERNS[0]!, models: [], rackPatterns: [] },
      'Lay out from pattern four-by-ten: 4 spines, 8 racks',
    ],
    [{ kind: 'clearFabric' }, 'Clear the whole fabric: 4 spines, 8 racks, 8 networks'],
    [{ kind: 'changeSettings', settings: { linkMtu: 9100, bfd: false } }, 'Set link MTU 9216 → 9100, BFD on → off'],
    [{ kind: 'choosePools', pools: { vni: 'other' } }, 'Draw VNIs from other (so far overlay)'],
    [{ kind: 'setSpines', count: 3 }, 'Spines 4 → 3; 1 switch leaves its seat'],
    [{ kind: 'addRack', rack: { number: 9, pattern: pattern.name, slot: 11 } }, 'Add rack 9 (pair-48)'],
    [{ kind: 'removeRack', number: 7 }, ''],
    [{ kind: 'placeRack', number: 1, place: 'hall B' }, 'Place of rack 1 no named place → hall B'],
    [{ kind: 'putModel', model: { ...model, maxMtu: 9000 } }, 'Largest MTU of switch model TV-L48F 9216 → 9000'],
    [{ kind: 'removeModel', name: 'TV-L48F' }, 'Remove switch model TV-L48F'],
    [
      { kind: 'putRackPattern', rackPattern: { ...pattern, uplinkPorts: 'p49-p54' } },
      'Uplink ports of rack pattern pair-48 p49-p56 → p49-p54',
    ],
    [{ kind: 'removeRackPattern', name: 'pair-48' }, 'Remove rack pattern pair-48'],
    [{ kind: 'takeSeat', seat, serial: 'NEW-1' }, `Switch in seat ${seat} ${skerry.seating[seat]!} → NEW-1`],
    [{ kind: 'clearSeat', seat }, `Switch in seat ${seat} ${skerry.seating[seat]!} → none`],
    [{ kind: 'addVrf', vrf: { name: 'charts', transitVlan: 4003 } }, 'Add VRF charts'],
    [
      { kind: 'changeVrf', name: vrf.name, vrf: { ...vrf, transitVlan: 4009, vni: 777 } },
      `Change VRF ${vrf.name}: L3 VNI’s VLAN ${vrf.transitVlan} → 4009, L3 VNI drawn → 777`,
    ],
    [{ kind: 'removeVrf', name: 'charts' }, 'Remove VRF charts'],
    [{ kind: 'addNetwork', network: { ...pilots, name: 'fog' } }, `Add network fog to VRF ${pilots.vrf}`],
    [
      { kind: 'changeNetwork', name: 'pilot-desk', network: { ...pilots, mtu: 8000 } },
      `MTU of network pilot-desk ${pilots.mtu ?? 'default'} → 8000`,
    ],
    [
      { kind: 'carryNetwork', name: 'pilot-desk', racks: [1, 2, 3] },
      `Carry pilot-desk on rack 1-3 (so far on ${racksText(pilots.racks)})`,
    ],
    [{ kind: 'removeNetwork', name: 'pilot-desk' }, 'Remove network pilot-desk'],
    [
      { kind: 'connectServer', port },
      `Connect ${port.server} to rack ${port.rack} ${port.port}${port.side === 'both' ? '' : ` (${port.side})`}`,
    ],
    [{ kind: 'disconnectServer', ...port }, `Free port ${port.port} of rack ${port.rack} from ${port.server}`],
    [{ kind: 'putSnippet', snippet: { ...snippet, text: '! storm\n' } }, 'Text of snippet motd 2 lines → 1 line'],
    [{ kind: 'removeSnippet', name: 'motd' }, 'Remove snippet motd'],
    [{ kind: 'putSecret', secret: { name: 'bgp', digest: 'B'.repeat(22) } }, 'Value of secret bgp AAAAAA… → BBBBBB…'],
    [{ kind: 'removeSecret', name: 'bgp' }, 'Remove secret bgp'],
  ];
  test('every kind of edit says what it does, from what to what', () => {
    expect(new Set(SAID.map(([edit]) => edit.kind))).toEqual(new Set(Object.keys(EDITS)));
    const rack = skerry.ports.filter((p) => p.rack === 7).length;
    const carried = skerry.networks.filter((n) => n.racks.includes(7)).length;
    for (const [edit, sentence] of SAID)
      expect(describeEdit(edit, noted)).toBe(
        sentence || `Remove rack 7, with 2 seats and ${rack} server ports; ${carried} networks no longer on it`,
      );
  });
  test('it says something of every edit without the intent before, and what changes is told by its difference', () => {
    fc.assert(
      fc.property(intents, intents, (from, to) => {
        let intent = from;
        for (const edit of editsBetween(from, to)) {
          expect(describeEdit(edit)).toMatch(/^\S.{5,}/);
          const said = describeEdit(edit, intent);
          if (/^(change|set)/.test(edit.kind)) expect(said).toContain(' → ');
          intent = applyEdit(intent, edit).intent;
        }
      }),
      { numRuns: 30 },
    );
  });
});

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

describe('intent file', () => {
  const file = { anthemion: 1 as const, fabric: skerryIntent(), pools: POOLS, ledger: [] };
  test('what is written reads back', () => {
    expect(readIntentFile(writeIntentFile(file))).toEqual({ file });
  });
  test.each<[string, (text: string) => string, RegExp, RegExp]>([
    ['a VLAN out of range', (t) => t.replace('vlan: 212', 'vlan: 5000'), /VLAN is 4094 or less/, /vlan: 5000/],
    ['an unknown VRF', (t) => t.replace('vrf: tides', 'vrf: charts'), /no VRF charts/, /charts/],
    [
      'overlapping pools',
      (t) => t.replace('10.255.1.0/24', '10.255.0.0/25'),
      /overlaps 10\.255\.0\.0\/24 of pool loopbacks/,
      /10\.255\.0\.0\/25/,
    ],
    [
      'a word too many',
      (t) => t.replace('  parallel: 1', '  parallel: 1\n  colour: red'),
      /no field colour/,
      /name: skerry/,
    ],
    [
      'a serial twice',
      (t) => t.replace(/leaf-2: .*/, `leaf-2: ${file.fabric.seating['leaf-1']}`),
      /sits in leaf-1 already/,
      /leaf-2/,
    ],
  ])('%s is refused with its line', (_what, damage, says, line) => {
    const text = damage(writeIntentFile(file));
    const read = readIntentFile(text);
    const found = 'findings' in read ? read.findings.find((f) => says.test(f.message)) : undefined;
    expect(found).toBeDefined();
    expect(text.split('\n')[found!.line! - 1]).toMatch(line);
  });
  test('a file that is far too large is refused before it is read; a key that stands twice is named with its line', () => {
    expect(readIntentFile(`anthemion: 1\n${'# nothing\n'.repeat(2_100_000)}`)).toMatchObject({
      findings: [{ rule: 'file-size', message: 'The file has 22 MB; an intent file has at most 20.' }],
    });
    const twice = writeIntentFile(file).replace('  parallel: 1', '  parallel: 1\n  parallel: 2');
    const read = readIntentFile(twice);
    const found = 'findings' in read ? read.findings : [];
    expect(found.map((f) => f.message)).toEqual(['parallel stands twice in one place.']);
    expect(twice.split('\n')[found[0]!.line! - 1]).toBe('  parallel: 2');
  });
  test('broken YAML says its line', () => {
    expect(readIntentFile('anthemion: 1\nfabric: [')).toMatchObject({
      findings: [{ rule: 'file-form', line: expect.any(Number) as number }],
    });
  });
  test('an empty fabric is a sound intent too', () => {
    expect(readIntentFile(writeIntentFile({ ...file, fabric: intentOf(...layEdits()) }))).toHaveProperty('file');
  });
});
