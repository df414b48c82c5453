import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { SKERRY_POOLS } from '../demo/skerry.ts';
import { applyEdits, describeEdit, type Edit } from '../intent/edits/index.ts';
import { editsBetween } from '../intent/edits/editsBetween.ts';
import type { FabricIntent, Vrf } from '../intent/intent.ts';
import type { RouteMapEntrySaid } from '../intent/policies.ts';
import { judgeNetwork } from '../proof/judgeNetwork.ts';
import { intentOf, LAY_BORDER } from '../testing/fabricOf.ts';
import { putNeighbourOf } from '../testing/joinedBorder.ts';
import { networkOf, prefixesAt, subjectsOn } from '../testing/networkOf.ts';
import { policyIntents } from '../testing/policiesOf.ts';

const TIDES: Vrf = { name: 'tides', transitVlan: 4001 };
const map = (name: string, ...entries: RouteMapEntrySaid[]): Edit => ({
  kind: 'putPolicy',
  policy: { is: 'route-map', name, entries },
});
/** A tenant with two networks and two static routes on rack 2, and a border pair. */
const base = intentOf(
  LAY_BORDER,
  { kind: 'choosePools', pools: SKERRY_POOLS },
  {
    kind: 'putPolicy',
    policy: { is: 'prefix-list', name: 'inner', entries: [{ seq: 10, permit: true, prefix: '10.77.1.0/24' }] },
  },
  map('outer-only', { seq: 10, permit: false, match: { prefixes: 'inner' } }, { seq: 20, permit: true }),
  map('marked', { seq: 10, permit: true, match: { tag: 40 }, set: { communities: ['64701:7'] } }),
  { kind: 'addVrf', vrf: TIDES },
  ...([1, 2] as const).map((n): Edit => ({
    kind: 'addNetwork',
    network: {
      name: `gauges-${n}`,
      vrf: 'tides',
      vlan: 20 + n,
      subnet: `10.77.${n}.0/24`,
      subnetLength: 24,
      racks: [2],
    },
  })),
  { kind: 'putRoute', route: { vrf: 'tides', prefix: '198.51.100.0/24', via: '10.77.2.9', racks: [2], tag: 40 } },
  { kind: 'putRoute', route: { vrf: 'tides', prefix: '203.0.113.0/24', via: '10.77.2.9', racks: [2] } },
  { kind: 'joinOutside', link: { rack: 1, side: 'a', port: 'p46', system: 'offing-1', farPort: 'eth1' } },
  putNeighbourOf({ tells: ['0.0.0.0/0'] }),
);
const change = (of: Partial<Vrf>): Edit => ({ kind: 'changeVrf', name: 'tides', vrf: { ...TIDES, ...of } });
const had = (intent: FabricIntent, host: string, vrf?: string): string[] =>
  prefixesAt(networkOf(intent).network, host, vrf).sort();

describe('what a tenant tells of its own', () => {
  test('goes through its maps: subnets, and static routes by their tag; others have what is left', () => {
    const { intent, findings } = applyEdits(base, [change({ connectedMap: 'outer-only', staticMap: 'marked' })]);
    expect(findings).toEqual([]);
    const { frrOf, network } = networkOf(intent);
    const frr = frrOf('tn-lf-02');
    expect(frr).toContain('  redistribute connected route-map outer-only\n');
    expect(frr).toContain('  redistribute static route-map marked\n');
    expect(frr).toContain('  ip route 198.51.100.0/24 10.77.2.9 tag 40\n'.slice(1));
    expect(frr).toContain('route-map marked permit 10\n match tag 40\n set community 64701:7\n');
    // The border has no static routes, and tells its subnets by the same map.
    expect(frrOf('tn-lf-01a')).toContain('  redistribute connected route-map outer-only\n');
    expect(frrOf('tn-lf-01a')).not.toContain('redistribute static');
    // A switch without the tenant has none of it.
    expect(frrOf('tn-sp-01')).not.toContain('outer-only');
    expect(judgeNetwork(network).findings).toEqual([]);
    const [before, after] = [base, intent].map((i) => had(i, 'tn-lf-01a', 'tides'));
    expect(before!.filter((p) => !after!.includes(p))).toEqual(['10.77.1.0/24', '203.0.113.0/24']);
    expect(after).toEqual(expect.arrayContaining(['10.77.2.0/24', '198.51.100.0/24']));
    expect(had(intent, 'offing-1')).not.toContain('10.77.1.0/24');
    expect(had(intent, 'tn-lf-02', 'tides')).toContain('10.77.1.0/24');
  });

  test('a route to a neighbour behind a link is kept back beside them', () => {
    const { intent, findings } = applyEdits(base, [
      change({ staticMap: 'marked' }),
      { kind: 'putNeighbour', neighbour: { ...base.neighbours[0]!, loopback: '203.0.113.9' } },
      { kind: 'putRoute', route: { vrf: 'tides', prefix: '198.18.0.0/24', via: '192.0.2.1', racks: [1], tag: 40 } },
    ]);
    expect(findings).toEqual([]);
    const { frrOf, network } = networkOf(intent);
    expect(frrOf('tn-lf-01a')).toContain('  redistribute static route-map SAID-ROUTES-tides\n');
    expect(frrOf('tn-lf-01a')).toMatch(/route-map SAID-ROUTES-tides permit 20\n call marked\n/);
    expect(judgeNetwork(network).findings).toEqual([]);
    const leaf = had(intent, 'tn-lf-02', 'tides');
    expect(leaf).toContain('198.18.0.0/24');
    expect(leaf).not.toContain('203.0.113.9/32');
  });

  test('maps that are not there are refused at their field; one that is used stays; lines say who asks for them', () => {
    expect(applyEdits(base, [change({ connectedMap: 'fog' })]).findings.map((f) => [f.path, f.message])).toEqual([
      ['/vrf/connectedMap', 'There is no route map fog.'],
    ]);
    const { intent } = applyEdits(base, [change({ connectedMap: 'outer-only' })]);
    expect(
      applyEdits(intent, [{ kind: 'removePolicy', is: 'route-map', name: 'outer-only' }]).findings.map(
        (f) => f.message,
      ),
    ).toEqual([expect.stringMatching(/outer-only.*VRF tides/)]);
    expect(describeEdit(change({ connectedMap: 'marked' }), intent)).toBe(
      'Map of its subnets of VRF tides outer-only → marked',
    );
    const of = subjectsOn(intent, 'tn-lf-02');
    expect([of('bgp', 'vrfs', 'tides', 'ipv4', 'connected'), of('routeMaps', 'outer-only', 'entries')]).toEqual([
      'vrf:tides',
      'policy:route-map.outer-only',
    ]);
  });

  test('random fabrics whose tenants have maps are led into one another, edit by edit', () => {
    fc.assert(
      fc.property(policyIntents, policyIntents, (a, b) => {
        const edits = editsBetween(a, b);
        const done = applyEdits(a, edits);
        expect(done.findings).toEqual([]);
        expect(done.intent.vrfs).toEqual(b.vrfs);
      }),
      { numRuns: 25 },
    );
  });
});
