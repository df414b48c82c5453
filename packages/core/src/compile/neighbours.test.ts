import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { routesOf } from '../ask/routesOf.ts';
import type { RouteAnswer } from '../ask/answer.ts';
import { POOLS } from '../demo/skerry.ts';
import { linux } from '../dialects/linux/linux.ts';
import { applyEdit, applyEdits, describeEdit, type Edit } from '../intent/edits/index.ts';
import { editsBetween } from '../intent/edits/editsBetween.ts';
import type { FabricIntent, OutsideNeighbour } from '../intent/intent.ts';
import type { PortConfig } from '../config/interfaces.ts';
import { neighbourKey } from '../intent/neighbourPlace.ts';
import { modelNetwork } from '../network/modelNetwork.ts';
import type { NetworkModel } from '../network/networkModel.ts';
import { mtuOf } from '../network/packetSize.ts';
import { outsideAgrees } from '../proof/outsideAgrees.ts';
import { judgeNetwork } from '../proof/judgeNetwork.ts';
import { modelFabric, proveChange } from '../proof/proveChange.ts';
import { DEFAULT_ROUTE, familyOfText } from '../numbers/prefix.ts';
import { borderIntents, configsOf } from '../testing/fabricOf.ts';
import { joinedBorder, putNeighbourOf } from '../testing/joinedBorder.ts';
import { networkOf, prefixesAt, subjectsOn } from '../testing/networkOf.ts';
import { originOf } from '../config/origins.ts';
import type { Place } from '../config/switchConfig.ts';
import { compileFabric, compileMemo } from './compileFabric.ts';
import { handOver } from './handOver.ts';

const speaking = (...of: Partial<OutsideNeighbour>[]): FabricIntent =>
  applyEdits(joinedBorder, of.map(putNeighbourOf)).intent;
const table = (intent: FabricIntent, host: string, vrf?: string): string[] =>
  prefixesAt(networkOf(intent).network, host, vrf).sort();

describe('a router outside that a tenant speaks to', () => {
  test('tells a default route that all leaves of the tenant get, and is told its subnets and nothing else', () => {
    const intent = speaking({});
    const { compiled, network, values } = networkOf(intent);
    const [gauges, maps] = ['gauges', 'maps'].map((n) => values.get(`network:${n}/subnet`)!);
    expect(judgeNetwork(network).findings).toEqual([]);
    expect(
      network.sessions.filter((s) => s.vrf === 'tides' || s.host === 'offing-1').map((s) => [s.host, s.up]),
    ).toEqual([
      ['tn-lf-01a', true],
      ['offing-1', true],
    ]);
    // The border carries the tenant though it has no network of it, with the MTU that may come by there.
    const border = compiled.switches.find((s) => s.seat.host === 'tn-lf-01a')!.config;
    expect(border.vrfs.map((v) => v.name)).toEqual(['tides']);
    expect(compiled.switches.find((s) => s.seat.host === 'tn-lf-01b')!.config.vrfs.map((v) => v.name)).toEqual([
      'tides',
    ]);
    expect(table(intent, 'tn-lf-02', 'tides')).toContain('0.0.0.0/0');
    expect(table(intent, 'tn-lf-02', 'charts')).not.toContain('0.0.0.0/0');
    expect(table(joinedBorder, 'tn-lf-02', 'tides')).not.toContain('0.0.0.0/0');
    const outside = table(intent, 'offing-1');
    expect(outside).toContain(gauges);
    expect(outside).not.toContain(maps);
    expect(outside.filter((p) => p !== gauges && p !== '192.0.2.0/31')).toEqual([]);
    const frr = compiled.switches.find((s) => s.seat.host === 'tn-lf-01a')!.files['frr.conf']!;
    expect(frr).toContain(`ip prefix-list TO-p46 seq 10 permit ${gauges}\n`);
    expect(frr).toContain('ip prefix-list TO-p46 seq 20 deny 0.0.0.0/0 le 32\n');
    expect(frr).toContain('ip prefix-list FROM-p46 seq 10 permit 0.0.0.0/0\n');
  });

  test('over two halves of a pair: leaves share load over both; where one session goes, the other half is left', () => {
    const both = speaking({}, { side: 'b', address: '192.0.2.2/31', far: '192.0.2.3' });
    const ways = (intent: FabricIntent): number =>
      (routesOf(networkOf(intent).network, 'tn-lf-02', 'tides') as readonly RouteAnswer[]).find(
        (r) => r.prefix === '0.0.0.0/0',
      )!.ways.length;
    expect([ways(both), ways(speaking({}))]).toEqual([2, 1]);
    expect(judgeNetwork(networkOf(both).network).findings).toEqual([]);
  });

  test('a password: both sides have it, its line says why, a new one has to be agreed on, and the secret stays while it is used', () => {
    const digest = (c: string): string => c.repeat(22);
    const secret = (of: string): Edit => ({ kind: 'putSecret', secret: { name: 'offing', digest: digest(of) } });
    const plain = speaking({});
    const asked = { kind: 'putNeighbour', neighbour: { ...plain.neighbours[0]!, password: 'offing' } } as const;
    expect(applyEdits(plain, [asked]).findings.map((f) => [f.path, f.message])).toEqual([
      ['/neighbour/password', `${plain.name} has no secret offing.`],
    ]);
    const { intent } = applyEdits(plain, [secret('a'), asked]);
    const { compiled, network } = networkOf(intent);
    const frr = compiled.switches.find((s) => s.seat.host === 'tn-lf-01a')!.files['frr.conf']!;
    expect(frr).toContain(` neighbor 192.0.2.1 password sealed:${digest('a')}\n`);
    expect(network.sessions.filter((s) => s.vrf === 'tides').map((s) => s.up)).toEqual([true]);
    expect(judgeNetwork(network).findings).toEqual([]);
    const state = (of: FabricIntent) => ({ intent: of, values: configsOf(of).drawn.values });
    const said = (from: FabricIntent, to: FabricIntent): string[] =>
      proveChange(state(from), state(to), POOLS).report.findings.map((f) => `${f.rule}: ${f.message}`);
    const agreed =
      'outside-agrees: offing-1 has to change with rack 1 p46 (a): the password. The session in tides is down while one side alone has it.';
    expect(said(plain, intent)).toEqual([agreed]);
    expect(said(intent, applyEdits(intent, [secret('b')]).intent)).toEqual([agreed]);
    expect(said(intent, intent)).toEqual([]);
    const { values } = configsOf(intent).drawn;
    const changed = compileMemo();
    compileFabric(intent, values, POOLS, changed);
    const after = compileFabric(applyEdits(intent, [secret('b')]).intent, values, POOLS, changed);
    expect(after.switches.find((s) => s.seat.host === 'tn-lf-01a')!.files['frr.conf']).toContain(digest('b'));
    expect(applyEdits(intent, [{ kind: 'removeSecret', name: 'offing' }]).findings.map((f) => f.message)).toEqual([
      expect.stringMatching(/offing.*neighbour 192\.0\.2\.1/),
    ]);
  });

  test('BFD: both sides ask for it, also where the fabric itself does without, and the other side has to be told', () => {
    const plain = speaking({});
    const without = { ...plain, settings: { ...plain.settings, bfd: false } };
    const done = applyEdits(without, [{ kind: 'putNeighbour', neighbour: { ...plain.neighbours[0]!, bfd: true } }]);
    expect(done.findings).toEqual([]);
    const { compiled, network, values } = networkOf(done.intent);
    const files = compiled.switches.find((s) => s.seat.host === 'tn-lf-01a')!.files;
    expect(files['frr.conf']).toContain(' neighbor 192.0.2.1 bfd profile FABRIC\n');
    expect(files['frr.conf']).toMatch(/\nbfd\n profile FABRIC\n/);
    expect(files['daemons']).toContain('bfdd=yes\n');
    expect(compiled.switches.find((s) => s.seat.host === 'tn-lf-02')!.files['frr.conf']).not.toContain('bfd');
    expect(handOver(done.intent, compiled, values)[0]!.text).toContain(' neighbor 192.0.2.0 bfd\n');
    expect(judgeNetwork(network).findings).toEqual([]);
    expect(outsideAgrees(without, done.intent).map((f) => f.message)).toEqual([
      expect.stringMatching(/^offing-1 has to change with rack 1 p46 \(a\): BFD\./),
    ]);
    expect(describeEdit({ kind: 'putNeighbour', neighbour: done.intent.neighbours[0]! }, without)).toBe(
      'BFD of neighbour 192.0.2.1 on rack 1 p46 (a) off → on',
    );
  });

  test('the lines of the other side are handed over: told to it, both speak, and it tells and takes just that', () => {
    const digest = 'a'.repeat(22);
    const asked = speaking({ takes: ['198.51.100.0/24'] }, { side: 'b', address: '192.0.2.2/31', far: '192.0.2.3' });
    const { intent } = applyEdits(asked, [
      { kind: 'putSecret', secret: { name: 'offing', digest } },
      { kind: 'putNeighbour', neighbour: { ...asked.neighbours[0]!, password: 'offing' } },
    ]);
    const { compiled, values } = networkOf(intent);
    const [told, ...more] = handOver(intent, compiled, values);
    expect([told!.system, more]).toEqual(['offing-1', []]);
    const { text } = told!;
    expect(text).toContain('! eth1: 192.0.2.1/31, MTU 9216, to tn-lf-01a p46 (tenant tides)\n');
    expect(text).toContain('! neighbor 192.0.2.0 password: that of the secret offing\n');
    // Nothing of a secret, and nothing that is about a switch of ours.
    expect(text).not.toMatch(/sealed|hostname|frr defaults|blackhole/);
    for (const [far, leaf] of [
      ['192.0.2.0', 'tn-lf-01a'],
      ['192.0.2.2', 'tn-lf-01b'],
    ] as const) {
      expect(text).toContain(`  neighbor ${far} prefix-list FROM-${leaf}-p46 in\n`);
      expect(text).toContain(`  neighbor ${far} prefix-list TO-${leaf}-p46 out\n`);
    }
    // The first takes what it says, the second a default route.
    expect(text.match(/ {2}neighbor \S+ default-originate/g)).toEqual(['  neighbor 192.0.2.2 default-originate']);
    const gauges = values.get('network:gauges/subnet')!;
    expect(text).toContain(`ip prefix-list FROM-tn-lf-01a-p46 seq 10 permit ${gauges}\n`);
    expect(text).toContain('ip prefix-list TO-tn-lf-01a-p46 seq 10 permit 198.51.100.0/24 le 32\n');
    // The router as it is told, with a network of its own that may be told and one that may not; and the password.
    const frr = text
      .replace('router bgp', 'ip route 198.51.100.0/24 blackhole\nip route 203.0.113.0/24 blackhole\nrouter bgp')
      .replace(/ neighbor 192\.0\.2\.0 remote-as .*\n/, `$& neighbor 192.0.2.0 password sealed:${digest}\n`)
      .replace(/ address-family ipv4 unicast\n/, '$&  redistribute static\n');
    const [known] = compiled.outside.switches;
    const parsed = linux.parse({ interfaces: linux.render(known!.config).files['interfaces']!, 'frr.conf': frr });
    expect(parsed.unread.filter((u) => u.harmless !== true)).toEqual([]);
    const network = modelFabric({
      ...compiled,
      outside: { ...compiled.outside, switches: [{ ...known!, ...parsed }] },
    });
    expect(network.sessions.filter((s) => s.vrf === 'tides').map((s) => [s.host, s.up])).toEqual([
      ['tn-lf-01a', true],
      ['tn-lf-01b', true],
    ]);
    const leaf = (routesOf(network, 'tn-lf-02', 'tides') as readonly RouteAnswer[]).map((r) => r.prefix);
    expect(leaf).toContain('198.51.100.0/24');
    expect(leaf).not.toContain('203.0.113.0/24');
    expect((routesOf(network, 'offing-1') as readonly RouteAnswer[]).map((r) => r.prefix)).toContain(gauges);
  });

  /** Two tenants over VLANs of one cable, the first in both families. */
  const ofCharts = { vlan: 200, vrf: 'charts', address: '192.0.2.0/31', far: '192.0.2.1' } as const;
  const six = { vlan: 100, address: '2001:db8:ffff::/127', far: '2001:db8:ffff::1' } as const;
  const tagged = (): FabricIntent => speaking({ vlan: 100, address: '192.0.2.2/31', far: '192.0.2.3' }, six, ofCharts);

  test('VLANs of one link are handed over to a tenant each, in either family; none gets what is another’s', () => {
    const intent = tagged();
    const { compiled, network, values } = networkOf(intent);
    expect(judgeNetwork(network).findings).toEqual([]);
    const border = compiled.switches.find((s) => s.seat.host === 'tn-lf-01a')!;
    expect(border.config.ports.filter((p) => p.name.startsWith('p46'))).toMatchObject([
      { name: 'p46', addresses: [] },
      { name: 'p46.100', vrf: 'tides', addresses: ['192.0.2.2/31'], ipv6Addresses: ['2001:db8:ffff::/127'] },
      { name: 'p46.200', vrf: 'charts', addresses: ['192.0.2.0/31'] },
    ]);
    expect(border.files['interfaces']).toContain('auto p46.200\niface p46.200\n    alias offing-1 eth1.200\n');
    const frr = border.files['frr.conf']!;
    expect(frr).toContain('  no neighbor 2001:db8:ffff::1 activate\n');
    expect(frr).toContain('  neighbor 2001:db8:ffff::1 prefix-list FROM-p46.100 in\n');
    expect(frr).toContain('ipv6 prefix-list FROM-p46.100 seq 10 permit ::/0\n');
    expect(frr).toContain('ip prefix-list FROM-p46.200 seq 10 permit 0.0.0.0/0\n');
    const up = network.sessions.filter((s) => s.vrf !== undefined).map((s) => [s.vrf, s.port, s.peer, s.up, s.ipv6]);
    expect(up.sort()).toEqual([
      ['charts', 'p46.200', '192.0.2.1', true, false],
      ['tides', 'p46.100', '192.0.2.3', true, false],
      ['tides', 'p46.100', '2001:db8:ffff::1', true, true],
    ]);
    expect(table(intent, 'tn-lf-02', 'tides')).toEqual(expect.arrayContaining(['0.0.0.0/0', '::/0']));
    expect(table(intent, 'tn-lf-02', 'charts')).toContain('0.0.0.0/0');
    expect(table(intent, 'tn-lf-02', 'charts')).not.toContain('::/0');
    const [told] = handOver(intent, compiled, values);
    expect(told!.text.split('\n').slice(0, 3)).toEqual([
      '! eth1.100: 192.0.2.3/31, 2001:db8:ffff::1/127, MTU 9216, to tn-lf-01a p46.100 (tenant tides)',
      '! eth1.200: 192.0.2.1/31, MTU 9216, to tn-lf-01a p46.200 (tenant charts)',
      '!',
    ]);
    expect(told!.text).toContain('  neighbor 2001:db8:ffff:: prefix-list FROM-tn-lf-01a-p46.100 in\n');
    expect(told!.text).toContain('ipv6 prefix-list TO-tn-lf-01a-p46.100 seq 10 permit ::/0\n');
  });

  test('a VLAN of a link is as the link is: pulled, shut, missing at the other end or of another MTU', () => {
    const { network } = networkOf(tagged());
    const edited = (
      host: string,
      of: (ports: readonly PortConfig[]) => readonly PortConfig[],
      cables = network.cables,
    ) =>
      modelNetwork(
        network.switches.map((s) =>
          s.host === host ? { ...s, config: { ...s.config, ports: of(s.config.ports) } } : s,
        ),
        cables,
      );
    const states = (of: NetworkModel): (string | null)[] =>
      of.sessions.filter((s) => s.vrf !== undefined && s.host === 'tn-lf-01a').map((s) => s.reason);
    const same = (ports: readonly PortConfig[]) => ports;
    const changed = (name: string, to: Partial<PortConfig>) => (ports: readonly PortConfig[]) =>
      ports.map((p) => (p.name === name ? { ...p, ...to } : p));
    expect(states(network)).toEqual([null, null, null]);
    const pulled = network.cables.filter((c) => c.a.port !== 'p46' || c.a.host !== 'tn-lf-01a');
    expect(new Set(states(edited('tn-lf-01a', same, pulled))).size).toBe(2);
    expect(states(edited('tn-lf-01a', same, pulled))).not.toContain(null);
    expect(states(edited('tn-lf-01a', changed('p46', { shut: true })))).not.toContain(null);
    expect(states(edited('offing-1', changed('eth1', { shut: true })))).not.toContain(null);
    const missing = states(edited('offing-1', (ports) => ports.filter((p) => p.name !== 'eth1.200')));
    expect(missing.filter((r) => r === null)).toHaveLength(2);
    const unequal = judgeNetwork(edited('offing-1', changed('eth1.200', { mtu: 1500 }))).findings;
    expect(unequal.map((f) => [f.rule, f.message])).toContainEqual([
      'link-mtu-equal',
      'tn-lf-01a p46.200 has MTU 9216, offing-1 eth1.200 has 1500.',
    ]);
    // No more goes through than through the port it is of.
    const { config } = edited('tn-lf-01a', changed('p46', { mtu: 2000 })).views.get('tn-lf-01a')!;
    expect(mtuOf(config, 'p46.100')).toEqual({ mtu: 2000, place: ['ports', 'p46', 'mtu'] });
  });

  test('one of several sessions on a link goes, and the others stay; its lines come of it alone', () => {
    const intent = tagged();
    const gone = applyEdits(intent, [
      { kind: 'removeNeighbour', rack: 1, side: 'a', port: 'p46', vlan: 100, ipv6: true },
    ]);
    expect(gone.intent.neighbours.map(neighbourKey)).toEqual(['1.a.p46.100', '1.a.p46.200']);
    const of = subjectsOn(intent, 'tn-lf-01a');
    expect([
      of('ports', 'p46.100', 'addresses'),
      of('ports', 'p46.100', 'ipv6Addresses'),
      of('ports', 'p46.200', 'mtu'),
      of('ports', 'p46', 'mtu'),
      of('ipv6PrefixLists', 'FROM-p46.100', 'entries'),
      of('bgp', 'vrfs', 'charts', 'peers', '192.0.2.1', 'remoteAs'),
    ]).toEqual([
      'neighbour:1.a.p46.100',
      'neighbour:1.a.p46.100.ipv6',
      'neighbour:1.a.p46.200',
      'outside:1.a.p46',
      'neighbour:1.a.p46.100.ipv6',
      'neighbour:1.a.p46.200',
    ]);
  });

  test('lines come of it: port, neighbour, policy and lists say so', () => {
    const intent = speaking({});
    const { layout, drawn } = configsOf(intent);
    const seat = layout.seats.find((s) => s.host === 'tn-lf-01a')!;
    const places: readonly Place[] = [
      ['ports', 'p46', 'vrf'],
      ['ports', 'p46', 'addresses'],
      ['bgp', 'vrfs', 'tides', 'peers', '192.0.2.1', 'remoteAs'],
      ['bgp', 'vrfs', 'tides', 'ipv4', 'policies', '192.0.2.1', 'prefixListIn'],
      ['prefixLists', 'TO-p46', 'entries'],
    ];
    for (const place of places) {
      const origin = originOf(place, {
        intent,
        layout,
        seat,
        values: drawn.values,
        ledger: [],
        edits: [putNeighbourOf()],
      });
      expect([place.join(' '), origin.subject, origin.edit?.number]).toEqual([place.join(' '), 'neighbour:1.a.p46', 1]);
    }
    expect(
      originOf(['ports', 'p46', 'mtu'], { intent, layout, seat, values: drawn.values, ledger: [], edits: [] }).subject,
    ).toBe('outside:1.a.p46');
  });

  test.each<[Partial<OutsideNeighbour>, string, RegExp, RegExp]>([
    [{ port: 'p45' }, 'port', /Nothing outside is joined to p45 of rack 1/, /Join the router/],
    [{ vrf: 'fog' }, 'vrf', /There is no VRF fog/, /Choose a VRF/],
    [{ asn: 23456 }, 'asn', /AS 23456 is reserved/, /the router has/],
    [
      { address: '127.0.0.0/31', far: '127.0.0.1' },
      'address',
      /127.0.0.0\/31 lies in 127.0.0.0\/8 \(loopback\)/,
      /hosts may have/,
    ],
    [{ address: '192.0.2.0/32' }, 'address', /no room for a second end/, /a \/31 or a \/30/],
    [{ address: '192.0.2.0/30' }, 'address', /no address of a host in 192.0.2.0\/30/, /between/],
    [
      { address: '192.0.2.1/30', far: '192.0.2.3' },
      'far',
      /192.0.2.3 is not in the subnet/,
      /address of 192.0.2.0\/30/,
    ],
    [{ far: '192.0.2.9' }, 'far', /192.0.2.9 is not in the subnet of 192.0.2.0\/31/, /address of 192.0.2.0\/31/],
    [{ far: '192.0.2.0' }, 'far', /is our own address/, /the other address/],
    [{ side: 'b' }, 'address', /192.0.2.0\/31 overlaps the link of rack 1 p46 \(a\) in tides/, /subnet of its own/],
    [{ address: '192.0.2.0/31', far: '2001:db8::1' }, 'far', /another family than 192.0.2.0\/31/, /for each family/],
    [{ address: '2001:DB8::/127', far: '2001:db8::1' }, 'address', /written otherwise/, /Write 2001:db8::\/127/],
    [{ address: '2001:db8::1/128', far: '2001:db8::1' }, 'address', /no room for a second end/, /a \/127/],
    [{ address: '2001:db8::/64', far: '2001:db8::1' }, 'address', /no address of a host in 2001:db8::\/64/, /between/],
    [{ address: 'fe80::1/64', far: 'fe80::2' }, 'address', /fe80::\/10 \(link-local\)/, /hosts may have/],
    [{ takes: ['::/0'] }, 'takes', /::\/0 is of IPv6; the session with 192.0.2.1 is of IPv4/, /session of that family/],
    [
      { vrf: 'charts', address: '2001:db8::/127', far: '2001:db8::1' },
      'vrf',
      /rack 1 p46 \(a\) is tides’s: it speaks to 192.0.2.1/,
      /Choose tides, or a VLAN/,
    ],
    [
      { side: 'b', vlan: 200, vrf: 'charts' },
      'address',
      /offing-1 has 192.0.2.0\/31 already, on rack 1 p46 \(a\) in tides/,
      /each link of a router/,
    ],
    [{ side: 'b', address: '192.0.2.2/31', far: '192.0.2.3', asn: 64702 }, 'asn', /offing-1 has AS 64701/, /the same/],
  ])('%o is refused at its field, with the cure', (of, field, says, cure) => {
    const [first] = applyEdit(speaking({}), putNeighbourOf(of)).findings;
    expect(first?.path).toBe(`/neighbour/${field}`);
    expect(first?.message).toMatch(says);
    expect(first?.cure).toMatch(cure);
  });

  test('on a subnet that a network of its tenant draws, or is given later, is found by the proof; another tenant’s is fine', () => {
    const { values } = networkOf(joinedBorder);
    const found = (vrf: string, network: string) => {
      const [address] = values.get(`network:${network}/subnet`)!.split('/');
      const [a, b, c] = address!.split('.');
      const intent = speaking({ vrf, address: `${a}.${b}.${c}.8/31`, far: `${a}.${b}.${c}.9` });
      const state = { intent, values: configsOf(intent).drawn.values };
      return proveChange(state, state, POOLS).report.findings.map((f) => [f.rule, f.subjects]);
    };
    expect(found('tides', 'gauges')).toEqual([['outside-subnet', ['neighbour:1.a.p46', 'network:gauges']]]);
    expect(found('tides', 'maps')).toEqual([]);
  });

  test('with an AS number that the fabric has is found by the proof: its routes would be dropped there', () => {
    const found = (asn: number) => {
      const intent = speaking({ asn });
      const state = { intent, values: configsOf(intent).drawn.values };
      return proveChange(state, state, POOLS).report.findings.map((f) => [f.rule, f.message]);
    };
    const { compiled } = networkOf(joinedBorder);
    const { seat, config } = compiled.switches.find((s) => s.seat.host === 'tn-lf-02')!;
    expect(found(config.bgp!.asn)).toEqual([
      ['outside-as', expect.stringMatching(new RegExp(`^AS ${config.bgp!.asn} of 192.0.2.1 is that of ${seat.host}`))],
    ]);
    expect(found(64701)).toEqual([]);
  });

  test('and others may not tell their VRF more routes than it may have, by what each may tell at most', () => {
    const limited = (mostRoutes: number, limit: number | undefined, ...more: Edit[]): string[] => {
      const vrf = { ...joinedBorder.vrfs.find((v) => v.name === 'tides')!, mostRoutes };
      const { findings, intent } = applyEdits(joinedBorder, [
        { kind: 'changeVrf', name: 'tides', vrf },
        putNeighbourOf(limit === undefined ? {} : { limit }),
        ...more,
      ]);
      expect(findings).toEqual([]);
      const state = { intent, values: configsOf(intent).drawn.values };
      const { findings: all } = proveChange(state, state, POOLS).report;
      return all.flatMap((f) => (f.rule === 'route-limit' ? f.message : []));
    };
    const any = (who: string, most: number) => `tides may have ${most} routes, and ${who} may tell any number.`;
    // Its subnet and its link are its own.
    expect([limited(100, 98), limited(100, undefined)]).toEqual([[], [any('192.0.2.1', 100)]]);
    expect(limited(100, 99)).toEqual([
      'tides may have 100 routes, and can come to 101: 2 of its own, 99 that it may be told.',
    ]);
    const route: Edit = { kind: 'putRoute', route: { vrf: 'tides', prefix: '198.18.0.0/24', racks: [2] } };
    const server: Edit = {
      kind: 'connectServer',
      port: { rack: 2, side: 'a', port: 'p1', server: 'node-1', untagged: 'gauges', tagged: [] },
    };
    expect(limited(100, 97, route).concat(limited(100, 97, server))).toEqual([]);
    expect(limited(100, 97, route, server)).toEqual([expect.stringMatching(/come to 101: 4 of its own/)]);
    // Of what another VRF has and is told, it may have all.
    const leak: Edit = { kind: 'putLeak', leak: { into: 'tides', from: 'charts', prefixes: [] } };
    expect(limited(100, 97, leak)).toEqual([]);
    const theirs = putNeighbourOf({ vrf: 'charts', side: 'b', address: '192.0.2.8/31', far: '192.0.2.9', limit: 7 });
    expect(limited(106, 95, leak, theirs)).toEqual([]);
    expect(limited(106, 104, theirs)).toEqual([]);
    expect(limited(106, 96, leak, theirs)).toEqual([
      expect.stringMatching(/come to 107: 4 of its own and of charts, 103 that they/),
    ]);
  });

  test('goes with its link, and holds its VRF; what it does is said, from what to what', () => {
    const intent = speaking({});
    expect(describeEdit(putNeighbourOf(), joinedBorder)).toBe(
      'Speak BGP to 192.0.2.1 (AS 64701) from rack 1 p46 (a) in tides',
    );
    expect(describeEdit(putNeighbourOf({ takes: ['198.51.100.0/24'], limit: 10 }), intent)).toBe(
      'Change neighbour 192.0.2.1 on rack 1 p46 (a): takes from it a default route → 198.51.100.0/24, most prefixes no limit → 10',
    );
    const free: Edit = { kind: 'leaveOutside', rack: 1, side: 'a', port: 'p46' };
    expect(applyEdit(intent, free).intent.neighbours).toEqual([]);
    expect(describeEdit(free, intent)).toMatch(/from offing-1, and speak no BGP to 192.0.2.1 \(AS 64701\)/);
    const dropped = applyEdits(intent, [
      { kind: 'removeNetwork', name: 'gauges' },
      { kind: 'removeVrf', name: 'tides' },
    ]);
    expect(dropped.failedAt).toBe(1);
    expect(dropped.findings[0]?.cure).toMatch(/neighbours outside/);
  });

  test('whatever is said of them: text reads back the same, no rule finds anything, and each side hears what it may', () => {
    fc.assert(
      fc.property(borderIntents, (intent) => {
        const { compiled, network } = networkOf(intent);
        for (const s of compiled.switches) expect(linux.parse(s.files)).toMatchObject({ config: s.config, unread: [] });
        expect(judgeNetwork(network).findings.filter((f) => f.severity === 'error')).toEqual([]);
        for (const n of intent.neighbours) {
          const seat = compiled.layout.seats.find((s) => s.rack === n.rack && (s.side ?? 'a') === n.side)!;
          const end = network.sessions.find((s) => s.host === seat.host && s.vrf === n.vrf && s.peer === n.far)!;
          expect([end.up, end.reason]).toEqual([true, null]);
          const heard = (routesOf(network, seat.host, n.vrf) as readonly RouteAnswer[]).map((r) => r.prefix);
          for (const prefix of n.takes.length === 0 ? [DEFAULT_ROUTE[familyOfText(n.address)]] : n.takes)
            expect(heard).toContain(prefix);
        }
        // One intent is led to another, and back, by the same edits.
        const bare = { ...intent, neighbours: [] };
        const there = editsBetween(bare, intent);
        expect(applyEdits(bare, there).intent).toEqual(intent);
        expect(applyEdits(intent, editsBetween(intent, bare)).intent).toEqual(bare);
      }),
      { numRuns: 40 },
    );
  });
});
