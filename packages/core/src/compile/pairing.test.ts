import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { esiOf } from '../config/pairing.ts';
import { MODELS, POOLS, skerryIntent } from '../demo/skerry.ts';
import { linux } from '../dialects/linux/linux.ts';
import { applyEdit, describeEdit } from '../intent/edits/index.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { rackPatternSchema } from '../intent/schemas/parts.ts';
import { forwardsFloods, segmentsIn } from '../network/segments.ts';
import { FORWARDERS, type Pairing, type RackPattern } from '../patterns/patterns.ts';
import { checkRackPattern } from '../patterns/rackPattern.ts';
import { judgeNetwork } from '../proof/judgeNetwork.ts';
import { modelFabric, proveChange } from '../proof/proveChange.ts';
import { segmentsAnew } from '../rollout/sharedSegments.ts';
import { configsOf } from '../testing/fabricOf.ts';
import { compileFabric } from './compileFabric.ts';

const PAIR = 'pair-48';
const patternIn = (intent: FabricIntent): RackPattern => intent.rackPatterns.find((p) => p.name === PAIR)!;
const put = (more: Pairing, intent = skerryIntent()) =>
  ({ kind: 'putRackPattern', rackPattern: { ...patternIn(intent), ...more } }) as const;
const paired = (more: Pairing) => {
  const { intent, findings } = applyEdit(skerryIntent(), put(more));
  expect(findings).toEqual([]);
  const { drawn } = configsOf(intent);
  const fabric = compileFabric(intent, drawn.values, [...POOLS]);
  return { fabric, network: modelFabric(fabric, null) };
};
const networkOf = (intent: FabricIntent) =>
  modelFabric(compileFabric(intent, configsOf(intent).drawn.values, [...POOLS]), null);
const pairings: fc.Arbitrary<Pairing> = fc.record(
  { esiType: fc.constant(0 as const), forwards: fc.constantFrom(...FORWARDERS), untracked: fc.boolean() },
  { requiredKeys: [] },
);

describe('how a pair shares its servers', () => {
  test('whatever is chosen: it reads back, no rule finds anything, and just one half forwards what is flooded', () => {
    fc.assert(
      fc.property(pairings, (said) => {
        const { fabric, network } = paired(said);
        for (const s of fabric.switches) {
          expect(s.parsed.unread.filter((u) => u.harmless !== true)).toEqual([]);
          expect(s.parsed.config).toEqual(s.config);
        }
        expect(judgeNetwork(network).findings).toEqual([]);
        const segments = [...segmentsIn(network).values()];
        expect(segments.length).toBeGreaterThan(3);
        for (const ends of segments) {
          expect(ends).toHaveLength(2);
          const forwarding = ends
            .filter((e) => forwardsFloods(network, e))
            .map((e) => (e.host.endsWith('a') ? 'a' : 'b'));
          expect(forwarding).toHaveLength(1);
          if (said.forwards === 'a' || said.forwards === 'b') expect(forwarding).toEqual([said.forwards]);
          if (said.forwards === 'in-turn') expect(forwarding).toEqual([ends[0]!.lag.number! % 2 === 0 ? 'a' : 'b']);
          expect(esiOf(ends[0]!.lag.segment!).slice(0, 2)).toBe(said.esiType === 0 ? '00' : '03');
          expect(ends[0]!.lag.actorSystem).toBe(ends[1]!.lag.actorSystem);
        }
        const tracked = fabric.switches.some((s) => s.files['frr.conf']!.includes('evpn mh uplink'));
        expect(tracked).toBe(said.untracked !== true);
      }),
      { numRuns: 20 },
    );
    // No two segments are one.
    const { network } = paired({ esiType: 0 });
    expect(new Set([...segmentsIn(network).values()].flat().map((e) => `${e.host} ${e.esi}`)).size).toBe(
      [...segmentsIn(network).values()].flat().length,
    );
  });

  test('two halves that show a server other systems are two LAGs to it: the rule says which line', () => {
    const { fabric, network } = paired({ esiType: 0 });
    const half = fabric.switches.find((s) => s.seat.host === 'sk-lf-07b')!;
    const judged = (change: (text: string) => string) => {
      const { config, unread } = linux.parse({ ...half.files, interfaces: change(half.files['interfaces']!) });
      expect(unread.filter((u) => u.harmless !== true)).toEqual([]);
      const switches = network.switches.map((s) => (s.host === half.seat.host ? { ...s, config } : s));
      return judgeNetwork({ ...network, switches }).findings.filter((f) => f.rule === 'pair-agrees');
    };
    expect(judged((t) => t)).toEqual([]);
    for (const word of ['es-sys-mac', 'bond-ad-sys-mac-addr'])
      expect(judged((t) => t.replaceAll('bond-ad-actor-system', word))).toEqual([]);
    const line = /\n {4}bond-ad-actor-system \S+/;
    expect(judged((t) => t.replace(line, '\n    bond-ad-actor-system 02:00:00:00:00:98'))).toMatchObject([
      { host: 'sk-lf-07b', configPlace: ['lags', expect.any(String), 'actorSystem'] },
    ]);
    expect(judged((t) => t.replace(line, ''))[0]!.message).toMatch(/shows itself as its system.*uses one/);
  });

  test('another ESI is sent to both halves at once; who forwards, and uplink tracking, are not', () => {
    const before = skerryIntent();
    const { values } = configsOf(before).drawn;
    const said = (more: Pairing) =>
      proveChange({ intent: before, values }, { intent: applyEdit(before, put(more)).intent, values }, [...POOLS])
        .report.findings;
    expect(said({ esiType: 0 })).toMatchObject([
      { rule: 'both-ends-together', severity: 'warning', subjects: ['rackPattern:pair-48'] },
    ]);
    expect(said({ esiType: 0 })[0]!.message).toMatch(
      /^4 switches have to be sent to in 2 sets, each together: \d+ LAGs of servers are two while only one half/,
    );
    expect(said({ forwards: 'b', untracked: true })).toEqual([]);
    // The MAC of a pair is made of the number of its fabric.
    const renumbered = applyEdit(before, { kind: 'changeSettings', settings: { fabricNumber: 65001 } }).intent;
    const { findings } = proveChange({ intent: before, values }, { intent: renumbered, values }, [...POOLS]).report;
    expect(findings.find((f) => f.rule === 'both-ends-together')!.message).toMatch(/LAGs of servers are two/);
    // Where nobody sits there is nobody to disturb, and one half that goes away is no pair any more.
    const empty = { ...before, seating: {} };
    expect(
      proveChange(
        { intent: empty, values },
        { intent: { ...applyEdit(before, put({ esiType: 0 })).intent, seating: {} }, values },
        [...POOLS],
      ).report.findings.filter((f) => f.rule.startsWith('both-ends')),
    ).toEqual([]);
    const { switches } = networkOf(before);
    expect(segmentsAnew(switches, switches)).toEqual([]);
    const after = networkOf(applyEdit(before, put({ esiType: 0 })).intent).switches;
    expect(new Set(segmentsAnew(switches, after).map(({ a, b }) => `${a} ${b}`))).toEqual(
      new Set(['sk-lf-07a sk-lf-07b', 'sk-lf-08a sk-lf-08b']),
    );
    expect(
      segmentsAnew(
        switches,
        after.filter((s) => s.host !== 'sk-lf-07b'),
      ).map(({ a }) => a),
    ).not.toContain('sk-lf-07a');
  });

  test('sentences, and what is refused', () => {
    expect(describeEdit(put({ forwards: 'in-turn', untracked: true }), skerryIntent())).toMatch(
      /who forwards what is flooded the lower VTEP → by turns of the ports, uplink tracking on → off/,
    );
    const single = skerryIntent().rackPatterns.find((p) => p.kind === 'single')!;
    for (const more of [{ esiType: 0 }, { forwards: 'a' }, { untracked: true }] as const) {
      const [finding, ...rest] = checkRackPattern({ ...single, ...more }, MODELS);
      expect(rest).toEqual([]);
      expect(finding).toMatchObject({ path: `/${Object.keys(more)[0]}`, cure: expect.stringContaining('pair') });
    }
    const refused = (more: object) => () => rackPatternSchema.validateSync({ ...patternIn(skerryIntent()), ...more });
    expect(refused({ kind: 'mlag-pair' })).toThrow(/no dialect here says MLAG.*esi-pair/);
    expect(refused({ kind: 'trio' })).toThrow('a rack is single or esi-pair');
    expect(refused({ esiType: 1 })).toThrow(/type 0, or, left out, of type 3/);
    expect(refused({ forwards: 'c' })).toThrow(/a, b or in-turn/);
  });
});
