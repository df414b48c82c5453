import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { routesOf } from '../ask/routesOf.ts';
import type { RouteAnswer } from '../ask/answer.ts';
import { originOf } from '../config/origins.ts';
import { POOLS, SKERRY_POOLS, skerryIntent } from '../demo/skerry.ts';
import { applyEdits, type Edit } from '../intent/edits/index.ts';
import { editsBetween } from '../intent/edits/editsBetween.ts';
import type { FabricIntent, Leak } from '../intent/intent.ts';
import { linux } from '../dialects/linux/linux.ts';
import type { NetworkModel } from '../network/networkModel.ts';
import { modelNetwork } from '../network/modelNetwork.ts';
import { evpnRoutesFrom } from '../network/evpnRoutes.ts';
import { legReach } from '../network/hostReach.ts';
import { judgeNetwork } from '../proof/judgeNetwork.ts';
import { modelFabric, proveChange } from '../proof/proveChange.ts';
import type { FabricSettings } from '../patterns/patterns.ts';
import { configsOf, intentOf, layRacks } from '../testing/fabricOf.ts';
import { leakChoices, leakIntents, withLeaks } from '../testing/leaksOf.ts';
import { compileFabric } from './compileFabric.ts';
import { hostsOf } from './servers.ts';

const network = (name: string, vrf: string, vlan: number, racks: number[], more: object = {}): Edit => ({
  kind: 'addNetwork',
  network: { name, vrf, vlan, subnetLength: 24, racks, ...more },
});
const server = (rack: number, name: string): Edit => ({
  kind: 'connectServer',
  port: { rack, side: 'a', port: 'p1', server: name, untagged: name, tagged: [] },
});
const base = (settings: Partial<FabricSettings>): Edit[] => [
  layRacks([{ pattern: 'single-48', count: 4 }], settings),
  { kind: 'choosePools', pools: SKERRY_POOLS },
  { kind: 'addVrf', vrf: { name: 'tides', transitVlan: 4001 } },
  { kind: 'addVrf', vrf: { name: 'lamp', transitVlan: 4002 } },
  { kind: 'addVrf', vrf: { name: 'charts', transitVlan: 4003 } },
  network('gauges', 'tides', 20, [1], { subnet: '10.32.5.0/24', families: 'both', subnet6: '2001:db8:32:5::/64' }),
  network('press', 'tides', 21, [2], { subnet: '10.32.6.0/24' }),
  network('wicks', 'lamp', 30, [3], { subnet: '10.32.7.0/24', families: 'both', subnet6: '2001:db8:32:7::/64' }),
  network('oil', 'lamp', 31, [1], { subnet: '10.32.8.0/24' }),
  network('maps', 'charts', 40, [4], { subnet: '10.32.9.0/24' }),
  server(1, 'gauges'),
  server(2, 'press'),
  server(3, 'wicks'),
  server(4, 'maps'),
];
const put = (into: string, from: string, prefixes: string[] = []): Edit => ({
  kind: 'putLeak',
  leak: { into, from, prefixes },
});
const of = (intent: FabricIntent) => {
  const { drawn, layout } = configsOf(intent);
  const compiled = compileFabric(intent, drawn.values, POOLS);
  const hosts = hostsOf(intent, layout, drawn.values);
  const model = modelFabric(compiled);
  const reach = (a: string, b: string, six = false) => {
    const find = (name: string) => hosts.find((h) => h.host === name && h.ip.includes(':') === six)!;
    return legReach(model, find(a), find(b));
  };
  return { intent, drawn, layout, compiled, model, reach };
};
const made = (settings: Partial<FabricSettings>, ...edits: readonly Edit[]) =>
  of(intentOf(...base(settings), ...edits));
const frr = ({ compiled }: ReturnType<typeof made>, host: string): string =>
  compiled.switches.find((s) => s.seat.host === host)!.files['frr.conf']!;

describe('routes that tenants have of one another', () => {
  test('the proof says which networks newly have routes to one another, and which no longer, and nothing where all stays', () => {
    const said = (from: readonly Edit[], to: readonly Edit[]): string[] => {
      const [a, b] = [intentOf(...base({}), ...from), intentOf(...base({}), ...to)];
      const state = (intent: FabricIntent) => ({ intent, values: configsOf(intent).drawn.values });
      const { findings } = proveChange(state(a), state(b), POOLS).report;
      return findings.flatMap((f) => (f.rule.startsWith('reach-') ? `${f.rule} ${f.severity}: ${f.message}` : []));
    };
    const both = [put('tides', 'lamp'), put('lamp', 'tides')];
    const begins = 'reach-begins note: Networks newly have routes to one another: ';
    const ends = 'reach-ends warning: Networks no longer have routes to one another: ';
    const four = 'gauges, press (tides) with oil, wicks (lamp).';
    expect([said([], both), said(both, [])]).toEqual([[begins + four], [ends + four]]);
    expect(said(both, [...both, server(2, 'press')].slice(0, 2))).toEqual([]);
    // One way is no way to answer; of what is told, only what is on both lists.
    expect(said([], both.slice(0, 1))).toEqual([]);
    const some = [put('tides', 'lamp', ['10.32.7.0/24']), put('lamp', 'tides', ['10.32.6.0/24'])];
    expect(said([], some)).toEqual([`${begins}press (tides) with wicks (lamp).`]);
    expect(said(some, both)).toEqual([
      `${begins}gauges (tides) with oil (lamp); gauges (tides) with wicks (lamp); press (tides) with oil (lamp).`,
    ]);
    // A network that changes its VRF leaves some and comes to others.
    const [oil] = intentOf(...base({})).networks.filter((n) => n.name === 'oil');
    const moved: Edit = { kind: 'changeNetwork', name: 'oil', network: { ...oil!, vrf: 'charts' } };
    expect(said([], [moved])).toEqual([
      `${ends}oil (charts) with wicks (lamp).`,
      `${begins}maps (charts) with oil (charts).`,
    ]);
    // What a snippet joins counts as well.
    const text = ['tides', 'lamp']
      .map(
        (vrf) =>
          `router bgp {{ switch.bgp.asn }} vrf ${vrf}\n address-family l2vpn evpn\n  route-target import 1:1\n  route-target export 1:1\n exit-address-family\nexit\n`,
      )
      .join('');
    const snippet: Edit = { kind: 'putSnippet', snippet: { name: 'joined', file: 'frr.conf', on: 'leaves', text } };
    // By targets, but not what a switch exports itself (FRR 8.4.4): gauges and oil are on one.
    expect(said([], [snippet])).toEqual([
      `${begins}gauges (tides) with wicks (lamp); press (tides) with oil (lamp); press (tides) with wicks (lamp).`,
    ]);
  });

  test.each(['per-leaf', 'two', 'single'] as const)(
    'both ways, servers of both reach one another (AS %s)',
    (asnScheme) => {
      const all = made({ asnScheme }, put('tides', 'lamp'), put('lamp', 'tides'));
      expect(frr(all, 'tn-lf-02')).toMatch(/import vrf route-map LEAKS-tides\n {2}import vrf lamp\n/);
      expect(frr(all, 'tn-lf-04')).not.toContain('import vrf');
      for (const s of all.compiled.switches) {
        expect(s.parsed.config).toEqual(s.config);
        expect([...s.findings, ...s.parsed.unread]).toEqual([]);
      }
      expect(judgeNetwork(all.model).findings).toEqual([]);
      for (const [a, b] of [
        ['gauges', 'wicks'],
        ['press', 'wicks'],
        ['wicks', 'press'],
      ] as const)
        expect(all.reach(a, b)).toMatchObject({ ok: true, unsure: null });
      expect(all.reach('gauges', 'wicks', true)).toMatchObject({ ok: true, unsure: null });
      // Every switch has it from its own table of the other tenant, so none tells others of it.
      expect(frr(all, 'tn-lf-01')).toContain('  advertise ipv4 unicast route-map OWN-ROUTES\n');
      expect(frr(all, 'tn-lf-04')).toContain('  advertise ipv4 unicast\n');
      const told = evpnRoutesFrom(all.model, 'tn-lf-01').flatMap((r) => (r.type === 5 ? `${r.vrf} ${r.prefix}` : []));
      expect(told.sort()).toEqual(['lamp 10.32.8.0/24', 'tides 10.32.5.0/24', 'tides 2001:db8:32:5::/64']);
      // A third has nothing of it.
      expect(all.reach('maps', 'wicks')).toMatchObject({ ok: false, unsure: null });
      expect(all.reach('press', 'maps')).toMatchObject({ ok: false, unsure: null });
      // What is next door comes from the other table, what is not through its VNI; nothing is left to chance.
      const table = routesOf(all.model, 'tn-lf-01', 'tides') as readonly RouteAnswer[];
      expect(table.find((r) => r.prefix === '10.32.8.0/24')).toMatchObject({
        kind: 'bgp',
        unsure: null,
        ways: [{ over: 'VRF lamp of the same switch' }],
      });
      const vni = all.drawn.values.get('vrf:lamp/vni');
      expect(table.find((r) => r.prefix === '10.32.7.0/24')).toMatchObject({
        kind: 'evpn',
        unsure: null,
        ways: [{ over: expect.stringMatching(`^VNI ${vni} to `), to: 'tn-lf-03' }],
      });
    },
  );

  test('one way, packets come there and no answer back; of some prefixes alone, those', () => {
    const oneWay = made({}, put('tides', 'lamp'));
    expect(oneWay.reach('press', 'wicks')).toMatchObject({ ok: false, unsure: null });
    const some = made(
      {},
      put('tides', 'lamp', ['10.32.7.0/24']),
      put('lamp', 'tides', ['10.32.0.0/16', '2001:db8::/32']),
    );
    expect(some.reach('press', 'wicks')).toMatchObject({ ok: true });
    expect(some.reach('gauges', 'wicks', true)).toMatchObject({ ok: false });
    const table = routesOf(some.model, 'tn-lf-02', 'tides') as readonly RouteAnswer[];
    expect(table.map((r) => r.prefix)).toEqual(expect.arrayContaining(['10.32.7.0/24']));
    expect(table.map((r) => r.prefix)).not.toContain('10.32.8.0/24');
    expect(frr(some, 'tn-lf-01')).toMatch(/ip prefix-list LEAKS-lamp seq 10 permit 10\.32\.0\.0\/16 le 31\n/);
  });

  test('a switch that runs takes back for a moment what it tells of a VRF once that has routes of another: it is said', () => {
    const [skerry, one, other] = [skerryIntent(), ...skerryIntent().vrfs.map((v) => v.name)];
    const said = (edits: readonly Edit[]): string[] => {
      const { intent } = applyEdits(skerry, edits);
      const state = (i: FabricIntent) => ({ intent: i, values: configsOf(i).drawn.values });
      return proveChange(state(skerry), state(intent), POOLS).report.findings.flatMap((f) =>
        f.rule === 'prefixes-told-anew' ? f.message : [],
      );
    };
    const both = [put(one!, other!), put(other!, one!)];
    expect(said(both)).toEqual([
      expect.stringMatching(/^10 switches take back .* of soundings, tides, and tell it anew/),
    ]);
    expect(said(both.slice(0, 1))).toEqual([expect.stringMatching(new RegExp(`of ${one}, and tell it anew`))]);
    expect(said([{ kind: 'addVrf', vrf: { name: 'lamp', transitVlan: 3999 } }])).toEqual([]);
  });

  test('every line says why it is there', () => {
    const { intent, layout, drawn } = made({}, put('tides', 'lamp'));
    const context = { intent, layout, values: drawn.values, ledger: [], edits: [put('tides', 'lamp')] };
    const seat = layout.seatById.get('leaf-1')!;
    for (const place of [
      ['bgp', 'vrfs', 'tides', 'ipv4', 'importsFrom'],
      ['prefixLists', 'LEAKS-tides', 'entries', '10', 'prefix'],
      ['routeMaps', 'LEAKS-tides', 'entries', '10', 'set'],
    ] as const)
      expect(originOf(place as never, { ...context, seat })).toMatchObject({
        subject: 'leak:tides,lamp',
        edit: { number: 1 },
      });
  });

  test('what cannot be is refused at its field, with the cure; with either VRF it goes', () => {
    const intent = intentOf(...base({}), put('tides', 'lamp'));
    const refused = (leak: Partial<Leak>): unknown =>
      applyEdits(intent, [
        { kind: 'putLeak', leak: { into: 'tides', from: 'lamp', prefixes: [], ...leak } },
      ]).findings.map((f) => [f.path, f.message, f.cure]);
    expect(refused({ from: 'fog' })).toEqual([
      ['/leak/from', 'There is no VRF fog.', 'Choose a VRF of this fabric, or add it first.'],
    ]);
    expect(refused({ from: 'tides' })).toEqual([['/leak/from', 'tides has its own routes.', expect.any(String)]]);
    expect(refused({ prefixes: ['2001:DB8::/32'] })).toEqual([
      ['/leak/prefixes/0', '2001:DB8::/32 is written otherwise.', 'Write 2001:db8::/32.'],
    ]);
    expect(refused({ prefixes: ['10.0.0.0/8', '10.0.0.0/8'] })).toEqual([
      ['/leak/prefixes/1', '10.0.0.0/8 is there twice.', 'Leave one of them out.'],
    ]);
    const without = applyEdits(intent, [{ kind: 'removeNetwork', name: 'maps', servers: true } as never]);
    expect(without.intent.leaks).toHaveLength(1);
    const bare = { ...intent, networks: intent.networks.filter((n) => n.vrf !== 'lamp'), ports: [] };
    expect(applyEdits(bare, [{ kind: 'removeVrf', name: 'lamp' }])).toMatchObject({
      findings: [],
      intent: { leaks: [] },
    });
  });

  /**
   * What a table has of IPv4 in two networks that differ in one prefix alone, by which all of the second is settled together.
   * Settling all, a chance anywhere in the group counts; near a table no more than what comes to it.
   */
  const same = (near: NetworkModel, all: NetworkModel, host: string, vrf: string): void => {
    const of4 = (m: NetworkModel): RouteAnswer[] =>
      (routesOf(m, host, vrf) as readonly RouteAnswer[])
        .filter((r) => !r.prefix.includes(':') && r.prefix !== APART)
        .map((r) => ({ ...r, because: [] }));
    // What a table only may have, by a chance that does not come to it, it has not.
    const those = of4(all).filter((r) => r.unsure === null || r.ways.length > 0);
    const sure = (r: RouteAnswer, i: number): RouteAnswer => (those[i]?.unsure ? { ...r, unsure: those[i].unsure } : r);
    expect(
      of4(near)
        .filter((r) => r.unsure === null || r.ways.length > 0)
        .map(sure),
    ).toEqual(those);
  };
  /** A route to nothing is no matter of any other prefix. */
  const APART = '192.0.2.128/25';

  test('what is settled near a table is what comes of settling all', () => {
    fc.assert(
      fc.property(leakIntents, (intent) => {
        const near = of(intent).model;
        const said = intent.vrfs.flatMap(({ name: vrf }): Edit[] => {
          const racks = intent.networks.flatMap((n) => (n.vrf === vrf ? n.racks : [])).slice(0, 1);
          return racks.length === 0 ? [] : [{ kind: 'putRoute', route: { vrf, prefix: APART, racks } }];
        });
        const all = of(applyEdits(intent, said).intent).model;
        for (const { host, config } of near.switches) for (const { name } of config.vrfs) same(near, all, host, name);
      }),
      { numRuns: 25 },
    );
  });

  test('and so where texts say what leaks by hand, and what is written of it is read as it was', () => {
    let leaking = 0;
    fc.assert(
      fc.property(
        leakIntents.filter((i) => i.leaks.length > 0),
        leakChoices,
        (intent, choices) => {
          const { compiled } = of(intent);
          const configs = withLeaks(
            compiled.switches.map((s) => s.config),
            choices,
          );
          if (!configs) return;
          leaking++;
          const read = configs.map((c) => ({ host: c.hostname, ...linux.parse(linux.render(c).files) }));
          expect(read.map((s) => s.config)).toEqual(configs);
          const near = modelNetwork(read, compiled.cables);
          const first = read.findIndex((s) => s.config.vrfs.length > 0);
          const routed = read.map((s, i) => {
            const apart = s.config.vrfs.map((v) => ({ vrf: v.name, prefix: APART }));
            const staticRoutes = [...(s.config.staticRoutes ?? []), ...apart];
            return i === first ? { ...s, config: { ...s.config, staticRoutes } } : s;
          });
          const all = modelNetwork(routed, compiled.cables);
          for (const { host, config } of read) for (const { name } of config.vrfs) same(near, all, host, name);
        },
      ),
      { numRuns: 25 },
    );
    expect(leaking).toBeGreaterThan(5);
  });

  test('random tenants, with random ways between them: each text reads back as meant, and any two intents lead into one another', () => {
    fc.assert(
      fc.property(leakIntents, leakIntents, (intent, other) => {
        const { compiled } = of(intent);
        for (const s of compiled.switches) {
          expect(s.parsed.config).toEqual(s.config);
          expect(s.parsed.unread).toEqual([]);
        }
        const between = editsBetween(intent, {
          ...intent,
          leaks: other.leaks.filter(
            (l) => intent.vrfs.some((v) => v.name === l.into) && intent.vrfs.some((v) => v.name === l.from),
          ),
        });
        expect(applyEdits(intent, between).findings).toEqual([]);
      }),
      { numRuns: 30 },
    );
  });
});
