import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { linux } from '../dialects/linux/linux.ts';
import { applyEdit, applyEdits, type Edit } from '../intent/edits/index.ts';
import { editsBetween } from '../intent/edits/editsBetween.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { layOut } from '../layout/layout.ts';
import { cablesOf } from '../layout/links.ts';
import { POOLS, skerryIntent } from '../demo/skerry.ts';
import { proveChange } from '../proof/proveChange.ts';
import { checkDescriptions, DEFAULT_DESCRIPTIONS, describedBy, serverIn } from '../patterns/descriptions.ts';
import { pastedInto, tableCells } from '../tables/table.ts';
import { TABLES } from '../tables/index.ts';
import { configsOf } from '../testing/fabricOf.ts';
import { drivenIntents } from '../testing/drivenOf.ts';
import { joinedBorder, putNeighbourOf } from '../testing/joinedBorder.ts';
import { networkOf as compiledOf, otherwise } from '../testing/networkOf.ts';
import { compileFabric } from './compileFabric.ts';
import { handOver } from './handOver.ts';

const skerry = skerryIntent();
const networkOf = (intent: FabricIntent) => compiledOf(intent).network;
const made = (base: FabricIntent, ...edits: Edit[]): FabricIntent => {
  const { intent, findings } = applyEdits(base, edits);
  expect(findings).toEqual([]);
  return intent;
};
const refused = (base: FabricIntent, edit: Edit) =>
  applyEdit(base, edit).findings.map((f) => [f.rule, f.path, f.message, f.cure]);
const settings = (of: Partial<FabricIntent['settings']>): Edit => ({ kind: 'changeSettings', settings: of });
/** What the proof says of a change, by rule. */
const proof = (before: FabricIntent, after: FabricIntent) => {
  const state = (intent: FabricIntent) => ({ intent, values: configsOf(intent).drawn.values });
  return proveChange(state(before), state(after), POOLS).report.findings;
};

describe('ports that are told how they are driven', () => {
  test('whatever they are told: text reads back the same, and no session is otherwise than without', () => {
    fc.assert(
      fc.property(drivenIntents, (intent) => {
        const { configs } = configsOf(intent);
        for (const config of configs.values()) {
          const { files } = linux.render(config);
          const back = linux.parse(files);
          expect(back.unread).toEqual([]);
          expect(back.config).toEqual(config);
        }
        const silent = {
          ...intent,
          settings: { ...intent.settings, linkFec: 'unsaid' as const },
          ports: intent.ports.map(({ speed: _, fec: __, ...p }) => p),
          outside: intent.outside.map(({ speed: _, fec: __, ...o }) => o),
        };
        expect(networkOf(intent).sessions).toEqual(networkOf(silent).sessions);
        // From one to the other and back by edits, each of which can be made.
        expect(made(silent, ...editsBetween(silent, intent))).toEqual(intent);
        expect(made(intent, ...editsBetween(intent, silent))).toEqual(silent);
      }),
      { numRuns: 40 },
    );
  });

  test('a table goes out and comes in again and changes nothing; a row that says nothing of it keeps it', () => {
    const port = skerry.ports.find((p) => p.side !== 'both')!;
    const driven = made(skerry, { kind: 'changeServer', port: { ...port, speed: 10, fec: 'base-r', shut: true } });
    const cells = tableCells(TABLES.ports, driven);
    expect(cells.find((c) => c.includes(port.server))).toEqual(
      expect.arrayContaining(['shut', '10 Gb/s', 'BASE-R FEC']),
    );
    expect(pastedInto(TABLES.ports, driven, null, cells).lines.flatMap((l) => [...l.edits, ...l.findings])).toEqual([]);
    const paste = (intent: FabricIntent, text: string) =>
      pastedInto(
        TABLES.ports,
        intent,
        null,
        text.split('\n').map((l) => l.split(';')),
      ).lines.at(-1)!;
    const row = `server;rack;port;side;untagged;speed\n${port.server};${port.rack};${port.port};${port.side};${port.untagged ?? ''}`;
    expect(paste(driven, `${row};`).edits.flatMap((e) => (e.kind === 'changeServer' ? e.port : []))).toEqual(
      port.tagged.length === 0 ? [] : [{ ...port, tagged: [], speed: 10, fec: 'base-r', shut: true }],
    );
    expect(paste(driven, `${row};25G`).edits).toMatchObject([
      { kind: 'changeServer', port: { speed: 25, fec: 'base-r' } },
    ]);
    expect(paste(driven, `${row};26`).findings[0]!.message).toBe(
      '“26” cannot be read as speed. Write one of 1, 10, 25, 40, 50, 100, 200, 400, in Gb/s.',
    );
  });

  test('what a port has not is refused at its field, with the cure; also where the rack is split', () => {
    const port = skerry.ports[0]!;
    const tell = (of: object) => refused(skerry, { kind: 'changeServer', port: { ...port, ...of } });
    expect(tell({ speed: 40 })).toEqual([
      ['port-drive', '/port/speed', `${port.port} runs at 25 Gb/s at most.`, 'Choose 1, 10, 25, or leave it empty.'],
    ]);
    expect(tell({ speed: 10, fec: 'rs' })).toEqual([
      [
        'port-drive',
        '/port/fec',
        'A line of 10 Gb/s has no RS-FEC.',
        'Choose BASE-R FEC or no FEC, or leave it empty.',
      ],
    ]);
    expect(tell({ speed: 1, fec: 'base-r' })[0]).toEqual([
      'port-drive',
      '/port/fec',
      'A line of 1 Gb/s has no BASE-R FEC.',
      'Choose no FEC, or leave it empty.',
    ]);
    expect(tell({ speed: 25, fec: 'rs' })).toEqual([]);
    const { outside } = joinedBorder;
    expect(refused(joinedBorder, { kind: 'changeOutside', link: { ...outside[0]!, speed: 100 } })[0]![1]).toBe(
      '/link/speed',
    );
  });

  test('a link outside is shut, opened, driven and led elsewhere in its place: who is spoken to over it stays', () => {
    const spoken = made(joinedBorder, putNeighbourOf());
    const link = spoken.outside[0]!;
    const change = (of: object): FabricIntent => made(spoken, { kind: 'changeOutside', link: { ...link, ...of } });
    expect(change({ farPort: 'eth9' }).neighbours).toEqual(spoken.neighbours);
    const driven = change({ speed: 10, fec: 'off' });
    const port = (intent: FabricIntent, name: string) =>
      [...configsOf(intent).configs.values()].flatMap((c) => c.ports).find((p) => p.name === name);
    expect(port(driven, link.port)).toMatchObject({ speed: 10, fec: 'off' });
    const { values } = configsOf(driven).drawn;
    expect(handOver(driven, compileFabric(driven, values, POOLS), values)[0]!.text).toMatch(
      /^! eth1: .*, MTU 9216, 10 Gb\/s, no FEC, to /m,
    );
    const shut = change({ shut: true });
    // The session over it is closed, which is no finding, and it comes back as it was.
    const over = networkOf(shut).sessions.filter((s) => s.peer === spoken.neighbours[0]!.far);
    expect(over.map((s) => [s.up, s.reason])).toEqual([[false, 'closed here (shutdown)']]);
    expect(proof(spoken, shut).filter((f) => f.severity !== 'note')).toEqual([]);
    expect(made(shut, { kind: 'changeOutside', link })).toEqual(spoken);
    const more = made(spoken, { kind: 'joinOutside', link: { ...link, side: 'b', port: 'p45', farPort: 'eth7' } });
    expect(refused(more, { kind: 'changeOutside', link: { ...link, farPort: 'eth7' } })[0]![1]).toBe('/link/farPort');
  });

  test('of two ends that say otherwise there is no light: sessions over them are down, and no others', () => {
    const network = networkOf(skerry);
    const [{ a, b }] = cablesOf(layOut(skerry)) as [ReturnType<typeof cablesOf>[number]];
    const told = (host: string, port: string, of: object, from = network) =>
      otherwise(from, host, (c) => ({ ...c, ports: c.ports.map((p) => (p.name === port ? { ...p, ...of } : p)) }));
    const over = (n: typeof network, of: 'up' | 'unsure') =>
      n.sessions
        .filter((s) => (of === 'up' ? !s.up : s.unsure !== undefined))
        .map((s) => [s.host, s.port, s.reason ?? s.unsure]);
    expect([over(network, 'up'), over(network, 'unsure')]).toEqual([[], []]);
    // One end alone: it hangs on what the other has by itself.
    const one = told(a.host, a.port, { fec: 'rs' });
    expect(over(one, 'up')).toEqual([]);
    expect(over(one, 'unsure').sort()).toEqual(
      [
        [a.host, a.port, `${a.port} has RS-FEC, ${b.port} of ${b.host} is told nothing`],
        [b.host, b.port, `${a.port} of ${a.host} has RS-FEC, ${b.port} is told nothing`],
      ].sort(),
    );
    const dark = told(b.host, b.port, { fec: 'base-r' }, one);
    expect(over(dark, 'up').sort()).toEqual(
      [
        [a.host, a.port, `${a.port} has RS-FEC, ${b.port} of ${b.host} has BASE-R FEC`],
        [b.host, b.port, `${b.port} has BASE-R FEC, ${a.port} of ${a.host} has RS-FEC`],
      ].sort(),
    );
    expect(over(told(b.host, b.port, { fec: 'rs' }, one), 'unsure')).toEqual([]);
    const twice = told(b.host, b.port, { fec: 'base-r', speed: 40 }, told(a.host, a.port, { fec: 'rs', speed: 100 }));
    expect(over(twice, 'up')).toHaveLength(2);
    // The same where OSPF leads: its neighbours are named, and the other ways carry what went there.
    const led = networkOf(made(skerry, settings({ asnScheme: 'single' })));
    const lost = told(b.host, b.port, { speed: 40 }, told(a.host, a.port, { speed: 100 }, led));
    expect(lost.ospf!.adjacencies.filter((x) => !x.up).map((x) => [x.host, x.port, x.reason])).toEqual(
      expect.arrayContaining([
        [
          a.host,
          a.port,
          `${a.port} runs at 100 Gb/s, ${b.port} of ${b.host} at 40 Gb/s`.replace(' at 40', ' runs at 40'),
        ],
      ]),
    );
    expect(lost.sessions.filter((s) => !s.up)).toEqual([]);
  });

  test('FEC of all links is a change of both ends: they are sent together, from unsaid as from another', () => {
    const rs = made(skerry, settings({ linkFec: 'rs' }));
    for (const [before, after, why] of [
      [skerry, rs, 'is told nothing'],
      [rs, made(rs, settings({ linkFec: 'off' })), 'has no FEC'],
    ] as const) {
      const said = proof(before, after).filter((f) => f.rule.startsWith('both-ends'));
      expect(said.map((f) => [f.rule, f.subjects])).toEqual([['both-ends-together', ['setting:linkFec']]]);
      expect(said[0]!.message).toContain(why);
    }
    expect(
      proof(skerry, made(skerry, settings({ linkFec: 'base-r' }))).filter((f) => f.rule === 'ports-driven'),
    ).toEqual([
      expect.objectContaining({
        subjects: ['setting:linkFec'],
        message: expect.stringMatching(
          /^sk-\w+-\w+ p\d+ and \d+ more: A line of 100 Gb\/s has no BASE-R FEC\.$/,
        ) as string,
      }),
    ]);
  });
});

describe('descriptions by a scheme', () => {
  test('say what their words stand for; a server is found again in its own', () => {
    fc.assert(
      fc.property(drivenIntents, ({ settings: of, ports }) => {
        for (const p of ports) {
          const text = describedBy(of, 'serverDescription', { server: p.server, rack: p.rack, own: p.port });
          expect(serverIn(of, text, p.rack, p.port)).toBe(p.server);
          expect(serverIn(of, `${text} !`, p.rack, p.port)).toBe(null);
        }
      }),
      { numRuns: 40 },
    );
  });

  test.each([
    [{ linkDescription: '{far} {nobody}' }, '/settings/linkDescription', '{nobody} is not known in this description.'],
    [{ outsideDescription: '{server}' }, '/settings/outsideDescription', '{server} is not known in this description.'],
    [
      { serverDescription: 'rack {rack}' },
      '/settings/serverDescription',
      'The name of the server has to stand in it once.',
    ],
    [
      { serverDescription: '{server} {server}' },
      '/settings/serverDescription',
      'The name of the server has to stand in it once.',
    ],
    [{ linkDescription: 'a {far' }, '/settings/linkDescription', '{} is not known in this description.'],
  ])('%o is refused at its field', (of, path, message) => {
    expect(refused(skerry, settings(of)).map(([, p, m]) => [p, m])).toEqual([[path, message]]);
    expect(checkDescriptions({ ...DEFAULT_DESCRIPTIONS, ...of })).toHaveLength(1);
  });
});
