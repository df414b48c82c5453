import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { POOLS, RACK_PATTERNS, skerryIntent } from '../demo/skerry.ts';
import { applyEdit } from '../intent/edits/index.ts';
import { proposeRack } from '../intent/proposals.ts';
import type { Edit } from '../intent/edits/index.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { layOut } from '../layout/layout.ts';
import { demandsOf } from '../pools/demands.ts';
import { drawValues, holdingsOf, NOTHING_HELD, type LedgerEntry } from '../pools/drawValues.ts';
import { proveChange, type ProofMemo } from '../proof/proveChange.ts';
import { originOf } from '../config/origins.ts';
import type { Place } from '../config/switchConfig.ts';
import { linux } from '../dialects/linux/linux.ts';
import { compileFabric, compileMemo } from './compileFabric.ts';
import { hostsOf } from './servers.ts';

const base = skerryIntent();
const draw = (intent: FabricIntent, ledger: readonly LedgerEntry[] = []) =>
  drawValues(demandsOf(intent, layOut(intent)), POOLS, holdingsOf(ledger, { fabric: intent.name, change: null }), {
    fabric: intent.name,
    change: null,
  });
const live = draw(base).entries;

/** Edits of every kind that make sense on Skerry. */
const edits: fc.Arbitrary<Edit> = fc.oneof(
  fc.record({
    kind: fc.constant('addNetwork' as const),
    network: fc.record({
      name: fc.constantFrom('fog', 'gale'),
      vrf: fc.constantFrom('tides', 'soundings'),
      vlan: fc.integer({ min: 500, max: 510 }),
      subnetLength: fc.constantFrom(24, 26),
      racks: fc.subarray([1, 2, 3, 7, 8]),
      mtu: fc.constantFrom(1500, 9000, 9200),
    }),
  }),
  fc.record({
    kind: fc.constant('connectServer' as const),
    port: fc.record({
      rack: fc.constantFrom(1, 2),
      side: fc.constant('a' as const),
      port: fc.constantFrom('p30', 'p31'),
      server: fc.constant('new'),
      untagged: fc.constantFrom('tide-gauges', 'soundings-in'),
      tagged: fc.constant([]),
    }),
  }),
  fc.constant<Edit>({ kind: 'addRack', rack: proposeRack(base, RACK_PATTERNS[0]!), rackPattern: RACK_PATTERNS[0]! }),
  fc.constant<Edit>({ kind: 'removeRack', number: 6 }),
  fc.record({
    kind: fc.constant('changeSettings' as const),
    settings: fc.record({ bfd: fc.boolean(), linkMtu: fc.constantFrom(9216, 9100) }),
  }),
  fc.constant<Edit>({
    kind: 'putSnippet',
    snippet: {
      name: 'note',
      file: 'frr.conf',
      on: 'leaves',
      text: 'log file /var/log/{{ switch.hostname }}.log',
      runsElsewhere: true,
    },
  }),
  fc.constant<Edit>({ kind: 'carryNetwork', name: 'echo-index', racks: [3, 4, 5] }),
  fc
    .tuple(fc.boolean(), fc.integer({ min: 1, max: 3 }), fc.integer({ min: 1, max: 2 }))
    .map(([shut, rack, n]): Edit => ({ kind: shut ? 'shutLink' : 'openLink', link: `leaf-${rack}:spine-${n}:1` })),
);

describe('computing again only what changed', () => {
  test('gives what computing everything from scratch gives, edit after edit', () => {
    fc.assert(
      fc.property(fc.array(edits, { minLength: 1, maxLength: 4 }), (steps) => {
        const memo: ProofMemo = {};
        const before = { intent: base, values: draw(base, live).values };
        let intent = base;
        for (const edit of steps) {
          intent = applyEdit(intent, edit).intent;
          const after = { intent, values: draw(intent, live).values };
          const quick = proveChange(before, after, POOLS, [], memo);
          const slow = proveChange(before, after, POOLS);
          expect(quick.compiled.switches.map((s) => s.files)).toEqual(slow.compiled.switches.map((s) => s.files));
          expect(quick.report).toEqual(slow.report);
        }
      }),
      { numRuns: 25 },
    );
  });

  test('one server on one port redoes one switch and takes the network over', () => {
    const memo: ProofMemo = {};
    const before = { intent: base, values: draw(base, live).values };
    const first = proveChange(before, before, POOLS, [], memo);
    const intent = applyEdit(base, {
      kind: 'connectServer',
      port: { rack: 1, side: 'a', port: 'p40', server: 'one', untagged: 'soundings-in', tagged: [] },
    }).intent;
    const second = proveChange(before, { intent, values: before.values }, POOLS, [], memo);
    const redone = second.compiled.switches.filter((s, i) => s !== first.compiled.switches[i]);
    expect(redone.map((s) => s.seat.host)).toEqual(['sk-lf-01']);
    expect(second.network.underlay).toBe(first.network.underlay);
  });

  test('a link that is shut redoes its two switches', () => {
    const memo: ProofMemo = {};
    const before = { intent: base, values: draw(base, live).values };
    const first = proveChange(before, before, POOLS, [], memo);
    const { intent } = applyEdit(base, { kind: 'shutLink', link: 'leaf-1:spine-2:1' });
    const second = proveChange(before, { intent, values: before.values }, POOLS, [], memo);
    const redone = second.compiled.switches.filter((s, i) => s !== first.compiled.switches[i]);
    expect(redone.map((s) => s.seat.host)).toEqual(['sk-sp-02', 'sk-lf-01']);
  });
});

describe('proof', () => {
  test('says what changes on which switch, what is new and what goes', () => {
    const grown = applyEdit(base, {
      kind: 'addRack',
      rack: proposeRack(base, RACK_PATTERNS[1]!),
      rackPattern: RACK_PATTERNS[1]!,
    }).intent;
    const before = { intent: base, values: draw(base, live).values };
    const after = { intent: grown, values: draw(grown, live).values };
    const there = proveChange(before, after, POOLS).report;
    expect(there.switches.filter((s) => s.fate !== 'same').map((s) => [s.host, s.fate])).toEqual([
      ['sk-sp-01', 'changed'],
      ['sk-sp-02', 'changed'],
      ['sk-sp-03', 'changed'],
      ['sk-sp-04', 'changed'],
      ['sk-lf-09', 'new'],
    ]);
    expect(there.after.sessions - there.before.sessions).toBe(8);
    expect(there.seats).toEqual({ filled: 14, total: 15 });
    const back = proveChange(after, before, POOLS).report;
    expect(back.switches.find((s) => s.host === 'sk-lf-09')).toMatchObject({ fate: 'gone', added: 0 });
  });
  test('a seat whose values are not drawn waits and is not rendered', () => {
    const few = POOLS.map((p) => (p.name === 'leaf-as' ? { ...p, ranges: ['65110-65112'] } : p));
    const { values } = drawValues(demandsOf(base, layOut(base)), few, NOTHING_HELD, { fabric: 'skerry', change: null });
    expect(compileFabric(base, values, few).waiting).toHaveLength(7);
  });
  test('a snippet that breaks the text is found by its line', () => {
    const intent = applyEdit(base, {
      kind: 'putSnippet',
      snippet: { name: 'odd', file: 'frr.conf', on: 'spines', text: 'frobnicate all' },
    }).intent;
    const { report } = proveChange(
      { intent: base, values: draw(base, live).values },
      { intent, values: draw(intent, live).values },
      POOLS,
    );
    expect(report.findings.map((f) => [f.rule, f.host])).toEqual([1, 2, 3, 4].map((n) => ['text-read', `sk-sp-0${n}`]));
    expect(report.findings[0]!.place).toMatchObject({ file: 'frr.conf', line: expect.any(Number) as number });
  });
});

describe('hosts', () => {
  test('one for each server port, in its subnet, none on the gateway, none twice', () => {
    const { values } = draw(base);
    const hosts = hostsOf(base, layOut(base), values);
    expect(hosts).toHaveLength(base.ports.length);
    expect(new Set(hosts.map((h) => h.ip)).size).toBe(hosts.length);
    for (const h of hosts) expect(h.ip.split('.').slice(0, 3)).toEqual(h.gateway.split('.').slice(0, 3));
    expect(hosts.every((h) => h.ip !== h.gateway)).toBe(true);
  });
});

describe('origins', () => {
  const values = draw(base).values;
  const compiled = compileFabric(base, values, POOLS, compileMemo());
  const origin = (seat: string, file: string, line: RegExp) => {
    const made = compiled.switches.find((s) => s.seat.id === seat)!;
    const index = made.files[file]!.split('\n').findIndex((l) => line.test(l));
    let place: Place = [];
    linux.parse(made.files, (p, f, n) => {
      if (f === file && n === index + 1) place = p;
    });
    return originOf(place, {
      intent: base,
      layout: compiled.layout,
      seat: made.seat,
      values,
      ledger: live,
      edits: [],
    });
  };
  test.each<[string, string, RegExp, string, string | undefined]>([
    ['leaf-7a', 'interfaces', /vxlan-id 10004/, 'network:echo-store', '10004'],
    ['leaf-7a', 'interfaces', /address 10\.32\.2\.1\/24/, 'network:echo-store', '10.32.2.0/24'],
    ['leaf-7a', 'interfaces', /vxlan-local-tunnelip/, 'vrf:soundings', '10.255.1.6/32'],
    ['leaf-7a', 'interfaces', /alias sk-sp-01 p7/, 'rack:7', undefined],
    ['leaf-7a', 'interfaces', /alias echo-703/, 'port:7.both.p3', undefined],
    ['leaf-7a', 'frr.conf', /router bgp 65116$/, 'rack:7', '65116'],
    ['leaf-7a', 'frr.conf', /^ bgp router-id/, 'rack:7', '10.255.0.10/32'],
    ['leaf-7a', 'frr.conf', /^ vni 10000/, 'vrf:soundings', '10000'],
    ['leaf-7a', 'frr.conf', /neighbor FABRIC timers 3 9/, 'setting:keepalive', undefined],
    ['leaf-7a', 'frr.conf', /prefix-list LOOPBACKS seq 10/, 'pool:loopback', undefined],
    ['spine-1', 'frr.conf', /router bgp 65100/, 'spines', '65100'],
  ])('%s %s %s is there because of %s', (seat, file, line, subject, value) => {
    const o = origin(seat, file, line);
    expect([o.subject, o.value?.text]).toEqual([subject, value]);
  });
});
