import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { routesOf } from '../ask/routesOf.ts';
import { originOf } from '../config/origins.ts';
import type { Place, SwitchConfig } from '../config/switchConfig.ts';
import { POOLS, skerryIntent } from '../demo/skerry.ts';
import { linux } from '../dialects/linux/linux.ts';
import { applyEdits } from '../intent/edits/index.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { layOut } from '../layout/layout.ts';
import { modelNetwork } from '../network/modelNetwork.ts';
import type { NetworkModel } from '../network/networkModel.ts';
import { tenantsOf } from '../network/tenants.ts';
import { underlay6Of } from '../network/underlay6.ts';
import { hostPrefix } from '../numbers/prefix.ts';
import type { FabricSettings } from '../patterns/patterns.ts';
import { demandsOf } from '../pools/demands.ts';
import { drawValues, holdingsOf, NOTHING_HELD } from '../pools/drawValues.ts';
import { judgeNetwork } from '../proof/judgeNetwork.ts';
import { modelFabric, proveChange } from '../proof/proveChange.ts';
import { configsOf } from '../testing/fabricOf.ts';
import { dualIntents, withUnderlay6 } from '../testing/familiesOf.ts';
import { compileFabric } from './compileFabric.ts';

const made = (intent: FabricIntent) => {
  const { drawn } = configsOf(intent);
  const fabric = compileFabric(intent, drawn.values, POOLS);
  return { drawn, fabric, network: modelFabric(fabric) };
};
const skerry = (settings: Partial<FabricSettings> = {}): FabricIntent => {
  const intent = withUnderlay6(skerryIntent());
  return { ...intent, settings: { ...intent.settings, ...settings } };
};
const textOf = (intent: FabricIntent, host: string): string =>
  made(intent).fabric.switches.find((s) => s.seat.host === host)!.files['frr.conf']!;

/** Equal paths to the IPv6 loopback of a switch by the tables of each, asked one by one. */
function byTables(network: NetworkModel, origin: SwitchConfig): number[] {
  const address = hostPrefix(origin.ipv6Loopbacks![0]!.split('/')[0]!)!;
  return network.switches.map(({ host }) => {
    const route = tenantsOf(network, 6).groupOf(host, undefined)!.routeAt({ host, vrf: undefined }, address);
    if (!route || route.kind === 'connected') return 0;
    return 'ways' in route ? route.ways.filter((w) => w.to).length : 'ospf' in route ? route.ospf.over.length : 0;
  });
}

describe('switches that have IPv6 for one another', () => {
  test('whatever the fabric: it reads back as it was written, no rule finds anything, and each has every other’s loopback over as many ways as by IPv4', () => {
    let joined = 0;
    fc.assert(
      fc.property(dualIntents, (intent) => {
        const { fabric, network } = made(intent);
        for (const s of fabric.switches) {
          expect(s.parsed.unread.filter((u) => u.harmless !== true)).toEqual([]);
          expect(s.parsed.config).toEqual(s.config);
        }
        const errors = judgeNetwork(network).findings.filter((f) => f.severity === 'error');
        expect(errors.filter((f) => !fabric.outside.switches.some((o) => o.host === f.host))).toEqual([]);
        const { size, counts } = network.underlay;
        network.switches.forEach(({ config }, origin) => {
          if (!config.ipv6Loopbacks) return;
          const row = underlay6Of(network)(origin)!;
          const asked = byTables(network, config);
          network.switches.forEach((s, r) => {
            if (r === origin || !s.config.ipv6Loopbacks) return;
            expect([s.host, row[r], asked[r]]).toEqual([s.host, ...Array(2).fill(counts[origin * size + r])]);
            joined++;
          });
        });
      }),
      { numRuns: 40 },
    );
    expect(joined).toBeGreaterThan(500);
  });

  test('with eBGP the sessions that there are speak it too, and tell loopbacks of either family through one map', () => {
    const text = textOf(skerry(), 'sk-lf-01');
    expect(text).toContain('\nipv6 prefix-list LOOPBACKS seq 10 permit 2001:db8:ff::/112 ge 128 le 128\n');
    expect(text).toContain(
      [
        'route-map CONNECTED permit 10',
        ' match ip address prefix-list LOOPBACKS',
        'exit',
        'route-map CONNECTED permit 15',
        ' match ipv6 address prefix-list LOOPBACKS',
        'exit',
        'route-map CONNECTED deny 20',
      ].join('\n'),
    );
    expect(text).toContain(
      ' address-family ipv6 unicast\n  redistribute connected route-map CONNECTED\n  neighbor FABRIC activate\n  maximum-paths 64\n exit-address-family\n',
    );
    expect(text).not.toContain('ospf6');
  });

  test('numbered links have a /127, the end nearer to servers the upper address', () => {
    const { fabric } = made(skerry({ underlay: 'numbered' }));
    const ports = (host: string) => fabric.switches.find((s) => s.seat.host === host)!.config.ports;
    const cable = fabric.cables[0]!;
    const ends = [cable.a, cable.b].map((e) => ports(e.host).find((p) => p.name === e.port)!.ipv6Addresses![0]!);
    expect(ends.toSorted()).toEqual(['2001:db8:fe::2/127', '2001:db8:fe::3/127']);
    expect(ends[[cable.a, cable.b].findIndex((e) => e.host.startsWith('sk-lf'))]).toBe('2001:db8:fe::3/127');
  });

  test('OSPF leads it by its third version, over addresses of the link alone, with the same timers', () => {
    const text = textOf(skerry({ asnScheme: 'single' }), 'sk-lf-01');
    expect(text).toMatch(/\nrouter ospf6\n ospf6 router-id 10\.255\.0\.\d+\nexit\n/);
    expect(text.match(/ ipv6 ospf6 area 0\.0\.0\.0\n/g)).toHaveLength(5);
    expect(text.match(/ ipv6 ospf6 hello-interval 3\n/g)).toHaveLength(4);
    const { files } = made(skerry({ asnScheme: 'single' })).fabric.switches[0]!;
    expect(files['daemons']).toContain('ospf6d=yes\n');
    expect(made(skerry()).fabric.switches[0]!.files['daemons']).toContain('ospf6d=no\n');
  });

  test('a switch that uses one path of four by IPv6, or that tells a neighbour nothing of it, is found', () => {
    const damaged = (host: string, change: (text: string) => string) => {
      const { fabric } = made(skerry());
      const switches = fabric.switches.map(({ seat, files }) => {
        if (seat.host !== host) return { host: seat.host, ...linux.parse(files) };
        const text = change(files['frr.conf']!);
        expect(text).not.toBe(files['frr.conf']);
        return { host, ...linux.parse({ ...files, 'frr.conf': text }) };
      });
      return judgeNetwork(modelNetwork(switches, fabric.cables)).findings.map((f) => [f.rule, f.host, f.message]);
    };
    const inFamily = (from: string, to: string) => (text: string) =>
      text.replace(/( address-family ipv6 unicast\n(?: {2}.*\n)*)/, (block) => block.replace(from, to));
    expect(damaged('sk-lf-01', inFamily('maximum-paths 64', 'maximum-paths 1'))).toEqual([
      ['path-width', 'sk-lf-01', expect.stringMatching(/^sk-lf-01 uses 1 of 4 IPv6 paths to sk-lf-02 and 8 more\.$/)],
    ]);
    const quiet = damaged('sk-lf-01', inFamily('  neighbor FABRIC activate\n', ''));
    expect(quiet.filter(([rule]) => rule === 'bgp-session-up')).toHaveLength(8);
    expect(quiet.find(([rule, host]) => rule === 'path-width' && host === 'sk-lf-01')![2]).toBe(
      'sk-lf-01 has no IPv6 route to sk-sp-01 and 3 more.',
    );
  });

  test('a line of it comes of the setting, its addresses of their pools, and a table says where they lead', () => {
    const intent = skerry({ underlay: 'numbered' });
    const { drawn, network } = made(intent);
    const layout = layOut(intent);
    const seat = layout.seats.find((s) => s.host === 'sk-lf-01')!;
    const context = { intent, layout, seat, edits: [], values: drawn.values, ledger: drawn.entries };
    const origin = (place: Place) => originOf(place, context);
    expect(origin(['bgp', 'ipv6', 'active'])).toMatchObject({ subject: 'setting:underlayFamilies' });
    expect(origin(['ipv6Loopbacks'])).toMatchObject({
      value: { key: `${seat.id}/loopback6`, text: drawn.values.get(`${seat.id}/loopback6`), pool: 'loopbacks-6' },
    });
    expect(origin(['ipv6PrefixLists', 'LOOPBACKS'])).toMatchObject({ subject: 'pool:loopback6' });
    const far = network.switches.find((s) => s.host === 'sk-lf-05')!.config.ipv6Loopbacks![0]!;
    const routes = routesOf(network, 'sk-lf-01', undefined);
    if (typeof routes === 'string') throw new Error(routes);
    expect(routes.find((r) => r.prefix === far)?.ways).toHaveLength(4);
  });
});

describe('what it draws', () => {
  const drawn = (intent: FabricIntent, pools = POOLS, entries: Parameters<typeof drawValues>[2] = NOTHING_HELD) =>
    drawValues(demandsOf(intent, layOut(intent)), pools, entries, { fabric: intent.name, change: null });
  const keys = (intent: FabricIntent, kind: string): number =>
    [...drawn(intent).values.keys()].filter((k) => k.endsWith(`/${kind}`)).length;

  test('an address for each switch, and a /127 for each link that is numbered; nothing where there is IPv4 alone', () => {
    expect([keys(skerry(), 'loopback6'), keys(skerry(), 'link6')]).toEqual([14, 0]);
    const numbered = skerry({ underlay: 'numbered' });
    expect([keys(numbered, 'loopback6'), keys(numbered, 'link6')]).toEqual([14, 40]);
    expect([keys(skerryIntent(), 'loopback6'), keys(skerryIntent(), 'link6')]).toEqual([0, 0]);
    for (const [key, value] of drawn(numbered).values)
      if (key.endsWith('6'))
        expect(value).toMatch(key.endsWith('/link6') ? /^2001:db8:fe::.*\/127$/ : /^2001:db8:.*\/(128|64)$/);
  });

  test('with no pool, or one of /64s, it says so, and nothing is told to the switch before all is drawn', () => {
    for (const [pool, why] of [
      ['', /^No pool is chosen for IPv6 loopbacks; 14 values wait\.$/],
      ['skerry-tenants-6', /^Pool skerry-tenants-6 does not hold IPv6 loopbacks\.$/],
      ['loopbacks', /^Pool loopbacks does not hold IPv6 loopbacks\.$/],
    ] as const) {
      const { intent } = applyEdits(skerry(), [{ kind: 'choosePools', pools: { loopback6: pool } }]);
      const { findings, values } = drawn(intent);
      expect(findings.map((f) => f.message)).toEqual([expect.stringMatching(why)]);
      expect(compileFabric(intent, values, POOLS).switches).toEqual([]);
    }
  });

  test('turning it on in a fabric that lives is one edit that every switch hears of, and is proved', () => {
    const before = { ...skerryIntent(), seating: {} };
    const live = configsOf(before).drawn;
    const after = withUnderlay6(before);
    const values = drawn(after, POOLS, holdingsOf(live.entries, { fabric: before.name, change: null })).values;
    for (const [key, value] of live.values) expect(values.get(key)).toBe(value);
    const { report, compiled } = proveChange({ intent: before, values: live.values }, { intent: after, values }, POOLS);
    // Nobody sits there: nothing stands still.
    expect(report.findings).toEqual([]);
    expect(compiled.switches.filter((s) => s.files['interfaces']!.includes('2001:db8:ff::'))).toHaveLength(14);
  });
});

describe('what stands still meanwhile', () => {
  const said = (from: FabricIntent, to: FabricIntent): string[] => {
    const state = (intent: FabricIntent) => ({ intent, values: configsOf(intent).drawn.values });
    return proveChange(state(from), state(to), POOLS).report.findings.map((f) => `${f.rule}: ${f.message}`);
  };
  test('sessions that get another family start anew: that is said with how many; OSPFv3 comes beside, and nothing does', () => {
    expect(said(skerryIntent(), skerry())).toEqual([
      'sessions-start-anew: 80 BGP session ends of sk-sp-01, sk-sp-02, sk-sp-03 and 11 more start anew, as the families they speak change: for some seconds after each gets its text nothing goes over them.',
    ]);
    const single = { ...skerryIntent(), settings: { ...skerryIntent().settings, asnScheme: 'single' as const } };
    expect(said(single, withUnderlay6(single))).toEqual([]);
    // Timers are taken up by the sessions as they are.
    const slower = { ...skerryIntent(), settings: { ...skerryIntent().settings, keepalive: 5, hold: 15 } };
    expect(said(skerryIntent(), slower)).toEqual([]);
  });
});
