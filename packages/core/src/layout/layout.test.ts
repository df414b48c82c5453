import fc from 'fast-check';
import { readdirSync, readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { POOLS, RACK_PATTERNS } from '../demo/skerry.ts';
import { portsOf } from '../hardware/switchModel.ts';
import { applyEdit, applyEdits, describeEdit, type Edit } from '../intent/edits/index.ts';
import { editsBetween, invertEdit } from '../intent/edits/editsBetween.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { expandPorts } from '../numbers/ports.ts';
import { proposeRack } from '../intent/proposals.ts';
import { seatIds } from '../intent/seatIds.ts';
import { upperTiersOf } from '../patterns/patterns.ts';
import { sizePattern } from '../patterns/sizing.ts';
import { demandsOf } from '../pools/demands.ts';
import { drawValues, holdingsOf, NOTHING_HELD } from '../pools/drawValues.ts';
import { configsOf, intents, otherIntents, wideIntents } from '../testing/fabricOf.ts';
import { layOut } from './layout.ts';
import { standingOf } from './seats.ts';

const ofAnyShape = fc.oneof(intents, otherIntents, wideIntents);
const owner = { fabric: 'tarn', change: null };

/** One of the ways in which a fabric grows and shrinks. */
function grown(intent: FabricIntent, dice: number): Edit {
  const last = intent.racks.at(-1);
  const pick = intent.racks[dice % Math.max(1, intent.racks.length)];
  const ways: Edit[] = [
    { kind: 'addRack', rack: proposeRack(intent, RACK_PATTERNS[dice % 2]!) },
    ...(pick ? [{ kind: 'removeRack', number: pick.number } as const] : []),
    { kind: 'addRack', rack: proposeRack(intent, RACK_PATTERNS[(dice + 1) % 2]!) },
    ...(intent.shape === 'collapsed' ? [] : [{ kind: 'setSpines', count: 1 + (dice % 4) } as const]),
    ...(intent.shape === 'five-stages'
      ? ([
          { kind: 'setSpines', pods: Math.max(1 + (dice % 4), ...intent.racks.map((r) => r.pod ?? 1)) },
          { kind: 'setSpines', superSpines: 1 + (dice % 3) },
        ] as const)
      : []),
    ...(last ? [{ kind: 'placeRack', number: last.number, place: 'hall B' } as const] : []),
  ];
  return ways[dice % ways.length]!;
}

test('what is computed from the layout on never asks which tier something is of, nor names one', () => {
  const said = [
    'config',
    'dialects',
    'network',
    'proof',
    'rollout',
    'survey',
    'watch',
    'compile',
    'numbers',
    'read',
  ].flatMap((folder) =>
    readdirSync(new URL(`../${folder}/`, import.meta.url), { recursive: true, encoding: 'utf8' })
      .filter((f) => f.endsWith('.ts') && !f.includes('.test.'))
      .flatMap((f) =>
        readFileSync(new URL(`../${folder}/${f}`, import.meta.url), 'utf8')
          .split('\n')
          .filter((line) => /spine|\bleaf\b|leaf-|[Ll]eaf[A-Z]|countTiers|\.tier\b/i.test(line))
          .map((line) => `${folder}/${f}: ${line.trim()}`),
      ),
  );
  expect(said).toEqual([]);
});

describe('layout of any shape', () => {
  test('every seat once and named apart; every port at most once, and one the model has; both ends of every link seated', () => {
    fc.assert(
      fc.property(ofAnyShape, (intent) => {
        const { seats, links, seatById } = layOut(intent);
        expect(seats.map((s) => s.id)).toEqual(seatIds(intent));
        expect(new Set(seats.map((s) => s.host)).size).toBe(seats.length);
        const ends = links.flatMap((l) => [l.a, l.b]);
        expect(new Set(ends.map((e) => `${e.seat} ${e.port}`)).size).toBe(ends.length);
        for (const { seat, port } of ends) {
          const at = seatById.get(seat)!;
          const rack = intent.racks.find((r) => r.number === at.rack);
          const pattern = intent.rackPatterns.find((p) => p.name === rack?.pattern);
          const tier = at.tier === 'super-spine' ? intent.superSpines : intent.spines;
          const model = intent.models.find((m) => m.name === at.model)!;
          expect(portsOf(model, pattern ? pattern.breakouts : tier!.breakouts).has(port)).toBe(true);
          if (pattern) expect(expandPorts(pattern.serverPorts)).not.toContain(port);
        }
      }),
    );
  });

  test('sizing counts what is laid out', () => {
    fc.assert(
      fc.property(ofAnyShape, (intent) => {
        const { seats, links } = layOut(intent);
        const racks = intent.rackPatterns.map((p) => ({
          pattern: p.name,
          count: intent.racks.filter((r) => r.pattern === p.name).length / (intent.pods ?? 1),
        }));
        const size = sizePattern(
          { name: 'any', description: '', ...upperTiersOf(intent), racks, settings: intent.settings },
          { models: intent.models, rackPatterns: intent.rackPatterns },
        );
        expect(size.findings).toEqual([]);
        expect(size).toMatchObject({ switches: seats.length, links: links.length, racks: intent.racks.length });
        const { drawn } = configsOf(intent);
        const asns = drawn.entries.filter((e) => e.kind === 'asn').length;
        expect(size.draws.spineAsns + size.draws.leafAsns).toBe(asns);
      }),
      { numRuns: 60 },
    );
  });

  test('growing and shrinking moves no other cable, name or value, and every step can be undone', () => {
    fc.assert(
      fc.property(ofAnyShape, fc.array(fc.nat(), { minLength: 1, maxLength: 8 }), (start, moves) => {
        let intent = start;
        let entries = drawValues(demandsOf(intent, layOut(intent)), POOLS, NOTHING_HELD, owner).entries;
        for (const dice of moves) {
          const edit = grown(intent, dice);
          const made = applyEdit(intent, edit);
          if (made.findings.length > 0) continue;
          expect(describeEdit(edit, intent)).toMatch(/^\S.{4,}/);
          expect(applyEdits(made.intent, invertEdit(edit, intent))).toEqual({ intent, findings: [] });
          const [before, after] = [layOut(intent), layOut(made.intent)];
          for (const link of before.links) {
            const now = after.links.find((l) => l.id === link.id);
            if (now) expect(now).toEqual(link);
          }
          for (const cable of before.outward) {
            const now = after.outward.find((o) => o.id === cable.id);
            if (now) expect(now).toEqual(cable);
          }
          const far = after.outward.map((o) => `${o.far.name} ${o.far.port}`);
          expect(new Set(far).size).toBe(far.length);
          for (const seat of before.seats) {
            const now = after.seatById.get(seat.id);
            if (now) expect(now.host).toBe(seat.host);
          }
          const held = new Map(entries.map((e) => [e.key, e.value]));
          const drawn = drawValues(demandsOf(made.intent, after), POOLS, holdingsOf(entries, owner), owner);
          for (const [key, value] of drawn.values) if (held.has(key)) expect(value).toBe(held.get(key));
          entries = [...entries.filter((e) => drawn.values.get(e.key) === e.value), ...drawn.entries];
          intent = made.intent;
        }
      }),
      { numRuns: 60 },
    );
  });

  test('a rack stands in a pod that is there, or in none where there are none', () => {
    fc.assert(
      fc.property(ofAnyShape, fc.integer({ min: 1, max: 9 }), (intent, pod) => {
        const { pod: _, ...rack } = proposeRack(intent, RACK_PATTERNS[0]!, undefined, pod);
        const made = (of: object): boolean =>
          applyEdit(intent, { kind: 'addRack', rack: { ...rack, ...of } }).findings.every(
            (f) => f.path !== '/rack/pod',
          );
        expect(made({ pod })).toBe(intent.shape === 'five-stages' && pod <= intent.pods!);
        expect(made({})).toBe(intent.shape !== 'five-stages');
      }),
      { numRuns: 40 },
    );
  });

  test('any shape leads to any other and back', () => {
    fc.assert(
      fc.property(ofAnyShape, ofAnyShape, (from, to) => {
        expect(applyEdits(from, editsBetween(from, to))).toEqual({ intent: to, findings: [] });
      }),
      { numRuns: 40 },
    );
  });

  test('spines of a pod stand in for one another, super-spines of a plane likewise', () => {
    fc.assert(
      fc.property(otherIntents, (intent) => {
        const standing = standingOf(layOut(intent).seats);
        if (intent.shape === 'collapsed') expect(standing.size).toBe(0);
        else {
          for (let pod = 1; pod <= intent.pods!; pod++) expect(standing.get(`spine ${pod}`)).toBe(intent.spines.count);
          for (let plane = 1; plane <= intent.spines.count; plane++)
            expect(standing.get(`super-spine ${plane}`)).toBe(intent.superSpines!.count);
        }
      }),
      { numRuns: 20 },
    );
  });
});
