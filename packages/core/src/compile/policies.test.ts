import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { evpnOf } from '../ask/evpnOf.ts';
import { routesOf } from '../ask/routesOf.ts';
import type { EvpnRouteAnswer, RouteAnswer } from '../ask/answer.ts';
import { POOLS, SKERRY_POOLS } from '../demo/skerry.ts';
import { linux } from '../dialects/linux/linux.ts';
import { originOf } from '../config/origins.ts';
import { readIntentFile, writeIntentFile } from '../intent/intentFile.ts';
import { applyEdits, describeEdit, schemaOfEdit, type Edit } from '../intent/edits/index.ts';
import { editsBetween } from '../intent/edits/editsBetween.ts';
import type { FabricIntent, OutsideNeighbour } from '../intent/intent.ts';
import { listEntries, listLines } from '../intent/policyLines.ts';
import type { RoutePolicy } from '../intent/policies.ts';
import { validate } from '../intent/schemas/validate.ts';
import { mapPolicy } from '../network/policy.ts';
import { policySays } from '../routing/policies.ts';
import { OWN_ATTRIBUTES } from '../network/routes.ts';
import { judgeNetwork } from '../proof/judgeNetwork.ts';
import { outsideAgrees } from '../proof/outsideAgrees.ts';
import { outsideAs } from '../proof/fabricRules/outsideAs.ts';
import { configsOf, intentOf, LAY_BORDER } from '../testing/fabricOf.ts';
import { putNeighbourOf } from '../testing/joinedBorder.ts';
import { networkOf } from '../testing/networkOf.ts';
import { policyIntents } from '../testing/policiesOf.ts';
import { handOver } from './handOver.ts';

/** A border pair that hears a default route on both halves, and a rack with a tenant. */
const bordered = intentOf(
  LAY_BORDER,
  { kind: 'choosePools', pools: SKERRY_POOLS },
  { kind: 'addVrf', vrf: { name: 'tides', transitVlan: 4001 } },
  { kind: 'addNetwork', network: { name: 'gauges', vrf: 'tides', vlan: 20, subnetLength: 24, racks: [2] } },
  { kind: 'joinOutside', link: { rack: 1, side: 'a', port: 'p46', system: 'offing-1', farPort: 'eth1' } },
  { kind: 'joinOutside', link: { rack: 1, side: 'b', port: 'p46', system: 'offing-2', farPort: 'eth1' } },
);
const session = (side: 'a' | 'b', of: Partial<OutsideNeighbour> = {}): Edit =>
  putNeighbourOf({ side, ...(side === 'a' ? {} : { address: '192.0.2.2/31', far: '192.0.2.3', asn: 64702 }), ...of });
const put = (policy: RoutePolicy): Edit => ({ kind: 'putPolicy', policy });
const map = (name: string, ...entries: Extract<RoutePolicy, { is: 'route-map' }>['entries']): Edit =>
  put({ is: 'route-map', name, entries });
const far: RoutePolicy = { is: 'prefix-list', name: 'far', entries: [{ seq: 10, permit: true, prefix: '0.0.0.0/0' }] };

/** The intent after edits, none of them refused. */
function after(from: FabricIntent, ...edits: Edit[]): FabricIntent {
  const done = applyEdits(from, edits);
  expect(done.findings).toEqual([]);
  return done.intent;
}
const defaultAt = (intent: FabricIntent, host: string): RouteAnswer | undefined =>
  (routesOf(networkOf(intent).network, host, 'tides') as readonly RouteAnswer[]).find((r) => r.prefix === '0.0.0.0/0');

describe('routing policies of a fabric', () => {
  test('lead a tenant out by one exit, and back in where they say so; a switch has those it uses, and their lines say why', () => {
    const both = after(bordered, session('a'), session('b'));
    expect(defaultAt(both, 'tn-lf-02')!.ways.length).toBe(2);
    const led = after(
      both,
      put(far),
      map('near-exit', { seq: 10, permit: true, match: { prefixes: 'far' }, set: { localPreference: 200 } }),
      map('far-exit', {
        seq: 10,
        permit: true,
        set: { prepend: [64710, 64710], communities: ['no-export', '64701:7'] },
      }),
      map('spare', { seq: 10, permit: true }),
      session('a', { mapIn: 'near-exit' }),
      session('b', { mapIn: 'far-exit', mapOut: 'far-exit' }),
    );
    const { compiled, network, layout, values } = networkOf(led);
    expect(judgeNetwork(network).findings).toEqual([]);
    const frr = (host: string): string => compiled.switches.find((s) => s.seat.host === host)!.files['frr.conf']!;
    expect(frr('tn-lf-01a')).toContain(
      'route-map near-exit permit 10\n match ip address prefix-list far\n set local-preference 200\nexit\n',
    );
    expect(frr('tn-lf-01a')).toContain('  neighbor 192.0.2.1 route-map near-exit in\n');
    // As the daemon keeps them.
    expect(frr('tn-lf-01b')).toContain(' set as-path prepend 64710 64710\n set community 64701:7 no-export\n');
    expect(frr('tn-lf-01b')).not.toContain('near-exit');
    for (const host of ['tn-lf-01a', 'tn-lf-01b', 'tn-lf-02']) expect(frr(host)).not.toContain('spare');
    expect(frr('tn-lf-02')).not.toMatch(/near-exit|far-exit/);
    // What comes over the longer path is left, and so is what goes.
    expect(defaultAt(led, 'tn-lf-02')!.ways.map((w) => w.to)).toEqual(['tn-lf-01a']);
    const told = (host: string) =>
      (routesOf(network, host) as readonly RouteAnswer[]).find(
        (r) => r.prefix === values.get('network:gauges/subnet'),
      )!;
    expect([told('offing-1').ways[0]!.path.length, told('offing-2').ways[0]!.path.length]).toEqual([3, 5]);
    const seat = layout.seats.find((s) => s.host === 'tn-lf-01a')!;
    const context = { intent: led, layout, seat, values, ledger: [], edits: [] };
    expect(originOf(['routeMaps', 'near-exit', 'entries', '10', 'set'], context)).toMatchObject({
      subject: 'policy:route-map.near-exit',
      label: 'route map near-exit',
    });
    expect(originOf(['prefixLists', 'far', 'entries', '10'], context).subject).toBe('policy:prefix-list.far');
    expect(originOf(['prefixLists', 'FROM-p46'], context).subject).toBe('neighbour:1.a.p46');
  });

  test('a community that keeps a route in its AS keeps it from all other leaves, and from what EVPN holds there', () => {
    const kept = after(
      bordered,
      map('in-here', { seq: 10, permit: true, set: { communities: ['no-export'] } }),
      session('a', { mapIn: 'in-here' }),
    );
    const { network } = networkOf(kept);
    const held = (host: string): string[] =>
      (evpnOf(network, host, 5) as { readonly routes: readonly EvpnRouteAnswer[] }).routes
        .filter((r) => r.about.startsWith('0.0.0.0/0'))
        .map((r) => r.from);
    expect([defaultAt(kept, 'tn-lf-01a')!.ways[0]!.to, defaultAt(kept, 'tn-lf-02')]).toEqual(['offing-1', undefined]);
    // Seen so on FRR 8.4.4.
    expect(['tn-lf-01a', 'tn-sp-01', 'tn-lf-02'].map(held)).toEqual([['tn-lf-01a'], [], []]);
  });

  test('a session that is closed on purpose carries nothing, is noted and no fault, and comes back as it was', () => {
    const one = after(bordered, session('a'));
    const closed = after(one, session('a', { closed: true }));
    const { compiled, network } = networkOf(closed);
    const frr = compiled.switches.find((s) => s.seat.host === 'tn-lf-01a')!.files['frr.conf']!;
    expect(frr).toContain(' neighbor 192.0.2.1 shutdown\n');
    const findings = judgeNetwork(network).findings.filter((f) => f.host === 'tn-lf-01a');
    expect(findings.map((f) => [f.rule, f.severity])).toEqual([['bgp-session-up', 'note']]);
    expect(findings[0]!.message).toMatch(/is closed here \(shutdown\)/);
    expect((routesOf(network, 'offing-1') as readonly RouteAnswer[]).filter((r) => r.kind === 'bgp')).toEqual([]);
    expect(networkOf(after(closed, session('a'))).compiled.switches.map((s) => s.files)).toEqual(
      networkOf(one).compiled.switches.map((s) => s.files),
    );
  });

  test('with AS override, a router outside hears of a site with its own number', () => {
    const far = '198.51.100.0/24';
    const heard = (more: Partial<OutsideNeighbour>) => {
      const { compiled, network } = networkOf(
        after(
          bordered,
          session('a', { asn: 64701, tells: [far], ...more }),
          session('b', { asn: 64701, takes: [far] }),
        ),
      );
      const route = (routesOf(network, 'offing-1') as readonly RouteAnswer[]).find((r) => r.prefix === far);
      return { route, frr: compiled.switches.find((s) => s.seat.host === 'tn-lf-01a')!.files['frr.conf']! };
    };
    const plain = heard({});
    expect(plain.frr).not.toContain('as-override');
    expect(plain.route).toBeUndefined();
    const { frr, route } = heard({ asOverride: true });
    expect(frr).toMatch(/ {2}neighbor 192\.0\.2\.1 as-override\n/);
    expect(route!.ways[0]!.path).not.toContain(64701);
    expect(route!.ways[0]!.path.length).toBeGreaterThan(1);
  });

  test('a session has words of its own: told a sum in place of its parts, a default route, another AS number; only from next door', () => {
    const one = after(bordered, session('a'));
    const said = after(
      one,
      session('a', {
        aggregates: ['10.0.0.0/8'],
        originate: true,
        hold: 30,
        ttlSecurity: true,
        localAs: 64790,
        ownAs: 1,
      }),
    );
    const { compiled, network, values } = networkOf(said);
    expect(judgeNetwork(network).findings).toEqual([]);
    const frr = compiled.switches.find((s) => s.seat.host === 'tn-lf-01a')!.files['frr.conf']!;
    for (const line of [
      ' neighbor 192.0.2.1 timers 10 30\n',
      ' neighbor 192.0.2.1 ttl-security hops 1\n',
      ' neighbor 192.0.2.1 local-as 64790\n',
      '  aggregate-address 10.0.0.0/8 summary-only\n',
      '  neighbor 192.0.2.1 allowas-in 1\n',
      '  neighbor 192.0.2.1 default-originate\n',
      'ip prefix-list TO-p46 seq 10 permit 10.0.0.0/8\n',
    ])
      expect(frr).toContain(line);
    const told = (routesOf(network, 'offing-1') as readonly RouteAnswer[]).filter((r) => r.kind === 'bgp');
    expect(told.map((r) => [r.prefix, r.ways[0]!.path[0]]).sort()).toEqual([
      ['0.0.0.0/0', 64790],
      ['10.0.0.0/8', 64790],
    ]);
    const [lines] = handOver(said, compiled, values);
    expect(lines!.text).toMatch(
      / neighbor 192\.0\.2\.0 remote-as 64790\n(?:.*\n)* neighbor 192\.0\.2\.0 ttl-security hops 1\n/,
    );
    expect(outsideAgrees(one, said).map((f) => f.message)).toEqual([
      expect.stringMatching(/: the AS number it sees and TTL security\./),
    ]);
    const own = compiled.switches[0]!.config.bgp!.asn;
    const clash = after(said, session('a', { localAs: own }));
    expect(
      outsideAs
        .judge({ intent: clash, values: configsOf(clash).drawn.values, compiled: networkOf(clash).compiled })
        .map((f) => f.message),
    ).toEqual([expect.stringMatching(new RegExp(`^AS ${own}, which 192\\.0\\.2\\.1 sees, is that of`))]);
    const refused = (of: Partial<OutsideNeighbour>) =>
      applyEdits(one, [session('a', of)]).findings.map((f) => [f.path, f.message]);
    expect(refused({ localAs: 64701 })).toEqual([['/neighbour/localAs', '192.0.2.1 has AS 64701 itself.']]);
    expect(refused({ aggregates: ['0.0.0.0/0'] })).toEqual([
      ['/neighbour/aggregates/0', '0.0.0.0/0 stands for everything.'],
    ]);
    expect(refused({ aggregates: ['10.0.0.0/31'] })).toEqual([
      ['/neighbour/aggregates/0', 'Nothing lies within 10.0.0.0/31.'],
    ]);
    expect(refused({ aggregates: ['2001:db8::/36'] }).map(([path]) => path)).toEqual(['/neighbour/aggregates']);
  });

  test('communities of a shape are taken away, on each sort by a list of its own', () => {
    const ours = (name: string, expression: string, large?: true): Edit =>
      put({ is: 'community-list', name, entries: [{ permit: true, expression, ...(large ? { large } : {}) }] });
    const strip = (seq: number, list: string) => ({
      seq,
      permit: true,
      next: true as const,
      set: { withoutCommunities: list },
    });
    const clean = after(
      bordered,
      ours('ours', '^64701:'),
      ours('ours-large', '^64701:.*:7$', true),
      map('clean', strip(10, 'ours'), strip(20, 'ours-large'), { seq: 30, permit: true }),
      session('a', { mapIn: 'clean' }),
    );
    const { compiled, network } = networkOf(clean);
    expect(judgeNetwork(network).findings).toEqual([]);
    const { files, config, parsed } = compiled.switches.find((s) => s.seat.host === 'tn-lf-01a')!;
    expect(files['frr.conf']).toContain('\nbgp community-list expanded ours seq 5 permit ^64701:\n');
    expect(files['frr.conf']).toContain('\nbgp large-community-list expanded ours-large seq 5 permit ^64701:.*:7$\n');
    expect(
      policySays(
        clean.policies.find((p) => p.name === 'ours')!,
        clean.policies,
      ),
    ).toEqual(['permits /^64701:/']);
    expect(files['frr.conf']).toMatch(/ set comm-list ours delete\n(.*\n)+ set large-comm-list ours-large delete\n/);
    expect(parsed.config.communityLists).toEqual(config.communityLists);
    const told = { ...OWN_ATTRIBUTES, communities: '64701:9 64702:1', large: '64701:1:7 64701:1:8' };
    expect(mapPolicy(config, 'clean')(told, { address: 0, length: 0 })).toMatchObject({
      communities: '64702:1',
      large: '64701:1:8',
    });
  });

  test('a map that lets nothing through keeps the default route out', () => {
    const shut = after(bordered, map('shut', { seq: 10, permit: false }), session('a', { mapIn: 'shut' }));
    expect(defaultAt(shut, 'tn-lf-02')).toBeUndefined();
    expect(defaultAt(after(bordered, session('a')), 'tn-lf-02')).toBeDefined();
  });

  test('what cannot be is refused at its field, with the cure', () => {
    const known = after(
      bordered,
      put(far),
      map('second', { seq: 10, permit: true }),
      map('first', { seq: 10, permit: true, call: 'second' }),
      session('a', { mapOut: 'first' }),
    );
    const refused = (edit: Edit): (string | undefined)[][] => {
      const sound = validate<Edit>(schemaOfEdit(edit.kind), edit);
      const findings = 'findings' in sound ? sound.findings : applyEdits(known, [edit]).findings;
      return findings.map((f) => [f.path, f.message, f.cure]);
    };
    const says = (edit: Edit, path: string, message: RegExp, cure?: RegExp): void =>
      expect(refused(edit)).toEqual([
        [path, expect.stringMatching(message), cure ? expect.stringMatching(cure) : undefined],
      ]);
    const prefixes = (...entries: Extract<RoutePolicy, { is: 'prefix-list' }>['entries']): Edit =>
      put({ is: 'prefix-list', name: 'any', entries });
    const one = (entry: Omit<Extract<RoutePolicy, { is: 'route-map' }>['entries'][number], 'seq' | 'permit'>): Edit =>
      map('any', { seq: 10, permit: true, ...entry });
    const AT = '/policy/entries/0/';
    says(session('a', { mapIn: 'absent' }), '/neighbour/mapIn', /no route map absent/, /second, first|first, second/);
    says(one({ match: { prefixes: 'absent' } }), `${AT}match/prefixes`, /no prefix list absent/, /Add it/);
    says(one({ match: { communities: 'far' } }), `${AT}match/communities`, /no community list far/, /Add it/);
    says(map('second', { seq: 10, permit: true, call: 'first' }), `${AT}call`, /first asks second/, /another/);
    says(map('second', { seq: 10, permit: true, call: 'second' }), `${AT}call`, /second calls itself/, /another/);
    says(
      map('any', { seq: 10, permit: false, set: { metric: 1 } }),
      `${AT}set`,
      /denies does nothing else/,
      /Leave it out/,
    );
    says(one({ set: { metric: 1, metricBy: 2 } }), `${AT}set/metricBy`, /metric is said already/, /or what/);
    says(one({ set: { prepend: [23456] } }), `${AT}set/prepend`, /AS 23456 is reserved/, /yours/);
    says(one({ set: { communities: ['65535:65281'] } }), `${AT}set/communities/0`, /otherwise/, /Write no-export/);
    says(one({ set: { communities: ['70000:1'] } }), `${AT}set/communities/0`, /70000:1 is no community/);
    says(one({ set: { communities: ['64701:01:2'] } }), `${AT}set/communities/0`, /otherwise/, /Write 64701:1:2/);
    says(
      put({ is: 'community-list', name: 'any', entries: [{ permit: true, communities: ['64701:1:2', '64701:1'] }] }),
      `${AT}communities/1`,
      /64701:1 is a standard community, the first of the list a large one/,
      /Give each sort its list/,
    );
    says(one({ set: { communities: ['rt:64701:7'] } }), `${AT}set/communities`, /which VRFs have the route/, /target/);
    says(one({ set: { communities: ['soo:64701:07'] } }), `${AT}set/communities/0`, /otherwise/, /Write soo:64701:7/);
    says(
      one({ set: { prepend: [64701], exclude: [64701] } }),
      `${AT}set/exclude`,
      /put before the path/,
      /one of both/,
    );
    says(one({ match: { peer: '2001:db8::0:1' } }), `${AT}match/peer`, /otherwise/, /Write 2001:db8::1/);
    says(one({ match: { peer: 'offing' } }), `${AT}match/peer`, /is written 192\.0\.2\.1/);
    const shaped = (...entries: object[]): Edit =>
      put({ is: 'community-list', name: 'any', entries: entries as never });
    says(
      shaped({ permit: true, expression: '(6+)+' }),
      `${AT}expression`,
      /no expression that can be judged/,
      /at most two/,
    );
    says(
      shaped({ permit: true, expression: '^6' }, { permit: true, communities: ['64701:1'] }),
      '/policy/entries/1/communities',
      /first entry is an expression, and this one is none/,
      /each kind its list/,
    );
    says(
      shaped({ permit: true, expression: '^6' }, { permit: true, expression: '^6', large: true }),
      '/policy/entries/1/large',
      /about large communities, the first about standard/,
      /Give each sort its list/,
    );
    says(shaped({ permit: true, communities: ['1:2'], large: true }), `${AT}large`, /Only an expression/);
    // What is asked of a list is asked of lists that can say it, whichever of both comes first.
    const list = (name: string, entry: object): Edit =>
      put({ is: 'community-list', name, entries: [{ permit: true, ...entry }] as never });
    const [sites, shape] = [{ communities: ['soo:64701:7'] }, { expression: '^64701:' }];
    const exactly = map('any', { seq: 10, permit: true, match: { communities: 'marks', exactly: true } });
    const takes = map('any', { seq: 10, permit: true, set: { withoutCommunities: 'marks' } });
    const both = (...edits: Edit[]) => applyEdits(known, edits).findings.map((f) => [f.path, f.message]);
    const EXACTLY = /Of extended communities, as in marks, none can be asked exactly\./;
    expect(both(list('marks', sites), exactly)).toEqual([[`${AT}match/exactly`, expect.stringMatching(EXACTLY)]]);
    expect(both(list('marks', shape), exactly)).toEqual([
      [`${AT}match/exactly`, expect.stringMatching(/\^ and \$ say it/)],
    ]);
    expect(both(list('marks', sites), takes)).toEqual([
      [`${AT}set/withoutCommunities`, 'Extended communities, as in marks, are not taken away by a list.'],
    ]);
    const plain = list('marks', { communities: ['64701:7'] });
    expect(both(plain, exactly, list('marks', sites))).toEqual([
      [`${AT}communities`, expect.stringMatching(/none can be asked exactly\. any asks it\./)],
    ]);
    expect(both(plain, exactly, list('marks', shape))).toEqual([
      [`${AT}expression`, expect.stringMatching(/\^ and \$ say it\. any asks it\./)],
    ]);
    expect(both(list('marks', shape), takes)).toEqual([]);
    says(shaped({ permit: true }), `${AT}communities`, /communities, or an expression over them/);
    says(
      one({ set: { communities: [], bandwidth: 100 } }),
      `${AT}set/bandwidth`,
      /is a community, and it has none any more/,
      /one of both/,
    );
    says(one({ set: { additive: true } }), `${AT}set/communities`, /not said which/, /Write them/);
    says(one({ match: { exactly: true } }), `${AT}match/communities`, /not said which/, /Name a community list/);
    says(one({ goTo: 10 }), `${AT}goTo`, /not after entry 10/, /forward/);
    says(
      map('any', { seq: 10, permit: true }, { seq: 10, permit: false }),
      '/policy/entries/1/seq',
      /Entry 10 stands after entry 10/,
      /upwards/,
    );
    says(map('optimization', { seq: 10, permit: true }), '/policy/name', /a word of its own in FRR/, /another name/);
    says(prefixes({ seq: 5, permit: true, prefix: '10.0.0.1/8' }), `${AT}prefix`, /host bits/, /Write 10\.0\.0\.0\/8/);
    says(
      prefixes({ seq: 5, permit: true, prefix: '10.0.0.0/8', ge: 8 }),
      `${AT}ge`,
      /nothing has the length 8/,
      /9 to 32/,
    );
    says(prefixes({ seq: 5, permit: true, prefix: '10.0.0.0/8', ge: 20, le: 16 }), `${AT}le`, /up to 16/, /20 to 32/);
    says(
      prefixes({ seq: 5, permit: true, prefix: '10.0.0.0/8' }, { seq: 9, permit: true, prefix: '2001:db8::/32' }),
      '/policy/entries/1/prefix',
      /of IPv6, the list of IPv4/,
      /Give each family/,
    );
    says(
      put({ is: 'path-list', name: 'any', entries: [{ permit: true, pattern: '(1+)+' }] }),
      `${AT}pattern`,
      /no expression/,
      /at most two/,
    );
    says(
      put({ is: 'path-list', name: 'any', entries: [{ permit: true, prefix: '10.0.0.0/8' } as never] }),
      `${AT}pattern`,
      /It is missing in an entry of a path-list/,
    );
    says(
      { kind: 'removePolicy', is: 'route-map', name: 'second' },
      '/name',
      /still used by route map first/,
      /Take it out/,
    );
    says(
      { kind: 'removePolicy', is: 'route-map', name: 'first' },
      '/name',
      /still used by neighbour 192\.0\.2\.1/,
      /Change its neighbours/,
    );
    says(
      { kind: 'removePolicy', is: 'path-list', name: 'first' },
      '/name',
      /no routing policy path-list\.first/,
      /Undo/,
    );
  });

  test('a list is written line by line, and read again as it was; a line that cannot be read says which and how', () => {
    fc.assert(
      fc.property(policyIntents, ({ policies }) => {
        for (const p of policies)
          if (p.is !== 'route-map') expect(listEntries(p.is, listLines(p))).toEqual({ entries: p.entries });
      }),
      { numRuns: 5 },
    );
    const read = (text: string) => listEntries('prefix-list', text);
    expect(read('seq 7 permit 10.0.0.0/8  ge 9\n\npermit 10.1.0.0/16')).toEqual({
      entries: [
        { seq: 7, permit: true, prefix: '10.0.0.0/8', ge: 9 },
        { seq: 10, permit: true, prefix: '10.1.0.0/16' },
      ],
    });
    expect(read('permit 10.0.0.0/8\npermit 10.0.0.0')).toEqual({
      wrong: 'Line 2, “permit 10.0.0.0”, cannot be read: write 10 permit 198.51.100.0/24 le 28.',
    });
    expect(read('  \n')).toEqual({ wrong: 'Write an entry, such as 10 permit 198.51.100.0/24 le 28.' });
    expect(listEntries('community-list', 'permit 64701:7 x')).toHaveProperty('wrong');
    expect(listEntries('community-list', 'deny large /^1:/')).toEqual({
      entries: [{ permit: false, expression: '^1:', large: true }],
    });
  });

  test('an edit says from what to what', () => {
    const known = after(bordered, put(far));
    const grown = put({
      ...far,
      entries: [...far.entries, { seq: 20, permit: false, prefix: '10.0.0.0/8' }],
    } as RoutePolicy);
    expect(describeEdit(put(far), bordered)).toBe('Add prefix list far');
    expect(describeEdit(grown, known)).toBe('Entries of prefix list far 1 → 2');
    expect(describeEdit({ kind: 'removePolicy', is: 'prefix-list', name: 'far' }, known)).toBe(
      'Remove prefix list far',
    );
  });

  test('whatever they say: text reads back the same, no rule finds anything, and one intent is led to another by edits', () => {
    fc.assert(
      fc.property(policyIntents, policyIntents, (intent, other) => {
        const { compiled, network } = networkOf(intent);
        for (const s of compiled.switches) expect(linux.parse(s.files)).toMatchObject({ config: s.config, unread: [] });
        expect(judgeNetwork(network).findings.filter((f) => f.severity === 'error')).toEqual([]);
        const file = { anthemion: 1 as const, fabric: intent, pools: POOLS, ledger: [] };
        expect(readIntentFile(writeIntentFile(file))).toEqual({ file });
        // Maps that call one another in another way, lists that are gone.
        const bare = { ...intent, policies: other.policies, neighbours: [] };
        expect(applyEdits(bare, editsBetween(bare, intent)).intent).toEqual(intent);
        expect(applyEdits(intent, editsBetween(intent, bare)).intent).toEqual(bare);
        const vrfs = intent.vrfs.map(({ connectedMap: _, staticMap: __, ...vrf }) => vrf);
        const none = { ...intent, policies: [], neighbours: [], vrfs };
        expect(applyEdits(intent, editsBetween(intent, none)).intent).toEqual(none);
      }),
      { numRuns: 30 },
    );
  });
});
