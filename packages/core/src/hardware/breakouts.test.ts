import { describe, expect, test } from 'vitest';
import { applyEdit } from '../intent/edits/index.ts';
import { DEFAULT_SETTINGS, type FabricPattern, type RackPattern } from '../patterns/patterns.ts';
import { checkRackPattern } from '../patterns/rackPattern.ts';
import { sizePattern } from '../patterns/sizing.ts';
import { FABRIC_PATTERNS, MODELS, RACK_PATTERNS, skerryIntent } from '../demo/skerry.ts';
import { layOut } from '../layout/layout.ts';
import { unlikeSpeeds } from '../layout/linkSpeeds.ts';
import { breakoutsWrong, portsOf } from './switchModel.ts';

const [leaf, spine] = [MODELS.find((m) => m.name === 'TV-L48F')!, MODELS.find((m) => m.name === 'TV-S32C')!];
const split = RACK_PATTERNS.find((r) => r.name === 'split-64')!;

describe('break-outs', () => {
  test('parts stand in the place of the cage, with their share of its speed', () => {
    const ports = portsOf(spine, [{ ports: 'p2', into: 4 }]);
    expect([...ports].slice(0, 6)).toEqual([
      ['p1', 100],
      ['p2s1', 25],
      ['p2s2', 25],
      ['p2s3', 25],
      ['p2s4', 25],
      ['p3', 100],
    ]);
    expect(ports.size).toBe(35);
  });

  test.each([
    [[{ ports: 'p57', into: 4 }], 'TV-L48F has no port p57.', 'Its ports are p1-p48, p49-p56.'],
    [[{ ports: 'p50,p1', into: 4 }], 'p1 of TV-L48F cannot be split into 4.', 'Its ports cannot be split'],
    [[{ ports: 'p49', into: 8 }], 'p49 of TV-L48F cannot be split into 8.', 'It can be split into 2 or 4.'],
    [
      [
        { ports: 'p49', into: 4 },
        { ports: 'p48-p49', into: 2 },
      ],
      'p48 of TV-L48F cannot be split into 2.',
      'Its ports cannot be split',
    ],
    [
      [
        { ports: 'p49-p50', into: 4 },
        { ports: 'p50', into: 2 },
      ],
      'p50 is split twice.',
      'Keep one of the two.',
    ],
  ])('%o is refused, with the cure', (breakouts, message, cure) => {
    const [wrong] = breakoutsWrong(leaf, breakouts);
    expect(wrong).toMatchObject({ message, at: breakouts.length - 1 });
    expect(wrong!.cure).toContain(cure);
  });

  test('a rack pattern names parts, not cages that are split; a single leaf has no peer', () => {
    const findings = (of: Partial<RackPattern>) =>
      checkRackPattern({ ...split, ...of }, MODELS).map((f) => [f.path, f.message]);
    expect(findings({})).toEqual([]);
    expect(findings({ uplinkPorts: 'p49-p53' })).toEqual([['/uplinkPorts', 'p53 is split.']]);
    expect(findings({ serverPorts: 'p1-p48,p49s1' })).toEqual([
      ['/serverPorts', 'TV-L48F has no port p49s1; it has 68 ports.'],
    ]);
    expect(findings({ serverPorts: 'p1-p46', peerPorts: 'p47', keepalivePorts: 'p47' })).toEqual([
      ['/keepalivePorts', 'Port p47 is used twice.'],
      ['/peerPorts', 'One leaf has no other half.'],
      ['/keepalivePorts', 'One leaf has no other half.'],
    ]);
  });

  test('sizing counts the parts, and the fewest of unlike models', () => {
    const pattern: FabricPattern = {
      ...FABRIC_PATTERNS[0]!,
      spines: { count: 2, model: 'TV-S32C', breakouts: [{ ports: 'p1-p16', into: 4 }] },
      racks: [{ pattern: 'single-48', count: 70 }],
      settings: DEFAULT_SETTINGS,
    };
    const parts = { models: MODELS, rackPatterns: RACK_PATTERNS };
    expect(sizePattern(pattern, parts)).toMatchObject({ findings: [], largestLeaves: 80 });
    const unlike = { ...pattern, spines: { ...pattern.spines, others: [{ number: 2, model: 'TV-L48F' }] } };
    expect(sizePattern(unlike, parts).findings.map((f) => [f.path, f.message])).toEqual([
      ['/spines/breakouts/0/ports', 'p1 of TV-L48F cannot be split into 4.'],
    ]);
    const few = {
      ...pattern,
      spines: { ...unlike.spines, breakouts: [] },
      racks: [{ pattern: 'single-48', count: 57 }],
    };
    expect(sizePattern(few, parts)).toMatchObject({
      tiers: [{ portsFitted: 32 }],
      findings: [{ path: '/spines/model' }, { path: '/spines/others/0/model', message: /TV-L48F has 56/ }].map((f) =>
        'message' in f ? { ...f, message: expect.stringMatching(f.message!) as string } : f,
      ),
    });
  });

  test('links whose ends differ in speed are refused in a pattern, and found in a fabric', () => {
    const split: FabricPattern = {
      ...FABRIC_PATTERNS[0]!,
      spines: { count: 2, model: 'TV-S32C', breakouts: [{ ports: 'p1-p32', into: 4 }] },
      racks: [{ pattern: 'single-48', count: 2 }],
    };
    const parts = { models: MODELS, rackPatterns: RACK_PATTERNS };
    expect(sizePattern(split, parts).findings.map((f) => [f.path, f.message])).toEqual([
      ['/racks/0/pattern', 'Uplinks of single-48 have 100G, ports of TV-S32C 25G.'],
    ]);
    const skerry = skerryIntent();
    expect(unlikeSpeeds(skerry, layOut(skerry))).toEqual([]);
    const made = applyEdit(skerry, { kind: 'setSpines', breakouts: [{ ports: 'p2', into: 4 }] }).intent;
    // Four leaves by four spines have a part of a split port now.
    expect(unlikeSpeeds(made, layOut(made)).map((f) => [f.host, f.message, f.subjects])).toEqual([
      ['sk-lf-02', 'sk-lf-02 p49 has 100G, sk-sp-01 p2s1 has 25G, and 15 more links alike.', ['rack:2']],
    ]);
  });

  test('spines of a living fabric: what cannot be split, and models that are not known, are refused at their place', () => {
    const skerry = skerryIntent();
    const refused = (edit: object) =>
      applyEdit(skerry, { kind: 'setSpines', ...edit }).findings.map((f) => [f.path, f.message]);
    expect(refused({ breakouts: [{ ports: 'p1', into: 8 }] })).toEqual([
      ['/breakouts/0/ports', 'p1 of TV-S32C cannot be split into 8.'],
    ]);
    expect(refused({ others: [{ number: 1, model: 'XX-1' }] })).toEqual([
      ['/others/0/model', 'There is no switch model XX-1.'],
    ]);
    expect(refused({ superBreakouts: [{ ports: 'p1', into: 4 }] })).toEqual([
      ['/superBreakouts', 'Only a fabric of five stages has these.'],
    ]);
  });
});
