import { describe, expect, test } from 'vitest';
import type { RouteAnswer } from '../ask/answer.ts';
import { routesOf } from '../ask/routesOf.ts';
import { originOf } from '../config/origins.ts';
import { POOLS, SKERRY_POOLS } from '../demo/skerry.ts';
import { applyEdits, describeEdit, type Edit } from '../intent/edits/index.ts';
import { editsBetween } from '../intent/edits/editsBetween.ts';
import type { FabricIntent, TenantRoute } from '../intent/intent.ts';
import { judgeNetwork } from '../proof/judgeNetwork.ts';
import { modelFabric, proveChange } from '../proof/proveChange.ts';
import { configsOf, intentOf, layRacks } from '../testing/fabricOf.ts';
import { joinedBorder, putNeighbourOf } from '../testing/joinedBorder.ts';
import { networkOf } from '../testing/networkOf.ts';
import { compileFabric } from './compileFabric.ts';

const BASE: readonly Edit[] = [
  layRacks([{ pattern: 'single-48', count: 3 }]),
  { kind: 'choosePools', pools: SKERRY_POOLS },
  { kind: 'addVrf', vrf: { name: 'tides', transitVlan: 4001 } },
  { kind: 'addVrf', vrf: { name: 'charts', transitVlan: 4002 } },
  {
    kind: 'addNetwork',
    network: {
      name: 'gauges',
      vrf: 'tides',
      vlan: 20,
      subnetLength: 24,
      subnet: '10.32.5.0/24',
      families: 'both',
      subnet6: '2001:db8:32:5::/64',
      racks: [1, 2],
    },
  },
  { kind: 'addNetwork', network: { name: 'press', vrf: 'tides', vlan: 21, subnetLength: 24, racks: [3] } },
];
const FIREWALL: TenantRoute = { vrf: 'tides', prefix: '0.0.0.0/0', via: '10.32.5.9', racks: [1, 2] };
const put = (route: TenantRoute): Edit => ({ kind: 'putRoute', route });
const made = (...routes: readonly TenantRoute[]) => of(intentOf(...BASE, ...routes.map(put)));
const of = (intent: FabricIntent) => {
  const { drawn, layout } = configsOf(intent);
  const compiled = compileFabric(intent, drawn.values, POOLS);
  return { intent, drawn, layout, compiled, network: modelFabric(compiled) };
};
const table = (network: ReturnType<typeof made>['network'], host: string, vrf: string): string[] =>
  (routesOf(network, host, vrf) as readonly RouteAnswer[]).map((r) => r.prefix);
const frr = ({ compiled }: ReturnType<typeof made>, host: string): string =>
  compiled.switches.find((s) => s.seat.host === host)!.files['frr.conf']!;

describe('static routes of tenants', () => {
  test('of two tenants on one switch: what is read back is what was meant, so that nothing is taken for a hand edit', () => {
    const maps = { name: 'maps', vrf: 'charts', vlan: 30, subnetLength: 24, racks: [1] };
    const dropped = ['tides', 'charts'].flatMap((vrf) =>
      ['198.51.100.0/24', '203.0.113.0/24'].map((prefix) => put({ vrf, prefix, racks: [1] })),
    );
    const { compiled } = of(intentOf(...BASE, { kind: 'addNetwork', network: maps }, ...dropped));
    expect(compiled.switches.filter((s) => s.config.staticRoutes).map((s) => s.config.staticRoutes!.length)).toEqual([
      4,
    ]);
    for (const s of compiled.switches) expect(s.parsed.config).toEqual(s.config);
  });

  test('are said by the leaves of their racks, told to all others, and no matter of other tenants', () => {
    const with6 = { vrf: 'tides', prefix: '2001:db8:99::/48', via: '2001:db8:32:5::9', racks: [1] };
    const nothing = { vrf: 'tides', prefix: '198.51.100.0/24', racks: [1, 2, 3], distance: 19 };
    const all = made(FIREWALL, with6, nothing);
    expect(frr(all, 'tn-lf-01')).toMatch(
      /vrf tides\n vni \d+\n ip route 0\.0\.0\.0\/0 10\.32\.5\.9\n ip route 198\.51\.100\.0\/24 blackhole 19\n/,
    );
    expect(frr(all, 'tn-lf-01')).toContain(' ipv6 route 2001:db8:99::/48 2001:db8:32:5::9\n');
    expect(frr(all, 'tn-lf-01').match(/redistribute static/g)).toHaveLength(2);
    expect(frr(all, 'tn-lf-02')).not.toContain('2001:db8:99::/48');
    expect(frr(all, 'tn-lf-03')).not.toContain('ip route 0.0.0.0/0');
    expect(frr(all, 'tn-sp-01')).not.toContain('ip route');
    expect(all.compiled.switches.flatMap((s) => [...s.findings, ...s.parsed.unread])).toEqual([]);
    expect(judgeNetwork(all.network).findings).toEqual([]);
    for (const prefix of ['0.0.0.0/0', '198.51.100.0/24'])
      expect(table(all.network, 'tn-lf-03', 'tides')).toContain(prefix);
    expect(table(all.network, 'tn-lf-02', 'tides')).toContain('2001:db8:99::/48');
    expect(table(made().network, 'tn-lf-03', 'tides')).not.toContain('0.0.0.0/0');
    // Why the line is there.
    const { intent, layout, drawn } = all;
    const context = { intent, layout, values: drawn.values, ledger: [], edits: [...BASE, put(FIREWALL)] };
    expect(
      originOf(['staticRoutes', '0.0.0.0/0 10.32.5.9 tides'], { ...context, seat: layout.seatById.get('leaf-1')! }),
    ).toMatchObject({ subject: 'route:tides,0.0.0.0/0,10.32.5.9' });
  });

  test('what cannot be is refused at its field, with the cure', () => {
    const intent = intentOf(...BASE);
    const refused = (route: Partial<TenantRoute>): unknown =>
      applyEdits(intent, [put({ ...FIREWALL, ...route })]).findings.map((f) => [f.path, f.message, f.cure]);
    expect(refused({ vrf: 'lamp' })).toEqual([
      ['/route/vrf', 'There is no VRF lamp.', 'Choose a VRF of this fabric, or add it first.'],
    ]);
    expect(refused({ prefix: '198.51.100.9/24' })).toEqual([
      ['/route/prefix', expect.stringMatching(/host bits/), 'Write 198.51.100.0/24.'],
    ]);
    expect(refused({ via: 'lighthouse' })).toEqual([['/route/via', '“lighthouse” is no address.', expect.any(String)]]);
    expect(refused({ via: '2001:db8::9' })).toEqual([
      ['/route/via', '2001:db8::9 is of another family than 0.0.0.0/0.', 'Use a next hop of the same family.'],
    ]);
    expect(refused({ prefix: '::/0', via: 'fe80::9' })).toEqual([
      ['/route/via', 'fe80::9 is an address of one link alone.', expect.any(String)],
    ]);
    expect(refused({ racks: [1, 9] })).toEqual([
      ['/route/racks', 'There is no rack 9.', 'Choose racks of this fabric.'],
    ]);
    expect(refused({ racks: [] })).toEqual([['/route/racks', 'It is said on no rack.', expect.any(String)]]);
    expect(refused({})).toEqual([]);
    // A VRF that has one is held by it; a rack that goes is named no more.
    const has = applyEdits(intent, [put(FIREWALL)]).intent;
    expect(
      applyEdits(has, [
        { kind: 'removeNetwork', name: 'gauges' },
        { kind: 'removeNetwork', name: 'press' },
        { kind: 'removeVrf', name: 'tides' },
      ]).findings[0],
    ).toMatchObject({ message: expect.stringMatching(/static route/) });
    expect(applyEdits(has, [{ kind: 'removeRack', number: 2 }]).intent.routes).toEqual([{ ...FIREWALL, racks: [1] }]);
  });

  test('one that cannot do what it is for is a finding: where the tenant is not, and by a next hop that is not near', () => {
    const found = (route: TenantRoute): string[] => {
      const { intent, drawn } = made(route);
      const bare = { intent: intentOf(...BASE), values: drawn.values };
      return proveChange(bare, { intent, values: drawn.values }, POOLS).report.findings.flatMap((f) =>
        ['route-carried', 'next-hop-near'].includes(f.rule) ? f.message : [],
      );
    };
    expect(found(FIREWALL)).toEqual([]);
    expect(found({ ...FIREWALL, racks: [1, 3] })).toEqual([
      'The static route to 0.0.0.0/0 goes by 10.32.5.9, which on rack 3 lies in no subnet of tides.',
    ]);
    expect(found({ ...FIREWALL, via: '10.99.0.1' })).toEqual([
      expect.stringMatching(/on racks 1, 2 lies in no subnet/),
    ]);
    expect(found({ vrf: 'charts', prefix: '198.51.100.0/24', racks: [2] })).toEqual([
      'The static route to 198.51.100.0/24 is said on rack 2, where nothing of charts is.',
    ]);
  });

  test('of a rack of two leaves a route by the link of a router outside is said by the leaf that has it; the other hears of it', () => {
    const route: TenantRoute = { vrf: 'tides', prefix: '198.18.0.0/24', via: '192.0.2.1', racks: [1] };
    const { findings, intent } = applyEdits(joinedBorder, [putNeighbourOf(), put(route)]);
    expect(findings).toEqual([]);
    const { network, frrOf } = networkOf(intent);
    const says = ['tn-lf-01a', 'tn-lf-01b'].map((host) => frrOf(host).includes('ip route 198.18.0.0/24 192.0.2.1'));
    expect(says).toEqual([true, false]);
    for (const host of ['tn-lf-01b', 'tn-lf-02'])
      expect(
        (routesOf(network, host, 'tides') as readonly RouteAnswer[]).find((r) => r.prefix === route.prefix),
      ).toMatchObject({
        kind: 'evpn',
        unsure: null,
        ways: [{ to: 'tn-lf-01a' }],
      });
    const before = { intent: joinedBorder, values: configsOf(joinedBorder).drawn.values };
    const { report } = proveChange(before, { intent, values: configsOf(intent).drawn.values }, POOLS);
    expect(report.findings.filter((f) => f.severity === 'error')).toEqual([]);
  });

  test('edits say from what to what, and lead from any intent to any other', () => {
    const before = intentOf(...BASE, put(FIREWALL));
    const edits: Edit[] = [
      put({ ...FIREWALL, distance: 9 }),
      { kind: 'removeRoute', vrf: 'tides', prefix: '0.0.0.0/0', via: '10.32.5.9' },
    ];
    expect(edits.map((e) => describeEdit(e, before))).toEqual([
      'Distance of static route to 0.0.0.0/0 in tides 1 → 9',
      'Remove the static route of tides to 0.0.0.0/0 by 10.32.5.9',
    ]);
    expect(describeEdit(put({ vrf: 'tides', prefix: '198.51.100.0/24', racks: [1, 2] }), before)).toBe(
      'Route 198.51.100.0/24 of tides to nothing on racks 1, 2',
    );
    for (const after of [intentOf(...BASE), applyEdits(before, edits.slice(0, 1)).intent]) {
      expect(applyEdits(before, editsBetween(before, after)).intent).toEqual(after);
      expect(applyEdits(after, editsBetween(after, before)).intent).toEqual(before);
    }
  });
});
