import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { PortConfig } from '../config/interfaces.ts';
import { POOLS } from '../demo/skerry.ts';
import { linux } from '../dialects/linux/linux.ts';
import { editsBetween } from '../intent/edits/editsBetween.ts';
import { applyEdit, applyEdits, describeEdit, type Edit } from '../intent/edits/index.ts';
import type { FabricIntent, OutsideLink } from '../intent/intent.ts';
import { lagText, readLag } from '../intent/outsideLag.ts';
import { configsOf } from '../testing/fabricOf.ts';
import { bundledIntents, unbundled } from '../testing/lagsOf.ts';
import { joinedBorder, putNeighbourOf } from '../testing/joinedBorder.ts';
import { networkOf, otherwise, prefixesAt, subjectsOn } from '../testing/networkOf.ts';
import { proveChange } from '../proof/proveChange.ts';
import { neighbourRows } from '../routing/neighbourRows.ts';
import { modelNetwork } from '../network/modelNetwork.ts';
import { TABLES } from '../tables/index.ts';
import { pastedInto, tableCells } from '../tables/table.ts';
import { handOver } from './handOver.ts';

const made = (base: FabricIntent, ...edits: Edit[]): FabricIntent => {
  const { intent, findings } = applyEdits(base, edits);
  expect(findings).toEqual([]);
  return intent;
};
const link = joinedBorder.outside.find((o) => o.side === 'a')!;
const bundled: OutsideLink = { ...link, lag: [{ port: 'p45', farPort: 'eth5' }] };
const bundle = (of: Partial<OutsideLink> = {}): Edit => ({ kind: 'changeOutside', link: { ...bundled, ...of } });
/** A session without a tag and one in a VLAN, over two cables that are one. */
const spoken = made(
  joinedBorder,
  bundle(),
  putNeighbourOf(),
  putNeighbourOf({ vlan: 200, vrf: 'charts', address: '192.0.2.8/31', far: '192.0.2.9' }),
);
const HOST = 'tn-lf-01a';

describe('links outside of several cables', () => {
  test('whatever is a LAG: text reads back the same, sessions are as over single ports, and edits lead there and back', () => {
    fc.assert(
      fc.property(bundledIntents, (intent) => {
        for (const config of configsOf(intent).configs.values()) {
          const back = linux.parse(linux.render(config).files);
          expect(back.unread).toEqual([]);
          expect(back.config).toEqual(config);
        }
        const plain = unbundled(intent);
        const sessions = (of: FabricIntent) => networkOf(of).network.sessions.map(({ port: _, ...s }) => s);
        expect(sessions(intent)).toEqual(sessions(plain));
        const there = (from: FabricIntent, to: FabricIntent): FabricIntent => {
          const { intent: made, findings } = applyEdits(from, editsBetween(from, to));
          expect(findings).toEqual([]);
          return made;
        };
        expect(there(plain, intent)).toEqual(intent);
        expect(there(intent, plain)).toEqual(plain);
        for (const { lag } of intent.outside) if (lag) expect(readLag(lagText(lag))).toEqual(lag);
      }),
      { numRuns: 40 },
    );
  });

  test('text: the members, the LAG with its address and VRF, its VLAN; each says what it is there for', () => {
    const { compiled } = networkOf(spoken);
    const text = compiled.switches.find((s) => s.seat.host === HOST)!.files['interfaces']!;
    const stanza = (name: string) =>
      new RegExp(`^iface ${name.replace('.', '\\.')}\n((?: .*\n)*)`, 'm').exec(text)![1]!;
    expect(stanza('p45')).toBe('    alias offing-1 eth5\n    mtu 9216\n');
    expect(stanza('bond46')).toBe(
      '    alias offing-1 eth1+eth5\n    bond-slaves p45 p46\n    bond-mode 802.3ad\n    bond-miimon 100\n    bond-lacp-rate 1\n    address 192.0.2.0/31\n    mtu 9216\n    vrf tides\n',
    );
    expect(stanza('bond46.200')).toContain('    address 192.0.2.8/31\n    mtu 9216\n    vrf charts\n');
    // Each line of the LAG is known as one of the port that it is.
    const places = new Map<number, string>();
    linux.parse({ interfaces: text, 'frr.conf': '' }, (place, _file, line) => places.set(line, place.join(' ')));
    const first = text.split('\n').indexOf('iface bond46') + 1;
    expect([0, 1, 2, 6].map((n) => places.get(first + n))).toEqual([
      'ports bond46',
      'ports bond46 description',
      'ports bond46 members',
      'ports bond46 addresses',
    ]);
    const of = subjectsOn(spoken, HOST);
    expect([
      of('ports', 'p45', 'mtu'),
      of('ports', 'bond46', 'members'),
      of('ports', 'bond46', 'addresses'),
      of('ports', 'bond46.200', 'description'),
      subjectsOn(made(joinedBorder, bundle()), HOST)('lags', '46', 'members'),
    ]).toEqual(['outside:1.a.p46', 'outside:1.a.p46', 'neighbour:1.a.p46', 'neighbour:1.a.p46.200', 'outside:1.a.p46']);
    const [lines] = handOver(spoken, compiled, networkOf(spoken).values);
    expect(lines!.text).toContain('192.0.2.1/31, LAG (LACP) of eth1, eth5, MTU 9216, to tn-lf-01a p46 (tenant tides)');
  });

  test('the model: one open cable is enough, none is not, and what is no LAG at the far end leaves it uncertain', () => {
    const { network } = networkOf(spoken);
    const stands = (of: typeof network) =>
      of.sessions
        .filter((s) => s.host === HOST && s.vrf !== undefined)
        .map((s) => [s.port, s.up, s.up ? (s.unsure ?? null) : s.reason])
        .sort();
    const both = (of: unknown[]) => [
      ['bond46', ...of],
      ['bond46.200', ...of],
    ];
    expect(stands(network)).toEqual(both([true, null]));
    const ports = (host: string, make: (p: PortConfig) => PortConfig | []) =>
      otherwise(network, host, (c) => ({ ...c, ports: c.ports.flatMap(make) }));
    const shut = (...names: string[]) => ports(HOST, (p) => (names.includes(p.name) ? { ...p, shut: true } : p));
    expect(stands(shut('p46'))).toEqual(both([true, null]));
    expect(stands(shut('p45', 'p46'))).toEqual([
      ['bond46', false, 'bond46 is shut'],
      ['bond46.200', false, 'bond46.200 is shut'],
    ]);
    // Its subnet is gone with it: nothing is told of it.
    expect(prefixesAt(shut('p45', 'p46'), HOST, 'tides')).not.toContain('192.0.2.0/31');
    expect(prefixesAt(network, HOST, 'tides')).toContain('192.0.2.0/31');
    // Of ports that are driven otherwise there is no light; the other one is left.
    const slow = (...names: string[]) => ports(HOST, (p) => (names.includes(p.name) ? { ...p, speed: 1 } : p));
    const fast = otherwise(slow('p46'), 'offing-1', (c) => ({
      ...c,
      ports: c.ports.map((p) => (p.name === 'eth1' ? { ...p, speed: 10 } : p)),
    }));
    expect(stands(fast)).toEqual(both([true, null]));
    // One end of each alone says how it is driven: there may be no light, on a VLAN as well; where one cable says nothing, that is enough.
    for (const [, up, why] of stands(slow('p45', 'p46')))
      expect([up, why]).toEqual([true, expect.stringMatching(/1 Gb\/s/)]);
    expect(stands(slow('p45'))).toEqual(both([true, null]));
    const port = networkOf(unbundled(spoken)).network;
    const told = otherwise(port, HOST, (c) => ({
      ...c,
      ports: c.ports.map((p) => (p.name === 'p46' ? { ...p, speed: 1 } : p)),
    }));
    for (const [name, up, why] of stands(told))
      expect([name, up, why]).toEqual([expect.stringMatching(/^p46(\.200)?$/), true, expect.stringMatching(/1 Gb\/s/)]);
    expect(stands(told)).toHaveLength(2);
    // Ports that stand by themselves where a LAG is expected.
    const single = ports('offing-1', (p) =>
      p.members ? [] : p.name === 'eth1' ? { ...p, addresses: ['192.0.2.1/31'] } : p,
    );
    expect(stands(single)[0]).toEqual([
      'bond46',
      true,
      `the ports of bond46 of ${HOST} lead to eth1 of offing-1 and eth5 of offing-1, which are no LAG together`,
    ]);
    const alone = modelNetwork(
      single.switches,
      single.cables.filter((c) => c.a.port !== 'p45'),
    );
    expect(stands(alone)[0]).toEqual(['bond46', true, `bond46 of ${HOST} is a LAG, and eth1 of offing-1 is none`]);
  });

  test('what is not understood of one of its ports leaves what is spoken over it uncertain', () => {
    const { network } = networkOf(spoken);
    const why = { file: 'interfaces', line: 9, text: 'storm-control on', why: 'nobody knows it' };
    const doubted = modelNetwork(
      network.switches.map((s) =>
        s.host === HOST ? { ...s, unread: [{ ...why, doubts: ['ports', 'p45'] as const }] } : s,
      ),
      network.cables,
    );
    const rows = neighbourRows(doubted).filter((r) => [r.a, r.b].some((e) => e?.port?.startsWith('bond46')));
    expect(rows.map((r) => [r.vrf, r.stand])).toEqual([
      ['tides', 'uncertain'],
      ['charts', 'uncertain'],
    ]);
    expect(rows[0]!.why).toContain('storm-control on');
  });

  test.each<[Partial<OutsideLink>, string, RegExp]>([
    [{ lag: [{ port: 'p46', farPort: 'eth7' }] }, '/link/lag/0/port', /p46 is in this LAG already/],
    [{ lag: [{ port: 'p45', farPort: 'eth1' }] }, '/link/lag/0/farPort', /eth1 of offing-1 is in this LAG already/],
    [
      { lag: [{ port: 'p45', farPort: 'eth2' }] },
      '/link/lag/0/farPort',
      /eth2 of offing-1 is joined to rack 1 p46 \(b\)/,
    ],
    [{ lag: [{ port: 'p49', farPort: 'eth7' }] }, '/link/lag/0/port', /p49 is no port of rack 1 that is free/],
  ])('%o is refused at its cable', (of, path, says) => {
    const [first] = applyEdit(joinedBorder, bundle(of)).findings;
    expect([first?.path, first?.message]).toEqual([path, expect.stringMatching(says)]);
  });
  test('its ports run at one speed, which all of them have', () => {
    const own = joinedBorder.rackPatterns.find((p) => p.name === 'border-pair')!;
    const wide = made(joinedBorder, {
      kind: 'putRackPattern',
      rackPattern: { ...own, uplinkPorts: 'p49-p52', serverPorts: 'p1-p46,p53,p54' },
    });
    const refused = (of: Partial<OutsideLink>) =>
      applyEdit(wide, bundle(of)).findings.map((f) => [f.path, f.message, f.cure]);
    const mixed = { lag: [{ port: 'p53', farPort: 'eth5' }] };
    expect(refused(mixed)).toEqual([
      [
        '/link/lag/0/port',
        'p53 runs at 100 Gb/s, p46 at 25 Gb/s: a LAG has ports of one speed (IEEE 802.1AX).',
        'Choose ports of one speed, or say at which all of them run.',
      ],
    ]);
    expect(refused({ ...mixed, speed: 25 })).toEqual([]);
    // What the first port has, another one has not.
    expect(refused({ ...mixed, speed: 25, fec: 'base-r' })).toEqual([]);
    expect(refused({ ...mixed, speed: 100 })[0]!.slice(0, 2)).toEqual(['/link/speed', 'p46 runs at 25 Gb/s at most.']);
    const { rack, side } = link;
    const fast = {
      ...link,
      port: 'p53',
      farPort: 'eth9',
      lag: [{ port: 'p45', farPort: 'eth5' }],
      speed: 100,
      rack,
      side,
    };
    expect(applyEdit(wide, { kind: 'joinOutside', link: fast }).findings.map((f) => [f.path, f.message])).toEqual([
      ['/link/speed', 'p45 runs at 25 Gb/s at most.'],
    ]);
  });
  test('its ports are nobody else’s, of servers, links and patterns', () => {
    const refused = (edit: Edit) => applyEdit(spoken, edit).findings.map((f) => f.message);
    const server = { rack: 1, side: 'a', port: 'p45', server: 'late', untagged: 'gauges', tagged: [] } as const;
    expect(refused({ kind: 'connectServer', port: server })).toContain('p45 of rack 1 leads to offing-1.');
    expect(refused({ kind: 'joinOutside', link: { ...link, port: 'p45', farPort: 'eth9' } })).toEqual([
      "p45 of rack 1 is offing-1's.",
    ]);
    expect(refused({ kind: 'joinOutside', link: { ...link, port: 'p44', farPort: 'eth5' } })).toEqual([
      'eth5 of offing-1 is joined to rack 1 p46 (a).',
    ]);
    const own = spoken.rackPatterns.find((p) => p.name === 'border-pair')!;
    expect(refused({ kind: 'putRackPattern', rackPattern: { ...own, serverPorts: 'p1-p44,p46' } })[0]).toMatch(
      /uses p45/,
    );
  });

  test('a cable more touches one switch, keeps who is spoken to, and says that the far end has to follow', () => {
    const more = bundle({ lag: [...bundled.lag!, { port: 'p44', farPort: 'eth6' }] });
    expect(describeEdit(more, spoken)).toBe(
      'Further cables of link to offing-1 on rack 1 p46 (a) p45 eth5 → p45 eth5, p44 eth6',
    );
    const state = (intent: FabricIntent) => ({ intent, values: configsOf(intent).drawn.values });
    const { report } = proveChange(state(spoken), state(made(spoken, more)), POOLS);
    expect(report.switches.filter((s) => s.fate !== 'same').map((s) => s.host)).toEqual([HOST]);
    expect(report.findings.map((f) => f.rule)).toContain('outside-agrees');
    expect(made(spoken, more).neighbours).toEqual(spoken.neighbours);
  });

  test('a table takes LAGs out and in, also one that is alone so far', () => {
    const alone = made(spoken, bundle({ lag: [] }));
    for (const intent of [spoken, alone, joinedBorder]) {
      const cells = tableCells(TABLES.outside, intent);
      expect(pastedInto(TABLES.outside, intent, null, cells).lines.flatMap((l) => [...l.edits, ...l.findings])).toEqual(
        [],
      );
      const back = pastedInto(
        TABLES.outside,
        made(intent, { kind: 'leaveOutside', rack: 1, side: 'a', port: 'p46' }),
        null,
        cells,
      );
      expect(back.lines.flatMap((l) => l.edits)).toEqual([
        { kind: 'joinOutside', link: intent.outside.find((o) => o.side === 'a') },
      ]);
    }
  });
});
