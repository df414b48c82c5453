import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { POOLS, skerryIntent } from '../demo/skerry.ts';
import { linux } from '../dialects/linux/linux.ts';
import { applyEdit, applyEdits, describeEdit, type Edit } from '../intent/edits/index.ts';
import { editsBetween } from '../intent/edits/editsBetween.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { layOut } from '../layout/layout.ts';
import { isForTraffic } from '../layout/links.ts';
import { isRouted } from '../patterns/patterns.ts';
import { proveChange } from '../proof/proveChange.ts';
import { configsOf, wideIntents } from '../testing/fabricOf.ts';
import { networkOf } from '../testing/networkOf.ts';

const skerry = skerryIntent();
const made = (base: FabricIntent, ...edits: Edit[]): FabricIntent => {
  const { intent, findings } = applyEdits(base, edits);
  expect(findings).toEqual([]);
  return intent;
};
const shut = (link: string): Edit => ({ kind: 'shutLink', link });
const shutIn = (intent: FabricIntent): string[] => intent.shutLinks.map((l) => l.link);
/** What the proof says of a change beside its rules that hold. */
const proof = (before: FabricIntent, after: FabricIntent) => {
  const state = (intent: FabricIntent) => ({ intent, values: configsOf(intent).drawn.values });
  return proveChange(state(before), state(after), POOLS).report.findings.map((f) => [f.severity, f.rule, f.message]);
};

describe('links that are shut', () => {
  test('both ends are dark and speak to nobody over it; nothing is drawn anew, no other switch says anything else, and opened it is as before', () => {
    fc.assert(
      fc.property(wideIntents, fc.array(fc.nat(), { minLength: 1, maxLength: 3 }), (intent, picked) => {
        const { links } = layOut(intent);
        if (links.length === 0) return;
        const ids = [...new Set(picked.map((n) => links[n % links.length]!.id))].sort();
        const closed = made(intent, ...ids.map(shut));
        const [before, after] = [configsOf(intent), configsOf(closed)];
        expect(after.drawn.values).toEqual(before.drawn.values);
        const touched = new Map<string, Set<string>>();
        for (const l of links.filter((x) => ids.includes(x.id)))
          for (const { seat, port } of [l.a, l.b]) touched.set(seat, (touched.get(seat) ?? new Set()).add(port));
        for (const [seat, config] of after.configs) {
          const was = before.configs.get(seat)!;
          const ports = touched.get(seat);
          if (!ports) expect(config).toEqual(was);
          expect(config.ports.filter((p) => p.shut && ports?.has(p.name)).length).toBe(ports?.size ?? 0);
          const { files } = linux.render(config);
          expect(linux.parse(files)).toMatchObject({ config, unread: [] });
        }
        if (isRouted(intent)) {
          // Each end over such a link is gone; all others are as they were. (Those over routes count by their switches.)
          const ends = new Set(
            links
              .filter((l) => ids.includes(l.id) && isForTraffic(l))
              .flatMap((l) => [l.a, l.b].map((e) => `${layOut(intent).seatById.get(e.seat)!.host} ${e.port}`)),
          );
          const sessions = (i: FabricIntent) =>
            networkOf(i).network.sessions.map((s) => [s.host, s.port, s.peer, s.up]);
          expect(sessions(closed)).toEqual(sessions(intent).filter(([host, port]) => !ends.has(`${host} ${port}`)));
        }
        expect(made(closed, ...editsBetween(closed, intent))).toEqual(intent);
        expect(made(intent, ...editsBetween(intent, closed))).toEqual(closed);
      }),
      { numRuns: 60 },
    );
  });

  test('the proof says what is lost, and nothing else: of many ways one, of the last the fabric', () => {
    const one = made(skerry, shut('leaf-1:spine-2:1'));
    expect(proof(skerry, one).filter(([severity]) => severity === 'error')).toEqual([]);
    const all = made(skerry, ...[1, 2, 3, 4].map((n) => shut(`leaf-1:spine-${n}:1`)));
    expect(proof(skerry, all).filter(([severity]) => severity === 'error').length).toBeGreaterThan(0);
  });

  test('a link that goes with its rack, or its spine, does not come back shut', () => {
    const base = made(skerry, shut('leaf-3:spine-4:1'), shut('leaf-1:spine-2:1'));
    expect(describeEdit({ kind: 'removeRack', number: 3 }, base)).toMatch(/and 1 shut link/);
    const fewer = made(base, { kind: 'setSpines', count: 3 });
    expect(shutIn(fewer)).toEqual(['leaf-1:spine-2:1']);
    expect(shutIn(made(fewer, { kind: 'setSpines', count: 4 }))).toEqual(['leaf-1:spine-2:1']);
    // What is undone has it again.
    expect(made(fewer, ...editsBetween(fewer, base))).toEqual(base);
  });

  test('what is no link, or is so already, is refused; sentences name both ends', () => {
    const said = (intent: FabricIntent, edit: Edit) =>
      applyEdit(intent, edit).findings.map((f) => [f.rule, f.path, f.message]);
    const one = made(skerry, shut('leaf-1:spine-2:1'));
    expect(said(skerry, shut('leaf-1:spine-9:1'))).toEqual([
      ['link-known', '/link', 'There is no link leaf-1:spine-9:1.'],
    ]);
    expect(said(one, shut('leaf-1:spine-2:1'))).toEqual([
      ['object-new', '/link', 'Link sk-lf-01 p50 – sk-sp-02 p1 is shut already.'],
    ]);
    expect(said(skerry, { kind: 'openLink', link: 'leaf-1:spine-2:1' })).toHaveLength(1);
    expect(describeEdit(shut('leaf-1:spine-2:1'), skerry)).toBe('Shut link sk-lf-01 p50 – sk-sp-02 p1');
    expect(describeEdit({ kind: 'openLink', link: 'leaf-1:spine-2:1' }, one)).toBe(
      'Open link sk-lf-01 p50 – sk-sp-02 p1',
    );
  });
});
