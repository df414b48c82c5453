import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { compileFabric } from '../compile/compileFabric.ts';
import { POLICIES, policyUses, type PolicyKind } from '../config/policyUses.ts';
import { POOLS } from '../demo/skerry.ts';
import { linux } from '../dialects/linux/linux.ts';
import { modelFabric } from '../proof/proveChange.ts';
import { policyKey } from '../intent/policies.ts';
import { policyIntents } from '../testing/policiesOf.ts';
import { borderIntents, configsOf, intents, otherIntents, singleIntents } from '../testing/fabricOf.ts';
import { networkFromTexts, skerryTexts } from '../testing/skerryFolder.ts';
import { neighbourRows, type NeighbourEnd } from './neighbourRows.ts';
import { policiesOf, policySays, withSpare, type PolicyRow } from './policies.ts';

const edited = (host: string, file: string, from: string | RegExp, to: string) => {
  const texts = skerryTexts();
  const before = texts[host]![file as 'frr.conf'];
  texts[host] = { ...texts[host]!, [file]: before.replace(from, to) };
  expect(texts[host]![file as 'frr.conf']).not.toBe(before);
  return texts;
};
/** Skerry, one leaf of which has lines before the others of its FRR, and others in its IPv4. */
const withLines = (top: string, family = '', more = ''): readonly PolicyRow[] => {
  const texts = skerryTexts();
  texts['sk-lf-01'] = {
    ...texts['sk-lf-01']!,
    'frr.conf': `${top}${texts['sk-lf-01']!['frr.conf'].replace('  redistribute connected', `${family}  redistribute connected`)}${more}`,
  };
  const { config, unread } = linux.parse(texts['sk-lf-01']);
  expect(unread).toEqual([]);
  return policiesOf([{ host: 'sk-lf-01', config }]);
};

describe('who speaks with whom', () => {
  test('both ends of a session stand in one row, with numbers, families and ports', () => {
    const rows = neighbourRows(networkFromTexts(skerryTexts()));
    expect(rows).toHaveLength(40);
    expect(rows.every((r) => r.stand === 'up' && r.why === null && r.b !== null)).toBe(true);
    expect(rows.find((r) => r.a.host === 'sk-lf-01' && r.a.peer === 'p49')).toEqual({
      kind: 'BGP',
      vrf: null,
      a: { host: 'sk-lf-01', peer: 'p49', port: 'p49', as: 65110 },
      b: { host: 'sk-sp-01', peer: 'p1', port: 'p1', as: 65100 },
      carries: ['IPv4', 'EVPN'],
      stand: 'up',
      why: null,
    });
  });

  test('what is down comes first with why, then what is uncertain; a family that one end lacks is not carried', () => {
    const closed = edited('sk-lf-05', 'frr.conf', /( neighbor p50 interface.*\n)/, '$1 neighbor p50 shutdown\n');
    const doubted = edited('sk-lf-06', 'frr.conf', /( neighbor p50 interface.*\n)/, '$1 neighbor p50 strange words\n');
    const rows = neighbourRows(
      networkFromTexts({ ...closed, 'sk-lf-06': doubted['sk-lf-06']! } as Parameters<typeof networkFromTexts>[0]),
    );
    expect(rows.map((r) => r.stand).slice(0, 3)).toEqual(['down', 'uncertain', 'up']);
    expect([rows[0]!.a.host, rows[0]!.b!.host, rows[0]!.why]).toEqual([
      'sk-lf-05',
      'sk-sp-02',
      expect.stringMatching(/closed/),
    ]);
    expect(rows[1]!.why).toMatch(/strange words/);
    const half = neighbourRows(
      networkFromTexts(edited('sk-lf-05', 'frr.conf', 'evpn\n  neighbor FABRIC activate\n', 'evpn\n')),
    ).filter((r) => r.a.host === 'sk-lf-05');
    expect(half.map((r) => [r.stand, r.carries])).toEqual(half.map(() => ['up', ['IPv4']]));
    expect(half[0]!.why).toMatch(/^EVPN: /);
  });

  test('of any fabric every end stands in one row, and a row is up where all its ends are', () => {
    fc.assert(
      fc.property(fc.oneof(intents, otherIntents, singleIntents, borderIntents), (intent) => {
        const { drawn } = configsOf(intent);
        const network = modelFabric(compileFabric(intent, drawn.values, POOLS));
        const rows = neighbourRows(network);
        const ends = rows.flatMap((r): [string, NeighbourEnd][] => [
          [r.kind, r.a],
          ...(r.b ? [[r.kind, r.b] as [string, NeighbourEnd]] : []),
        ]);
        const keys = ends.map(([kind, e]) => `${kind} ${e.host} ${e.peer}`);
        expect(new Set(keys).size).toBe(keys.length);
        expect(new Set(keys)).toEqual(
          new Set([
            ...network.sessions.map((s) => `BGP ${s.host} ${s.peer}`),
            ...(network.ospf?.adjacencies ?? []).map((a) => `OSPF ${a.host} ${a.port}`),
          ]),
        );
        const down = new Set(network.sessions.filter((s) => !s.up).map((s) => `${s.host} ${s.peer}`));
        for (const r of rows.filter((x) => x.kind === 'BGP'))
          expect(r.stand === 'up').toBe([r.a, r.b].every((e) => e === null || !down.has(`${e.host} ${e.peer}`)));
      }),
      { numRuns: 40 },
    );
  });
});

describe('policies', () => {
  test('what switches have alike is one row, with what it says and what goes through it', () => {
    const configs = Object.entries(skerryTexts()).map(([host, files]) => ({ host, config: linux.parse(files).config }));
    const rows = policiesOf(configs);
    expect(rows.map((r) => [r.kind, r.name, r.hosts.length])).toEqual([
      ['route map', 'CONNECTED', 14],
      ['prefix list', 'LOOPBACKS', 14],
    ]);
    expect(rows[0]!.says).toEqual(['10 permits prefix list LOOPBACKS', '20 denies the rest']);
    expect(rows[0]!.uses).toEqual([{ words: 'connected routes that BGP tells', hosts: configs.map((c) => c.host) }]);
    expect(rows[1]!.says[0]).toBe('10 permits 10.255.0.0/24, length 32');
    expect(rows[1]!.uses.map((u) => u.words)).toEqual(['entry 10 of route map CONNECTED']);
    // What one has otherwise is a row of its own, and what nobody uses says so.
    const other = linux.parse(edited('sk-lf-01', 'frr.conf', 'LOOPBACKS seq 10', 'LOOPBACKS seq 15')['sk-lf-01']!);
    const apart = policiesOf([...configs.slice(1), { host: 'sk-lf-01', config: other.config }]);
    expect(apart.filter((r) => r.name === 'LOOPBACKS').map((r) => r.hosts.length)).toEqual([13, 1]);
    expect(withLines('ip prefix-list SPARE seq 5 deny 10.0.0.0/8 le 24\n').find((r) => r.name === 'SPARE')).toEqual({
      kind: 'prefix list',
      name: 'SPARE',
      says: ['5 denies 10.0.0.0/8, lengths 8–24'],
      hosts: ['sk-lf-01'],
      uses: [],
    });
  });

  test('those of the fabric are known by their key; what no session uses is there too, on no switch', () => {
    fc.assert(
      fc.property(policyIntents, (intent) => {
        const { drawn } = configsOf(intent);
        const { switches } = compileFabric(intent, drawn.values, POOLS);
        const rows = withSpare(
          policiesOf(switches.map((s) => ({ host: s.seat.host, config: s.config }))),
          intent.policies,
        );
        for (const p of intent.policies) {
          const own = rows.filter((r) => r.key === policyKey(p));
          expect(own.map((r) => r.says)).toEqual([policySays(p, intent.policies)]);
          expect(own[0]!.says.length).toBe(p.entries.length);
          expect(own[0]!.hosts.length > 0).toBe(own[0]!.uses.length > 0);
        }
        expect(rows.filter((r) => r.key === undefined).every((r) => /^[A-Z]/.test(r.name))).toBe(true);
      }),
      { numRuns: 20 },
    );
  });

  test('every clause is said, and every use of every kind is found', () => {
    const top =
      'bgp community-list standard C permit 65000:1 65000:2\nbgp as-path access-list P deny _65001$\n' +
      'route-map N permit 5\n match ip address prefix-list LOOPBACKS\n match community C exact-match\n match as-path P\n' +
      ' set community 65000:9 additive\n set local-preference 200\n set metric +5\n set as-path prepend 65001 65001\n' +
      ' call CONNECTED\n on-match goto 20\nexit\nroute-map N deny 20\nexit\n';
    const family =
      '  neighbor p49 route-map N in\n  neighbor p50 filter-list P out\n  network 10.3.0.0/16 route-map N\n';
    const rows = withLines(top, family, 'router ospf\n redistribute connected route-map N\nexit\n');
    const row = (name: string): PolicyRow => rows.find((r) => r.name === name)!;
    expect(row('N').says).toEqual([
      '5 permits prefix list LOOPBACKS and community list C exactly and AS path list P, if CONNECTED permits it too; gives it local preference 200, metric more by 5, path with 65001 65001 before it, communities 65000:9 beside its own; goes on with 20',
      '20 denies the rest',
    ]);
    expect(row('N').uses.map((u) => u.words)).toEqual([
      '10.3.0.0/16, which BGP announces',
      'what p49 tells of IPv4',
      'connected routes that OSPF tells',
    ]);
    expect(row('P').says).toEqual(['denies _65001$']);
    expect(row('P').uses.map((u) => u.words)).toEqual(['what p50 is told of IPv4', 'entry 5 of route map N']);
    expect(row('C').says).toEqual(['permits 65000:1 and 65000:2']);
    expect(row('CONNECTED').uses.map((u) => u.words)).toContain('entry 5 of route map N');
  });

  test('of any fabric what is used is there, and what is there is used', () => {
    fc.assert(
      fc.property(fc.oneof(intents, otherIntents, borderIntents), (intent) => {
        for (const config of configsOf(intent).configs.values()) {
          const used = new Set(policyUses(config).map((u) => `${u.kind} ${u.name}`));
          const there = (Object.keys(POLICIES) as PolicyKind[]).flatMap((kind) =>
            POLICIES[kind](config).map((p) => `${kind} ${p.name}`),
          );
          expect(used).toEqual(new Set(there));
        }
      }),
      { numRuns: 40 },
    );
  });
});
