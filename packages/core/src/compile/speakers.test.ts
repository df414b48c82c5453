import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { routesOf } from '../ask/routesOf.ts';
import { ask } from '../ask/ask.ts';
import type { Answer, RouteAnswer } from '../ask/answer.ts';
import { POOLS, SKERRY_POOLS } from '../demo/skerry.ts';
import { linux } from '../dialects/linux/linux.ts';
import { applyEdits, describeEdit, type Edit } from '../intent/edits/index.ts';
import { editsBetween } from '../intent/edits/editsBetween.ts';
import { speakersKey, type FabricIntent, type NetworkSpeakers } from '../intent/intent.ts';
import type { NetworkModel } from '../network/networkModel.ts';
import { routeLimit } from '../proof/fabricRules/routeLimit.ts';
import { judgeNetwork } from '../proof/judgeNetwork.ts';
import { modelFabric, proveChange } from '../proof/proveChange.ts';
import { configsOf, intentOf, LAY_BORDER } from '../testing/fabricOf.ts';
import { networkOf, otherwise, subjectsOn } from '../testing/networkOf.ts';
import { knownSpeakersIntents } from '../testing/speakersOf.ts';
import { handOver } from './handOver.ts';
import { hostsOf } from './servers.ts';

const plain = intentOf(
  {
    ...LAY_BORDER,
    pattern: { ...LAY_BORDER.pattern, racks: [LAY_BORDER.pattern.racks[0]!, { pattern: 'single-48', count: 2 }] },
  },
  { kind: 'choosePools', pools: SKERRY_POOLS },
  { kind: 'addVrf', vrf: { name: 'tides', transitVlan: 4001 } },
  {
    kind: 'addNetwork',
    network: { name: 'gauges', vrf: 'tides', vlan: 20, subnet: '10.60.0.0/24', subnetLength: 24, racks: [2, 3] },
  },
  { kind: 'addNetwork', network: { name: 'maps', vrf: 'tides', vlan: 30, subnetLength: 24, racks: [2] } },
  ...[1, 2].map((n): Edit => ({
    kind: 'connectServer',
    port: { rack: n + 1, side: 'a', port: 'p1', server: `node-${n}`, untagged: 'gauges', tagged: [] },
  })),
);
const speakers: NetworkSpeakers = {
  network: 'gauges',
  from: '10.60.0.0/26',
  asn: 64850,
  takes: ['198.51.100.0/26'],
  tells: [],
  known: [
    { server: 'node-1', address: '10.60.0.11' },
    { server: 'node-2', address: '10.60.0.12' },
  ],
};
const put = (of: Partial<NetworkSpeakers> = {}): Edit => ({ kind: 'putSpeakers', speakers: { ...speakers, ...of } });
const speaking = (...of: Partial<NetworkSpeakers>[]): FabricIntent => {
  const made = applyEdits(plain, of.map(put));
  expect(made.findings).toEqual([]);
  return made.intent;
};
const state = (intent: FabricIntent) => ({ intent, values: configsOf(intent).drawn.values });
const said = (from: FabricIntent, to: FabricIntent): string[] =>
  proveChange(state(from), state(to), POOLS).report.findings.map((f) => `${f.rule}: ${f.message}`);

describe('servers that speak BGP to the gateway of their network', () => {
  test('every switch that carries it answers them; what they tell is known to all leaves of the tenant, over all who tell it', () => {
    const intent = speaking({});
    const { compiled, network } = networkOf(intent);
    expect(judgeNetwork(network).findings).toEqual([]);
    const leaves = compiled.switches.filter((s) => s.files['frr.conf']!.includes('bgp listen range'));
    expect(leaves.map((s) => s.seat.host)).toEqual(['tn-lf-02', 'tn-lf-03']);
    const frr = leaves[0]!.files['frr.conf']!;
    expect(frr).toContain(' neighbor vlan20-10.60.0.0-26 remote-as 64850\n');
    expect(frr).toContain(' bgp listen range 10.60.0.0/26 peer-group vlan20-10.60.0.0-26\n');
    expect(frr).toContain('ip prefix-list FROM-vlan20-10.60.0.0-26 seq 10 permit 198.51.100.0/26 le 32\n');
    expect(frr).toContain('ip prefix-list TO-vlan20-10.60.0.0-26 seq 10 deny 0.0.0.0/0 le 32\n');
    // Both ends of each, and nobody twice.
    expect(
      network.sessions.filter((s) => s.vrf === 'tides' || s.farVrf === 'tides').map((s) => [s.host, s.peer, s.up]),
    ).toEqual([
      ['node-1', '10.60.0.1', true],
      ['node-2', '10.60.0.1', true],
      ['tn-lf-02', '10.60.0.11', true],
      ['tn-lf-03', '10.60.0.12', true],
    ]);
    const to = (host: string): RouteAnswer | undefined =>
      (routesOf(network, host, 'tides') as readonly RouteAnswer[]).find((r) => r.prefix === '198.51.100.0/26');
    expect(to('tn-lf-02')!.ways.map((w) => w.to)).toContain('node-1');
    expect(typeof routesOf(network, 'tn-lf-01a', 'tides')).toBe('string');
    // They are told nothing.
    expect((routesOf(network, 'node-1') as readonly RouteAnswer[]).filter((r) => r.kind === 'bgp')).toEqual([]);
  });

  test('of those who are not known nothing is modelled; servers that are known are no other servers', () => {
    const { known: _, ...nobody } = speakers;
    const intent = applyEdits(plain, [{ kind: 'putSpeakers', speakers: nobody }]).intent;
    const { network } = networkOf(intent);
    expect(network.sessions.some((s) => s.vrf === 'tides')).toBe(false);
    expect(judgeNetwork(network).findings).toEqual([]);
    // Who is not known may tell it all the same: that is uncertain, and nothing else is.
    const missing = (of: typeof network, to: string) => {
      const answer = ask(of, { ask: 'routes', host: 'tn-lf-02', vrf: 'tides', to });
      return (answer as Extract<Answer, { ask: 'routes' }>).missing;
    };
    expect(missing(network, '198.51.100.9')).toBe('servers from 10.60.0.0/26 may tell it to tn-lf-02 once they call');
    expect([missing(network, '198.51.100.99'), missing(networkOf(speaking({})).network, '198.51.100.9')]).toEqual([
      null,
      null,
    ]);
    const heard = ask(network, { ask: 'prefix', prefix: '198.51.100.0/26' }) as Extract<Answer, { ask: 'prefix' }>;
    expect(heard.hearings.filter((h) => h.unsure !== null).map((h) => h.host)).toEqual(['tn-lf-02', 'tn-lf-03']);
    const names = (of: FabricIntent): string[] =>
      hostsOf(of, networkOf(of).compiled.layout, networkOf(of).values).map((h) => h.host);
    expect([names(intent).sort(), names(speaking({}))]).toEqual([['node-1', 'node-2'], []]);
  });

  test('what they are told, a password, and lines for the other side', () => {
    const secret: Edit = { kind: 'putSecret', secret: { name: 'gauges', digest: 'a'.repeat(22) } };
    const words = { tells: ['10.60.0.0/16'], password: 'gauges', originate: true, hold: 9, bfd: true } as const;
    const { intent, findings } = applyEdits(plain, [secret, put(words)]);
    expect(findings).toEqual([]);
    const { compiled, network, values } = networkOf(intent);
    expect(judgeNetwork(network).findings).toEqual([]);
    const heard = (routesOf(network, 'node-1') as readonly RouteAnswer[]).filter((r) => r.kind === 'bgp');
    expect(heard.map((r) => r.prefix)).toContain('0.0.0.0/0');
    const { text } = handOver(intent, compiled, values).find((h) => h.system === 'node-1')!;
    expect(text).toContain('! eth0: 10.60.0.11/24, MTU 9000, to tn-lf-02 p1 (tenant tides)\n');
    expect(text).toContain('! neighbor 10.60.0.1 password: that of the secret gauges\n');
    expect(text).toContain(' neighbor 10.60.0.1 remote-as ');
    expect(text).toContain('prefix-list TO-tn-lf-02-p1 seq 10 permit 198.51.100.0/26 le 32\n');
    expect(text).not.toContain('sealed');
    // Agreed on with who runs them, as with routers outside.
    const changed = applyEdits(intent, [put({ tells: words.tells, originate: true, hold: 9, asn: 64851 })]).intent;
    expect(said(intent, changed)).toEqual([
      'outside-agrees: Servers of gauges at 10.60.0.0/26 have to change with it: BFD and the password and their AS number. Their sessions are down while one side alone has it.',
    ]);
  });

  test('each line says which servers it is for', () => {
    const intent = speaking({});
    const cause = subjectsOn(intent, 'tn-lf-02');
    const group = 'vlan20-10.60.0.0-26';
    for (const place of [
      ['bgp', 'vrfs', 'tides', 'peers', group, 'remoteAs'],
      ['bgp', 'vrfs', 'tides', 'listens', '10.60.0.0/26'],
      ['bgp', 'vrfs', 'tides', 'ipv4', 'policies', group],
      ['prefixLists', `FROM-${group}`],
    ])
      expect(cause(...place)).toBe(`speakers:${speakersKey(speakers)}`);
  });

  test.each<[string, Partial<NetworkSpeakers>, string, RegExp, RegExp]>([
    ['a network that is not there', { network: 'tidal' }, 'network', /no network tidal/, /Choose/],
    ['bits beyond its length', { from: '10.60.0.9/26' }, 'from', /written otherwise/, /Write/],
    ['another subnet', { from: '10.61.0.0/26' }, 'from', /in no subnet of gauges/, /10.60.0.0\/24/],
    [
      'a family it has not',
      { from: '2001:db8::/64', takes: ['2001:db8:9::/48'], known: [] },
      'from',
      /has no IPv6/,
      /Choose/,
    ],
    ['nothing taken', { takes: [] }, 'takes', /Nothing is taken/, /Write what/],
    ['another family taken', { takes: ['2001:db8:9::/48'] }, 'takes', /of IPv6; the session is of IPv4/, /family/],
    ['over a network', { takes: ['10.60.0.128/25'] }, 'takes', /overlaps network gauges/, /no network/],
    ['no secret', { password: 'none' }, 'password', /no secret none/, /Snippets/],
    ['no map', { mapIn: 'none' }, 'mapIn', /no route map none/, /Policies/],
    ['a number nobody may have', { asn: 23456 }, 'asn', /AS 23456 is/, /Write/],
    [
      'who is not there',
      { known: [{ server: 'gone', address: '10.60.0.11' }] },
      'known/0/server',
      /on no port/,
      /others speak/,
    ],
    [
      'beside the range',
      { known: [{ server: 'node-1', address: '10.60.0.90' }] },
      'known/0/address',
      /not in/,
      /address of/,
    ],
    [
      'one address twice',
      { known: ['node-1', 'node-2'].map((server) => ({ server, address: '10.60.0.11' })) },
      'known/1/server',
      /10.60.0.11 is named twice/,
      /own address/,
    ],
  ])('refused, with its place and the cure: %s', (_, of, path, message, cure) => {
    const { findings, intent } = applyEdits(plain, [put(of)]);
    expect(intent).toBe(plain);
    expect(findings[0]!.path).toBe(`/speakers/${path}`);
    expect(findings[0]!.message).toMatch(message);
    expect(findings[0]!.cure).toMatch(cure);
  });

  test.each([
    ['10.60.0.0/24', 'B', 'it overlaps 10.60.0.0/25 of A above'],
    ['10.60.0.64/26', 'A', 'it overlaps 10.60.0.0/25 of A above'],
    ['10.60.0.0/25', 'A', undefined],
    ['10.60.0.128/25', 'B', undefined],
    ['10.60.0.128/25', 'C', 'there is no peer group C above'],
  ])('of ranges that overlap a router keeps the first: %s of %s', (range, group, why) => {
    const frr = [
      'router bgp 65001',
      ...['A', 'B'].flatMap((g) => [` neighbor ${g} peer-group`, ` neighbor ${g} remote-as 64850`]),
      ' bgp listen range 10.60.0.0/25 peer-group A',
      ` bgp listen range ${range} peer-group ${group}`,
      'exit\n',
    ].join('\n');
    const { config, unread } = linux.parse({ interfaces: '', 'frr.conf': frr });
    expect(unread.map((u) => u.why)).toEqual(why === undefined ? [] : [why]);
    expect(config.bgp!.listens!.map((l) => l.prefix)).toEqual(
      why === undefined && range !== '10.60.0.0/25' ? ['10.60.0.0/25', range] : ['10.60.0.0/25'],
    );
  });

  test('as many may call as their ranges have addresses; where more do than a router takes, no session of them is certain', () => {
    const beside: Edit = {
      kind: 'connectServer',
      port: { rack: 2, side: 'a', port: 'p2', server: 'node-3', untagged: 'gauges', tagged: [] },
    };
    const known = [...speakers.known!, { server: 'node-3', address: '10.60.0.13' }];
    const { intent } = applyEdits(plain, [beside, put({ from: '10.60.0.0/24', known })]);
    const { compiled } = networkOf(intent);
    const frr = compiled.switches.find((s) => s.seat.host === 'tn-lf-02')!.files['frr.conf']!;
    expect(frr).toContain(' bgp listen limit 256\n bgp listen range 10.60.0.0/24 ');
    expect(judgeNetwork(modelFabric(compiled)).findings).toEqual([]);
    const limited = (most: number): NetworkModel =>
      otherwise(networkOf(intent).network, 'tn-lf-02', (c) => ({
        ...c,
        bgp: { ...c.bgp!, vrfs: c.bgp!.vrfs.map((v) => ({ ...v, listenLimit: most })) },
      }));
    const unsure = ({ sessions }: NetworkModel) => sessions.flatMap((s) => s.unsure ?? []);
    expect(unsure(limited(2))).toEqual([]);
    const why = '2 call tn-lf-02, which takes 1 at once';
    expect(unsure(limited(1))).toEqual([why, why, why, why]);
    const words = judgeNetwork(limited(1)).findings.flatMap((f) => (f.rule === 'bgp-session-up' ? f.message : []));
    expect(words).toContain(`tn-lf-02: whether the session to node-1 and of 1 more comes up cannot be said: ${why}.`);
  });

  test('their VRF may have as many routes as they can tell together; of more than any switch takes that is any number', () => {
    const limited = (from: string, mostRoutes: number, limit = 10) => {
      const of = speaking({ limit });
      const intent = {
        ...of,
        vrfs: of.vrfs.map((v) => ({ ...v, mostRoutes })),
        speakers: of.speakers.map((s) => ({ ...s, from })),
      };
      const { compiled, values } = networkOf(of);
      return routeLimit.judge({ intent, values, compiled }).map((f) => f.message);
    };
    // 2 subnets and 2 servers of its own, and 64 who call.
    expect([limited('10.60.0.0/26', 644), limited('10.60.0.0/26', 643)]).toEqual([
      [],
      ['tides may have 643 routes, and can come to 644: 4 of its own, 640 that it may be told.'],
    ]);
    expect(limited('2001:db8:60::/64', 10000)).toEqual([
      'tides may have 10000 routes, and who calls from 2001:db8:60::/64 may tell any number.',
    ]);
  });

  test('a server is one router: of one network and one AS number, with a name of its own; moved away, it is a server like others', () => {
    const known = [{ server: 'node-1', address: '10.60.0.70' }];
    const other = { from: '10.60.0.64/26', known };
    const said = (of: Partial<NetworkSpeakers>) =>
      applyEdits(speaking({}), [put({ ...other, ...of })]).findings.map((f) => [f.path, f.message]);
    expect(said({})).toEqual([]);
    expect(said({ asn: 64851 })).toEqual([['/speakers/known/0/server', 'node-1 is named for gauges, with AS 64850.']]);
    const link = { rack: 1, side: 'a', port: 'p46', system: 'node-1', farPort: 'eth0' } as const;
    const joined = applyEdits(plain, [{ kind: 'joinOutside', link }, put()]);
    expect(joined.findings.map((f) => f.message)).toEqual(['node-1 is the name of a system outside.']);
    const moved = applyEdits(speaking({}), [
      { kind: 'disconnectServer', rack: 2, side: 'a', port: 'p1' },
      {
        kind: 'connectServer',
        port: { rack: 2, side: 'a', port: 'p1', server: 'node-1', untagged: 'maps', tagged: [] },
      },
    ]).intent;
    const { compiled, values } = networkOf(moved);
    expect(hostsOf(moved, compiled.layout, values).map((h) => h.host)).toEqual(['node-1']);
  });

  test('ranges of one tenant lie beside one another', () => {
    const { findings } = applyEdits(speaking({}), [put({ from: '10.60.0.0/25', known: [] })]);
    expect(findings.map((f) => f.message)).toEqual(['10.60.0.0/25 overlaps 10.60.0.0/26 of gauges.']);
    expect(applyEdits(speaking({}), [put({ from: '10.60.0.64/26', known: [] })]).findings).toEqual([]);
  });

  test('with drawn subnets, and who is not there any more, the proof says it', () => {
    const drawn = { network: 'maps', from: '192.168.7.0/26', takes: ['198.51.100.64/26'], known: [] };
    expect(said(plain, speaking(drawn)).join()).toMatch(
      /speakers-range: Nobody in network maps \(.*\) calls from 192.168.7.0\/26/,
    );
    const subnet = configsOf(plain).drawn.values.get('network:maps/subnet')!;
    expect(said(plain, speaking({ ...drawn, from: subnet }))).toEqual([]);
    expect(said(plain, speaking({ takes: [subnet] })).join()).toMatch(/speakers-range: .* overlaps network maps/);
    const away: Edit = { kind: 'disconnectServer', rack: 2, side: 'a', port: 'p1' };
    expect(said(speaking({}), applyEdits(speaking({}), [away]).intent)).toEqual([
      'speaker-known: node-1 is on no port of network gauges. It is named as a BGP server there, and left out of the proof.',
    ]);
    const asn = networkOf(plain).compiled.switches[0]!.config.bgp!.asn;
    expect(said(plain, speaking({ asn })).join()).toMatch(/outside-as: AS \d+ of servers of gauges is that of tn-/);
  });

  test('they go with their network, and hold what they use; sentences say it', () => {
    const intent = speaking({});
    const gone = applyEdits(intent, [
      ...[2, 3].map((rack): Edit => ({ kind: 'disconnectServer', rack, side: 'a', port: 'p1' })),
      { kind: 'removeNetwork', name: 'gauges' },
    ]);
    expect([gone.findings, gone.intent.speakers]).toEqual([[], []]);
    expect(describeEdit(put(), plain)).toBe(
      'Let servers of gauges at 10.60.0.0/26 (AS 64850) speak BGP to its gateway',
    );
    expect(describeEdit(put({ asn: 64851 }), intent)).toMatch(/AS number .*64850 → 64851/);
  });

  test('whatever is said of them: text reads back the same, no rule finds anything, all hear what they tell', () => {
    fc.assert(
      fc.property(knownSpeakersIntents, (intent) => {
        const { compiled, network } = networkOf(intent);
        for (const s of compiled.switches) expect(linux.parse(s.files)).toMatchObject({ config: s.config, unread: [] });
        expect(judgeNetwork(network).findings.filter((f) => f.severity === 'error')).toEqual([]);
        for (const s of intent.speakers)
          for (const { address } of s.known ?? []) {
            const ends = network.sessions.filter((x) => x.peer === address);
            expect(ends.map((x) => [x.up, x.vrf])).toEqual([
              [s.closed !== true, intent.networks.find((n) => n.name === s.network)!.vrf],
            ]);
            if (s.closed) continue;
            const heard = routesOf(network, ends[0]!.host, ends[0]!.vrf) as readonly RouteAnswer[];
            for (const prefix of s.takes) expect(heard.map((r) => r.prefix)).toContain(prefix);
          }
        const bare = { ...intent, speakers: [] };
        expect(applyEdits(bare, editsBetween(bare, intent)).intent).toEqual(intent);
        expect(applyEdits(intent, editsBetween(intent, bare)).intent).toEqual(bare);
      }),
      { numRuns: 20 },
    );
  });
});
