import { describe, expect, test } from 'vitest';
import type { RouteAnswer } from '../ask/answer.ts';
import { routesOf } from '../ask/routesOf.ts';
import type { StaticRoute } from '../config/static.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import { POOLS } from '../demo/skerry.ts';
import { applyEdits, describeEdit, type Edit } from '../intent/edits/index.ts';
import { editsBetween } from '../intent/edits/editsBetween.ts';
import type { FabricIntent, OutsideNeighbour } from '../intent/intent.ts';
import type { NetworkModel } from '../network/networkModel.ts';
import { judgeNetwork } from '../proof/judgeNetwork.ts';
import { outsideAgrees } from '../proof/outsideAgrees.ts';
import { proveChange } from '../proof/proveChange.ts';
import { configsOf } from '../testing/fabricOf.ts';
import { joinedBorder, putNeighbourOf } from '../testing/joinedBorder.ts';
import { networkOf, otherwise, prefixesAt, subjectsOn } from '../testing/networkOf.ts';
import { handOver } from './handOver.ts';

/** Has the first half of the border speak to a router at an address behind its link, but for what is said otherwise. */
const put = (of: Partial<OutsideNeighbour> = {}): Edit => putNeighbourOf({ loopback: '203.0.113.9', ...of });
const SIX = { address: '2001:db8:ffff::/127', far: '2001:db8:ffff::1', loopback: '2001:db8:fffe::9' } as const;
const speaking = (...edits: Edit[]): FabricIntent => applyEdits(joinedBorder, [put(), ...edits]).intent;
const ends = (network: NetworkModel): readonly (readonly [string, string, boolean, string | null, boolean])[] =>
  network.sessions
    .filter((s) => s.vrf === 'tides' || s.host === 'offing-1')
    .map((s) => [s.host, s.peer, s.up, s.reason, s.unsure !== undefined]);

describe('a router outside that is spoken to behind its link', () => {
  test('has a static route that nobody is told, speaks over it, and what it tells is reached through the link', () => {
    const intent = speaking();
    const { compiled, network } = networkOf(intent);
    const frr = compiled.switches.find((s) => s.seat.host === 'tn-lf-01a')!.files['frr.conf']!;
    expect(frr).toContain(' ip route 203.0.113.9/32 192.0.2.1 tag 3\n');
    expect(frr).toContain(' neighbor 203.0.113.9 remote-as 64701\n');
    expect(frr).toContain(' neighbor 203.0.113.9 ebgp-multihop 2\n');
    expect(frr).toContain('  neighbor 203.0.113.9 prefix-list FROM-p46 in\n');
    expect(frr).not.toMatch(/redistribute static|neighbor 192\.0\.2\.1/);
    expect(ends(network)).toEqual([
      ['tn-lf-01a', '203.0.113.9', true, null, false],
      ['offing-1', '192.0.2.0', true, null, false],
    ]);
    expect(judgeNetwork(network).findings).toEqual([]);
    expect(prefixesAt(network, 'tn-lf-02', 'tides')).toContain('0.0.0.0/0');
    expect(prefixesAt(network, 'tn-lf-02', 'tides')).not.toContain('203.0.113.9/32');
    expect(prefixesAt(network, 'tn-lf-01a', 'tides')).toContain('203.0.113.9/32');
    const way = (routesOf(network, 'tn-lf-01a', 'tides') as readonly RouteAnswer[]).find(
      (r) => r.prefix === '0.0.0.0/0',
    )!;
    expect(way).toMatchObject({ unsure: null, ways: [{ to: 'offing-1' }] });
    expect(way.because.map((b) => b.words)).toContain('203.0.113.9 lies behind 192.0.2.1');
  });

  test('beside static routes that are told it is kept back, in its family and no other', () => {
    const intent = speaking(put({ ...SIX, hops: 4 }), {
      kind: 'putRoute',
      route: { vrf: 'tides', prefix: '198.51.100.0/24', via: '192.0.2.1', racks: [1] },
    });
    const { compiled, network } = networkOf(intent);
    const frr = compiled.switches.find((s) => s.seat.host === 'tn-lf-01a')!.files['frr.conf']!;
    expect(frr).toContain('  redistribute static route-map SAID-ROUTES\n');
    expect(frr).toContain('route-map SAID-ROUTES deny 10\n match tag 3\n');
    expect(frr).toContain(' ipv6 route 2001:db8:fffe::9/128 2001:db8:ffff::1 tag 3\n');
    expect(frr).toContain(' neighbor 2001:db8:fffe::9 ebgp-multihop 4\n');
    expect(ends(network).map(([host, peer, up]) => [host, peer, up])).toEqual([
      ['tn-lf-01a', '203.0.113.9', true],
      ['tn-lf-01a', '2001:db8:fffe::9', true],
      ['offing-1', '192.0.2.0', true],
      ['offing-1', '2001:db8:ffff::', true],
    ]);
    const leaf = prefixesAt(network, 'tn-lf-02', 'tides');
    expect(leaf).toEqual(expect.arrayContaining(['198.51.100.0/24', '0.0.0.0/0', '::/0']));
    expect(leaf.filter((p) => p.startsWith('203.') || p.startsWith('2001:db8:fffe'))).toEqual([]);
    // The one that was said by hand is there once.
    const twice = speaking({
      kind: 'putRoute',
      route: { vrf: 'tides', prefix: '203.0.113.9/32', via: '192.0.2.1', racks: [1] },
    });
    const { compiled: once } = networkOf(twice);
    expect(
      once.switches
        .find((s) => s.seat.host === 'tn-lf-01a')!
        .files['frr.conf']!.match(/^ ip route 203\.0\.113\.9\/32.*$/gm),
    ).toEqual([' ip route 203.0.113.9/32 192.0.2.1']);
  });

  test('beside one next door that tells the same, which of both ways are used is uncertain', () => {
    const beside = putNeighbourOf({ vlan: 100, address: '192.0.2.8/31', far: '192.0.2.9' });
    const defaultOf = (...edits: Edit[]) => {
      const { network } = networkOf(applyEdits(joinedBorder, edits).intent);
      const all = routesOf(network, 'tn-lf-01a', 'tides') as readonly RouteAnswer[];
      return all.find((r) => r.prefix === '0.0.0.0/0')!;
    };
    const both = defaultOf(put(), beside);
    expect(both.ways).toHaveLength(2);
    expect(both.unsure).toMatch(/heard first/);
    // Both next door, or both behind their links: both are used.
    expect(defaultOf(putNeighbourOf(), beside)).toMatchObject({ unsure: null, ways: [{}, {}] });
    const behind = putNeighbourOf({ vlan: 100, address: '192.0.2.8/31', far: '192.0.2.9', loopback: '203.0.113.10' });
    expect(defaultOf(put(), behind)).toMatchObject({ unsure: null, ways: [{}, {}] });
  });

  test('its other side is handed over, and has to change with it', () => {
    const intent = speaking();
    const { compiled, values } = networkOf(intent);
    const { text } = handOver(intent, compiled, values)[0]!;
    expect(text).toContain('! 203.0.113.9 is its own, behind the link\n');
    expect(text).toContain(' neighbor 192.0.2.0 ebgp-multihop 2\n');
    expect(text).toContain(' neighbor 192.0.2.0 update-source 203.0.113.9\n');
    const plain = applyEdits(joinedBorder, [put({ loopback: undefined! })]).intent;
    expect(outsideAgrees(plain, intent).map((f) => f.message)).toEqual([
      'offing-1 has to change with rack 1 p46 (a): the address it speaks from and the hops to it. The session in tides is down while one side alone has it.',
    ]);
    expect(describeEdit(put({ hops: 5 }), intent)).toBe(
      'Hops to it of neighbour 203.0.113.9 on rack 1 p46 (a) two → 5',
    );
    expect(describeEdit(put(), plain)).toBe(
      'Address it speaks from of neighbour 192.0.2.1 on rack 1 p46 (a) that on the link → 203.0.113.9',
    );
    const of = subjectsOn(intent, 'tn-lf-01a');
    expect([
      of('staticRoutes', '203.0.113.9/32 192.0.2.1 tides', 'tag'),
      of('bgp', 'vrfs', 'tides', 'peers', '203.0.113.9', 'multihop'),
      of('routeMaps', 'SAID-ROUTES', 'entries'),
    ]).toEqual(Array.from({ length: 3 }, () => 'neighbour:1.a.p46'));
  });

  test('speaks as real daemons do where texts say it otherwise, or the model says that it is unsure', () => {
    const { network } = networkOf(speaking());
    const ours = (make: (c: SwitchConfig) => SwitchConfig) => ends(otherwise(network, 'tn-lf-01a', make));
    const theirs = (make: (c: SwitchConfig) => SwitchConfig) => ends(otherwise(network, 'offing-1', make));
    const peers =
      (words: object) =>
      (c: SwitchConfig): SwitchConfig => ({
        ...c,
        bgp: { ...c.bgp!, peers: c.bgp!.peers.map((p) => ({ ...p, ...words })) },
      });
    const statics =
      (make: (all: readonly StaticRoute[]) => readonly StaticRoute[]) =>
      (c: SwitchConfig): SwitchConfig => ({ ...c, staticRoutes: make(c.staticRoutes ?? []) });
    const up = [true, true];
    const states = (of: ReturnType<typeof ends>) => of.map((s) => s[2]);
    // One end that calls from where it is known is enough; hops are asked for where it is not next door.
    expect(states(theirs(peers({ updateSource: undefined })))).toEqual(up);
    expect(states(theirs(peers({ multihop: undefined })))).toEqual(up);
    expect(theirs((c) => ({ ...c, loopbacks: [] })).map((s) => s[3])).toEqual([
      'offing-1 is not known to have 203.0.113.9',
      'tn-lf-01a has no neighbour statement for 192.0.2.1',
    ]);
    expect(theirs(peers({ name: '192.0.2.40' }))[0]!.slice(2)).toEqual([
      false,
      'offing-1 has no neighbour statement for 192.0.2.0',
      false,
    ]);
    // Without its own way there, or with more than one, what becomes of it hangs on what else is heard.
    const unsure = [false, true];
    const both = (of: ReturnType<typeof ends>) => of.map((s) => [s[2], s[4]]);
    const first = (of: ReturnType<typeof ends>) => [of[0]![2], of[0]![4]];
    // Nor over a next hop that is in none of its subnets; over one that nobody has, nothing gets there.
    const lost = ours(statics((all) => all.map((r) => ({ ...r, via: '192.0.2.3' }))));
    expect(first(lost)).toEqual(unsure);
    const wide = (c: SwitchConfig): SwitchConfig => ({
      ...c,
      ports: c.ports.map((p) => (p.name === 'p46' ? { ...p, addresses: ['192.0.2.0/28'] } : p)),
      staticRoutes: c.staticRoutes!.map((r) => ({ ...r, via: '192.0.2.3' })),
    });
    expect(ours(wide).map((s) => s.slice(2, 4))).toEqual([
      [false, 'offing-1 eth1 has 192.0.2.1/31, not 192.0.2.3'],
      [false, 'tn-lf-01a has no neighbour statement for 192.0.2.1'],
    ]);
    expect(both(ours(statics(() => [])))).toEqual([unsure, unsure]);
    expect(first(ours(statics((all) => [...all, { ...all[0]!, via: '192.0.2.9' }])))).toEqual(unsure);
    expect(first(ours(statics((all) => all.map((r) => ({ ...r, distance: 30 })))))).toEqual(unsure);
    const next = (c: SwitchConfig): SwitchConfig => ({
      ...c,
      bgp: {
        ...c.bgp!,
        vrfs: c.bgp!.vrfs.map((v) => ({ ...v, peers: v.peers.map(({ multihop: _, ...p }) => p) })),
      },
    });
    expect(first(ours(next))).toEqual(unsure);
    // A call from another address of its own is not known, and no other comes.
    const elsewhere = otherwise(
      otherwise(network, 'offing-1', peers({ updateSource: undefined })),
      'tn-lf-01a',
      (c) => ({
        ...c,
        bgp: {
          ...c.bgp!,
          vrfs: c.bgp!.vrfs.map((v) => ({ ...v, peers: v.peers.map((p) => ({ ...p, updateSource: '10.9.9.9' })) })),
        },
      }),
    );
    expect(ends(elsewhere).map((s) => s[3])).toEqual(
      Array.from({ length: 2 }, () => 'neither end calls from the address that the other end knows (update-source)'),
    );
    expect(
      ends(
        otherwise(network, 'tn-lf-01a', (c) => ({
          ...c,
          ports: c.ports.map((p) => (p.name === 'p46' ? { ...p, shut: true } : p)),
        })),
      ).map((s) => s[2]),
    ).toEqual([false, false]);
  });

  test('BFD over routes is found where one end runs it as with next door', () => {
    const intent = speaking(put({ bfd: true }));
    const { network } = networkOf(intent);
    expect(judgeNetwork(network).findings).toEqual([]);
    const near = otherwise(network, 'offing-1', (c) => ({
      ...c,
      bgp: { ...c.bgp!, peers: c.bgp!.peers.map(({ multihop: _, ...p }) => p) },
    }));
    expect(judgeNetwork(near).findings.map((f) => [f.rule, f.message])).toEqual([
      ['bfd-both-ends', 'tn-lf-01a runs BFD with 203.0.113.9 over routes, offing-1 runs it as with next door.'],
    ]);
  });

  test('a network that draws the subnet it is in is found', () => {
    const { drawn } = configsOf(speaking());
    const gauges = drawn.values.get('network:gauges/subnet')!;
    const inside = speaking(put({ loopback: gauges.replace(/0\/24$/, '77') }));
    const state = { intent: inside, values: configsOf(inside).drawn.values };
    const said = proveChange(state, state, POOLS).report.findings.filter((f) => f.rule === 'outside-subnet');
    expect(said.map((f) => f.message)).toEqual([
      expect.stringMatching(/^\S+77, which 192\.0\.2\.1 speaks from, is in network gauges/),
    ]);
  });

  test.each<[Partial<OutsideNeighbour>, string, RegExp]>([
    [{ loopback: '192.0.2.1' }, 'loopback', /is in the subnet of the link/],
    [{ ...SIX, loopback: '2001:DB8:fffe::9' }, 'loopback', /^2001:DB8:fffe::9 is written otherwise/],
    [{ loopback: '2001:db8::9' }, 'loopback', /another family than/],
    [{ loopback: '224.0.0.5' }, 'loopback', /lies in/],
    [{ ttlSecurity: true }, 'ttlSecurity', /behind it/],
    [{ loopback: undefined!, hops: 3 }, 'hops', /next door/],
  ])('refuses %j at its field', (of, field, message) => {
    const done = applyEdits(joinedBorder, [put(of)]);
    expect(done.findings.map((f) => [f.path, f.message])).toEqual([
      [`/neighbour/${field}`, expect.stringMatching(message)],
    ]);
  });

  test('no static route leads to it another way from its leaf, whichever of both is said first', () => {
    const route = (of: object): Edit => ({
      kind: 'putRoute',
      route: { vrf: 'tides', prefix: '203.0.113.9/32', racks: [1], ...of },
    });
    const refused = (...edits: Edit[]) => applyEdits(joinedBorder, edits).findings.map((f) => [f.path, f.message]);
    expect(refused(put(), route({}))).toEqual([
      ['/route/prefix', 'tides speaks to 203.0.113.9 over rack 1 p46 (a): a route to it is there by itself.'],
    ]);
    expect(refused(route({ via: '192.0.2.9' }), put())).toEqual([
      ['/neighbour/loopback', 'A static route of tides on rack 1 leads to it another way: by 192.0.2.9.'],
    ]);
    expect(refused(put(), route({ via: '192.0.2.1' }), route({ prefix: '203.0.113.0/24' }))).toEqual([]);
    expect(refused(put(), route({ racks: [2] }))).toEqual([]);
    // From the one to the other, and back.
    const [bare, led] = [[put({ loopback: undefined! }), route({ via: '192.0.2.9' })], [put()]].map(
      (edits) => applyEdits(joinedBorder, edits).intent,
    );
    for (const [from, to] of [
      [bare!, led!],
      [led!, bare!],
    ] as const)
      expect(applyEdits(from, editsBetween(from, to))).toMatchObject({ findings: [], intent: { routes: to.routes } });
  });

  test('one address is one router’s, and one session’s on a switch; no other link holds it', () => {
    const intent = speaking({
      kind: 'joinOutside',
      link: { rack: 1, side: 'a', port: 'p45', system: 'offing-2', farPort: 'eth0' },
    });
    const again = (of: Partial<OutsideNeighbour>): string[] =>
      applyEdits(intent, [put({ ...of })]).findings.map((f) => f.message);
    expect(again({ side: 'b', address: '192.0.2.2/31', far: '192.0.2.3' })).toEqual([]);
    expect(again({ port: 'p45', address: '192.0.2.4/31', far: '192.0.2.5', asn: 64702 })).toEqual([
      'The same switch speaks to it in tides already, over rack 1 p46 (a).',
    ]);
    const strange = applyEdits(joinedBorder, [
      put(),
      { kind: 'leaveOutside', rack: 1, side: 'b', port: 'p46' },
      { kind: 'joinOutside', link: { rack: 1, side: 'b', port: 'p46', system: 'offing-2', farPort: 'eth0' } },
      put({ side: 'b', address: '192.0.2.2/31', far: '192.0.2.3', asn: 64702 }),
    ]);
    expect(strange.findings.map((f) => f.message)).toEqual(['offing-1 has 203.0.113.9.']);
    expect(again({ side: 'b', address: '203.0.113.1/28', far: '203.0.113.2', loopback: undefined! })).toEqual([
      '203.0.113.0/28 holds 203.0.113.9, which is spoken to over rack 1 p46 (a) in tides.',
    ]);
  });
});
