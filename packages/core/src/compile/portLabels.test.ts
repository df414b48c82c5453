import fc from 'fast-check';
import { expect, test } from 'vitest';
import { configDifferences } from '../config/differences.ts';
import { placeKey } from '../config/switchConfig.ts';
import { POOLS, skerryIntent } from '../demo/skerry.ts';
import { linux } from '../dialects/linux/linux.ts';
import { modelNetwork } from '../network/modelNetwork.ts';
import { configsOf, wideIntents } from '../testing/fabricOf.ts';
import { policyIntents } from '../testing/policiesOf.ts';
import { labelled, relabelled } from '../testing/relabelled.ts';
import { compileFabric } from './compileFabric.ts';
import { cablesBySerial } from './onSwitches.ts';

const compiled = (intent: Parameters<typeof configsOf>[0]) =>
  compileFabric(intent, configsOf(intent).drawn.values, POOLS);

test.each(['x-0/0/', 'x0/', 'port0.'])(
  'what a maker labels %s changes not one byte on a switch but where its words are said',
  (mark) => {
    // `x-0/0/7` and `x0/7` have the numbers of `p7`: LAGs and segments stay what they are.
    const plain = (text: string): string => text.replaceAll(mark, 'p');
    fc.assert(
      fc.property(fc.oneof(wideIntents, policyIntents), (intent) => {
        const [was, now] = [compiled(intent), compiled(relabelled(intent, mark))];
        expect(now.switches.length).toBe(was.switches.length);
        for (const [i, s] of now.switches.entries()) {
          const before = was.switches[i]!;
          for (const [name, text] of Object.entries(s.files)) expect(plain(text)).toBe(before.files[name]);
          expect(configDifferences(s.config, s.parsed.config)).toEqual([]);
          expect(s.parsed.unread).toEqual([]);
          // All that is told of a port is told by its label: the text has the other name.
          expect(s.config.ports.every((p) => !/^p\d/.test(p.name))).toBe(true);
        }
        const [model, before] = [now, was].map((c) =>
          modelNetwork(
            c.switches.map((s) => ({ host: s.seat.host, ...s.parsed })),
            c.cables,
          ),
        );
        const told = (m: typeof model) =>
          m!.sessions.map((s) => plain(JSON.stringify([s.host, s.port, s.farHost, s.up])));
        expect(told(model).sort()).toEqual(told(before).sort());
      }),
      { numRuns: 12 },
    );
  },
);

test('lines are found by the label, and cables go by what the switches call their ports', () => {
  const intent = relabelled(skerryIntent(), 'x0/');
  const leaf = compiled(intent).switches.find((s) => s.seat.host === 'sk-lf-01')!;
  expect(leaf.files['interfaces']).toContain('iface p49\n    alias sk-sp-01 x0/');
  const lines = new Map<string, string>();
  leaf.dialect.parse(leaf.files, (place, file, line) => {
    lines.set(placeKey(place), leaf.files[file]!.split('\n')[line - 1]!.trim());
  });
  expect(lines.get(placeKey(['ports', 'x0/49', 'mtu']))).toMatch(/^mtu \d+$/);
  // A line nobody understands puts in doubt what is called by its label.
  const odd = leaf.files['frr.conf']!.replace(/(\n neighbor p49 [^\n]+)/, '$1\n neighbor p49 hum 7');
  expect(leaf.dialect.parse({ ...leaf.files, 'frr.conf': odd }).unread).toMatchObject([
    { text: 'neighbor p49 hum 7', doubts: ['bgp', 'peers', 'x0/49'] },
  ]);
  // Without its model a text has the names that stand in it.
  expect(linux.parse(leaf.files).config.ports.map((p) => p.name)).toContain('p49');
  const { layout } = compiled(intent);
  const seating = Object.fromEntries(layout.seats.map((s) => [s.id, `SN-${s.id}`]));
  const cables = cablesBySerial({ ...intent, seating }, layout);
  expect(cables.length).toBe(layout.links.length);
  for (const { a, b } of cables) expect([a.port, b.port].every((p) => /^p\d+$/.test(p))).toBe(true);
  expect(labelled('p1-p48,p49s1', 'e1/')).toBe('e1/1-e1/48,e1/49s1');
});
