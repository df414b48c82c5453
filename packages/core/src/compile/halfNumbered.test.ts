import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { FABRIC_PATTERNS, layEdits, POOLS, RACK_PATTERNS, MODELS, skerryIntent } from '../demo/skerry.ts';
import { applyEdits, type Edit } from '../intent/edits/index.ts';
import { editsBetween } from '../intent/edits/editsBetween.ts';
import { emptyIntent, type FabricIntent } from '../intent/intent.ts';
import { checkIntent, readIntentFile, writeIntentFile } from '../intent/intentFile.ts';
import { halfOf, numberedBy } from '../layout/halves.ts';
import { layOut } from '../layout/layout.ts';
import { carries } from '../layout/links.ts';
import { modelNetwork } from '../network/modelNetwork.ts';
import { hasPods, shapeOf, type UnderlayKind } from '../patterns/patterns.ts';
import { checkFabricPattern } from '../patterns/checkFabricPattern.ts';
import { modelFabric, proveChange } from '../proof/proveChange.ts';
import { configsOf, intentOf, intents, otherIntents } from '../testing/fabricOf.ts';
import { compileFabric } from './compileFabric.ts';

const as = (intent: FabricIntent, underlay: UnderlayKind): FabricIntent => ({
  ...intent,
  settings: { ...intent.settings, underlay },
  seating: Object.fromEntries(layOut(intent).seats.map((s) => [s.id, `SN${s.id}`])),
});
/** What is held stays held: the /31s are those of the fabric that has them all. */
const state = (intent: FabricIntent) => ({ intent, values: configsOf(as(intent, 'numbered')).drawn.values });
const step = (intent: FabricIntent, from: UnderlayKind, to: UnderlayKind) =>
  proveChange(state(as(intent, from)), state(as(intent, to)), POOLS).report;
const together = (report: ReturnType<typeof step>) =>
  report.findings.filter((f) => f.rule.startsWith('both-ends-')).map((f) => [f.rule, f.severity, f.cure ?? '']);

/** Does every switch have two ways to everywhere, so that either half of the links is a whole fabric, and are there tunnels? */
const hasTwoWays = (intent: FabricIntent): boolean =>
  new Set(intent.networks.flatMap((n) => n.racks)).size > 1 &&
  intent.vrfs.length > 0 &&
  (shapeOf(intent) === 'three-stages' || shapeOf(intent) === 'five-stages'
    ? intent.spines.count > 1 || (intent.parallel > 1 && !hasPods(intent))
    : false);

describe('half of the links numbered', () => {
  test('is a sound fabric, of any shape: every session up, every rule held, half of the links drawn', () => {
    fc.assert(
      fc.property(fc.oneof(intents, otherIntents), (of) => {
        const intent = as(of, 'half-numbered');
        const { drawn, layout } = configsOf(intent);
        const compiled = compileFabric(intent, drawn.values, POOLS);
        expect(compiled.switches.flatMap((s) => [...s.findings, ...s.parsed.unread])).toEqual([]);
        expect(modelFabric(compiled).sessions.filter((s) => !s.up)).toEqual([]);
        const drawnFor = [...drawn.values.keys()].filter((k) => k.endsWith('/link')).length;
        expect(drawnFor).toBe(layout.links.filter((l) => carries(l) && halfOf(l) === 0).length);
        expect(layout.links.every((l) => numberedBy(as(of, 'numbered'))(l) === carries(l))).toBe(true);
        expect(layout.links.some(numberedBy(as(of, 'unnumbered')))).toBe(false);
      }),
      { numRuns: 40 },
    );
  });

  test('each of the two steps leaves the other half whole, where every switch has two ways', () => {
    fc.assert(
      fc.property(
        fc.oneof(intents, otherIntents).filter((i) => hasTwoWays(i)),
        fc.infiniteStream(fc.boolean()),
        (intent, coin) => {
          for (const [from, to] of [
            ['numbered', 'half-numbered'],
            ['half-numbered', 'unnumbered'],
          ] as const) {
            expect(together(step(intent, from, to)).map(([rule]) => rule)).toEqual(['both-ends-carried']);
            // Held to the network: whichever of them have their new text already, every tunnel end hears every other.
            const [was, will] = [from, to].map((underlay) => {
              const { values } = state(as(intent, underlay));
              return compileFabric(as(intent, underlay), values, POOLS);
            });
            const mixed = was!.switches.map((s, i) => ({
              host: s.seat.host,
              ...(coin.next().value ? will! : was!).switches[i]!.parsed,
            }));
            expect(modelNetwork(mixed, was!.cables).unheard).toEqual([]);
          }
        },
      ),
      { numRuns: 15 },
    );
  }, 60_000);

  test('is what the change from one to the other at once is told to go by; where there is one way only, it is said to stand still', () => {
    const direct = together(step(skerryIntent(), 'numbered', 'unnumbered'));
    expect(direct).toEqual([
      ['both-ends-together', 'warning', expect.stringMatching(/In two steps, first with half of the links numbered/)],
    ]);
    expect(together(step(skerryIntent(), 'unnumbered', 'half-numbered'))).toEqual([
      ['both-ends-carried', 'note', expect.stringMatching(/while all links are up/)],
    ]);
    const alone = intentOf(
      ...layEdits({ ...FABRIC_PATTERNS[1]!, spines: { count: 1, model: 'TV-S32C' }, settings: {} }),
    );
    for (const to of ['half-numbered', 'numbered'] as const)
      expect(together(step(alone, 'unnumbered', to)).map(([rule]) => rule)).toEqual(['both-ends-together']);
  });

  test('under OSPF too: what goes between loopbacks goes over the other half', () => {
    const led = { ...skerryIntent(), settings: { ...skerryIntent().settings, asnScheme: 'single' as const } };
    const rules = (from: UnderlayKind, to: UnderlayKind) => together(step(led, from, to)).map(([rule]) => rule);
    expect(rules('numbered', 'half-numbered')).toEqual(['both-ends-carried']);
    expect(rules('numbered', 'unnumbered')).toEqual(['both-ends-together']);
  });

  test('is no way to begin: a pattern that says so is refused at the field', () => {
    const pattern = { ...FABRIC_PATTERNS[0]!, settings: { underlay: 'half-numbered' as const } };
    expect(checkFabricPattern(pattern, { models: MODELS, rackPatterns: RACK_PATTERNS })).toMatchObject([
      { path: '/settings/underlay', cure: 'Begin with numbered or unnumbered links.' },
    ]);
    const changed: Edit = { kind: 'changeSettings', settings: { underlay: 'half-numbered' } };
    const { intent: half, findings } = applyEdits(skerryIntent(), [changed]);
    expect(findings).toEqual([]);
    // A fabric that is half-way is whole all the same: its file is read, it grows, and a revision of it can be returned to.
    expect(checkIntent(half)).toEqual([]);
    expect(readIntentFile(writeIntentFile({ anthemion: 1, fabric: half, pools: POOLS, ledger: [] }))).toHaveProperty(
      'file',
    );
    const empty = emptyIntent(half.name, half.namePrefix);
    expect(applyEdits(empty, editsBetween(empty, half))).toEqual({ intent: half, findings: [] });
  });
});
