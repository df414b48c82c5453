import { readdirSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { DEMO_FABRICS, DEMO_POOLS, demoIntent } from '../../demo/demoFabrics.ts';
import { MODELS, POOLS, skerryIntent } from '../../demo/skerry.ts';
import { applyEdits, type Edit } from '../../intent/edits/index.ts';
import type { FabricIntent, OutsideNeighbour } from '../../intent/intent.ts';
import { joinedBorder, putNeighbourOf } from '../../testing/joinedBorder.ts';
import { configsOf, wideIntents } from '../../testing/fabricOf.ts';
import { compileFabric } from '../../compile/compileFabric.ts';
import { proveChange } from '../proveChange.ts';
import { FABRIC_RULES } from './index.ts';
import { judgeFabric } from '../judgeFabric.ts';

const skerry = skerryIntent();
const after = (...edits: Edit[]): FabricIntent => {
  const made = applyEdits(skerry, edits);
  if (made.findings.length > 0) throw new Error(`edit ${made.failedAt}: ${made.findings[0]!.message}`);
  return made.intent;
};
/** What the whole proof says of a state, by rule. */
const said = (intent: FabricIntent): [string, string][] => {
  const state = { intent, values: configsOf(intent).drawn.values };
  const { findings, clean } = proveChange(state, state, POOLS).report;
  expect(clean).toBe(findings.every((f) => f.severity !== 'error'));
  return findings.map((f) => [f.rule, f.message]);
};
const leafModel = MODELS.find((m) => m.name === 'TV-L48F')!;

const [one, other] = skerry.vrfs.map((v) => v.name) as [string, string];
const leak = (into: string, from: string, prefixes: string[] = []): Edit => ({
  kind: 'putLeak',
  leak: { into, from, prefixes },
});
/** A network of the second tenant that holds all that the first has. */
const clashing: Edit = {
  kind: 'addNetwork',
  network: { name: 'clash', vrf: other, vlan: 999, subnetLength: 12, subnet: '10.32.0.0/12', racks: [1] },
};

/** For each rule what it must see, and a twin that is nearly the same and sound. */
const CASES: Record<string, { wrong: () => FabricIntent; says: RegExp; sound: () => FabricIntent }> = {
  'fabric-fits': {
    // Pairs of the demo have eight uplinks, single leaves as many.
    wrong: () => after({ kind: 'setSpines', count: 9 }),
    says: /^sk-lf-01 and \d+ more leaves \(single-48\) need 9 uplinks for 9 switches × 1, and have 8: what is more is left out\.$/,
    sound: () => after({ kind: 'setSpines', count: 8 }),
  },
  'link-speed-equal': {
    wrong: () => after({ kind: 'setSpines', breakouts: [{ ports: 'p2', into: 4 }] }),
    says: /sk-lf-02 p49 has 100G, sk-sp-01 p2s1 has 25G/,
    sound: () => after({ kind: 'setSpines', breakouts: [{ ports: 'p32', into: 4 }] }),
  },
  'ports-driven': {
    // Of a model whose ports became slower, what was said stands.
    wrong: () =>
      after(
        { kind: 'changeServer', port: { ...skerry.ports[0]!, fec: 'rs' } },
        {
          kind: 'putModel',
          model: { ...leafModel, blocks: [{ ...leafModel.blocks[0]!, speed: 10 }, leafModel.blocks[1]!] },
        },
      ),
    says: /^sk-lf-\w+: A line of 10 Gb\/s has no RS-FEC\.$/,
    sound: () => after({ kind: 'changeServer', port: { ...skerry.ports[0]!, fec: 'rs' } }),
  },
  'mtu-within-model': {
    wrong: () => after({ kind: 'changeSettings', settings: { linkMtu: leafModel.maxMtu + 1 } }),
    says: /^TV-L48F forwards at most 9216 bytes; port p49 on sk-lf-01 and \d+ more would have 9217\.$/,
    sound: () => after({ kind: 'changeSettings', settings: { linkMtu: leafModel.maxMtu } }),
  },
  'tables-hold': {
    wrong: () => after({ kind: 'putModel', model: { ...leafModel, tables: { vrfs: 1 } } }),
    says: /^TV-L48F holds 1 VRFs; sk-lf-\w+ would have 2 \(and \d+ more switches have too many\)\.$/,
    sound: () => after({ kind: 'putModel', model: { ...leafModel, tables: { vrfs: 2, vnis: 4096 } } }),
  },
  'leak-apart': {
    wrong: () => after(clashing, leak(one, other), leak(other, one)),
    says: /^10\.32\.0\.0\/\d+ of clash \(\w+\) overlaps [\w-]+, which \w+ has itself\.$/,
    // The same, but for what is in both.
    sound: () => after(clashing, leak(one, other, ['192.0.2.0/24']), leak(other, one, ['192.0.2.0/24'])),
  },
  'drained-halves': {
    wrong: () => after({ kind: 'drainSeat', seat: 'leaf-7a' }, { kind: 'drainSeat', seat: 'leaf-7b' }),
    says: /^sk-lf-07a and sk-lf-07b are both drained: 6 servers on both have no open port left\.$/,
    sound: () => after({ kind: 'drainSeat', seat: 'leaf-7a' }, { kind: 'drainSeat', seat: 'leaf-8b' }),
  },
  'drained-carried': {
    wrong: () => after({ kind: 'drainSeat', seat: 'leaf-2' }),
    says: /^sk-lf-02 is drained, and 6 servers are on it alone: soundings-201, soundings-202, tide-203, tide-204 and 2 more\. They are served as before, and cut off once sk-lf-02 is down\.$/,
    sound: () => after({ kind: 'drainSeat', seat: 'leaf-7a' }),
  },
  'leak-answered': {
    wrong: () => after(leak(one, other)),
    says: /^\w+ has routes of \w+, and \w+ has none of \w+: nothing there answers\.$/,
    sound: () => after(leak(one, other), leak(other, one)),
  },
};

describe('rules of what is meant', () => {
  test('every file of the folder is listed, every rule has a case here or beside what it is about, no id is there twice', () => {
    const files = readdirSync(new URL('.', import.meta.url)).filter((f) => f !== 'index.ts' && !f.includes('.test.'));
    const ELSEWHERE = [
      'outside-subnet',
      'outside-as',
      'route-limit',
      'route-carried',
      'next-hop-near',
      'map-next-hop',
      'speakers-range',
      'speaker-known',
    ];
    expect([...Object.keys(CASES), ...ELSEWHERE].sort()).toEqual(FABRIC_RULES.map((r) => r.id).sort());
    // Four files hold two rules each.
    expect(files).toHaveLength(FABRIC_RULES.length - 4);
  });

  test.each(Object.entries(CASES))('%s is found, and its twin is sound', (rule, { wrong, says, sound }) => {
    expect(
      said(wrong())
        .filter(([r]) => r === rule)
        .map(([, m]) => m),
    ).toEqual(expect.arrayContaining([expect.stringMatching(says) as string]));
    expect(said(sound()).filter(([r]) => r === rule)).toEqual([]);
  });

  test('of drained switches it is said whose floor has none left, and whose only way outside they are', () => {
    const drained = (intent: FabricIntent, ...seats: string[]) => {
      const made = applyEdits(
        intent,
        seats.map((seat): Edit => ({ kind: 'drainSeat', seat })),
      );
      expect(made.findings).toEqual([]);
      const { values } = configsOf(made.intent, DEMO_POOLS).drawn;
      const compiled = compileFabric(made.intent, values, DEMO_POOLS);
      const { findings } = judgeFabric({ intent: made.intent, values, compiled });
      return findings.flatMap((f) => (f.rule === 'drained-carried' ? f.message : []));
    };
    const holm = demoIntent(DEMO_FABRICS.find((f) => f.name === 'holm')!);
    expect(drained(holm, 'spine-1.1', 'spine-2.2')).toEqual([]);
    expect(drained(holm, 'spine-1.1', 'spine-1.2')).toEqual([
      'All spines of pod 1 are drained (ho-sp-01-01, ho-sp-01-02): nobody can go round them, so they carry all as before.',
    ]);
    const { outside } = joinedBorder;
    const [a, b] = (['a', 'b'] as const).map((side) => outside.find((o) => o.side === side)!);
    const speaking = (of: Partial<OutsideNeighbour> = {}): FabricIntent =>
      applyEdits(joinedBorder, [
        putNeighbourOf(),
        putNeighbourOf({ side: 'b', port: b!.port, address: '192.0.2.8/31', far: '192.0.2.9', ...of }),
      ]).intent;
    const { vrf } = speaking().neighbours[0]!;
    const [seatA, seatB] = [a!, b!].map((o) => `leaf-${o.rack}${o.side}`) as [string, string];
    const alone = (hosts: string) =>
      expect.stringContaining(`VRF ${vrf} speaks to routers outside on ${hosts} alone`) as string;
    expect(drained(speaking(), seatA)).toEqual([]);
    expect(drained(speaking(), seatA, seatB)).toEqual([alone('tn-lf-01a and tn-lf-01b')]);
    // A session that is closed carries nobody.
    expect(drained(speaking({ closed: true }), seatA)).toEqual([alone('tn-lf-01a')]);
    expect(drained(speaking({ closed: true }), seatB)).toEqual([]);
    // Nor does another tenant’s.
    expect(drained(speaking({ vrf: 'charts' }), seatA)).toEqual([alone('tn-lf-01a')]);
  });

  test('of two VRFs whose routes a third has, one network is in the way of the other', () => {
    const network = (name: string, vrf: string, vlan: number): Edit => ({
      kind: 'addNetwork',
      network: { name, vrf, vlan, subnetLength: 24, subnet: '192.0.2.0/24', racks: [1] },
    });
    const made = (...leaks: Edit[]): FabricIntent =>
      after(
        { kind: 'addVrf', vrf: { name: 'lamp', transitVlan: 3999 } },
        network('wicks', one, 998),
        network('oil', other, 999),
        ...leaks,
      );
    const found = (i: FabricIntent): string[] => said(i).flatMap(([r, m]) => (r === 'leak-apart' ? m : []));
    expect(found(made(leak('lamp', one)))).toEqual([]);
    expect(found(made(leak('lamp', one), leak('lamp', other)))).toEqual([
      `192.0.2.0/24 of ${one < other ? 'oil' : 'wicks'} (${one < other ? other : one}) overlaps ${one < other ? 'wicks' : 'oil'}, which lamp has of ${one < other ? one : other}.`,
    ]);
  });

  test('a network that is too large for leaves it is on is named, where it is', () => {
    const network = skerry.networks.find((n) => n.racks.length > 1 && n.vrf !== '')!;
    const most = { ...leafModel, maxMtu: 8000 };
    const edit = (mtu: number): Edit => ({ kind: 'changeNetwork', name: network.name, network: { ...network, mtu } });
    const base: Edit[] = [
      { kind: 'putModel', model: most },
      { kind: 'changeSettings', settings: { linkMtu: 8000, tenantMtu: 1500 } },
    ];
    const found = (mtu: number) => said(after(...base, edit(mtu))).filter(([r]) => r === 'mtu-within-model');
    expect(found(8001)).toEqual([
      [
        'mtu-within-model',
        expect.stringMatching(
          new RegExp(`^TV-L48F forwards at most 8000 bytes; network ${network.name} on sk-lf-.* would have 8001`),
        ),
      ],
    ]);
    expect(found(8000)).toEqual([]);
  });

  test('whatever is laid out by patterns fits: no rule of what is meant finds anything', () => {
    fc.assert(
      fc.property(wideIntents, (intent) => {
        const { drawn } = configsOf(intent);
        const { findings, rules } = judgeFabric({
          intent,
          values: drawn.values,
          compiled: compileFabric(intent, drawn.values, POOLS),
        });
        expect(findings.filter((f) => f.rule !== 'link-speed-equal')).toEqual([]);
        expect(rules.map((r) => r.id)).toEqual(FABRIC_RULES.map((r) => r.id));
      }),
      { numRuns: 40 },
    );
  });
});
