import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { RouteAnswer } from '../ask/answer.ts';
import { ask } from '../ask/ask.ts';
import { networkDifferences } from '../ask/differences.ts';
import { readQuestion } from '../ask/question.ts';
import { routesOf } from '../ask/routesOf.ts';
import { compileFabric } from '../compile/compileFabric.ts';
import type { OspfPort, OspfRouter } from '../config/ospf.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import { POOLS } from '../demo/skerry.ts';
import { linux } from '../dialects/linux/linux.ts';
import { naturally } from '../numbers/order.ts';
import { judgeNetwork } from '../proof/judgeNetwork.ts';
import { configsOf, intents } from '../testing/fabricOf.ts';
import { ospfChoices, withOspf, type OspfChoices } from '../testing/ospfOf.ts';
import { modelNetwork } from './modelNetwork.ts';
import { pathsTo, type NetworkModel } from './networkModel.ts';
import type { ReadSwitch } from './readSwitch.ts';
import { adjacencyDoubt } from './modelDoubts.ts';
import { pathsDoubt } from './uncertain.ts';

const PLAIN: OspfChoices = {
  links: 'subnets',
  by: 'interfaces',
  areas: 'one',
  bgp: 'internal',
  pointToPoint: true,
  quiet: false,
  redistributes: false,
  quick: false,
  costs: [0],
};
const [spread] = fc.sample(
  intents.filter((i) => {
    const all = [...configsOf(i).configs.values()];
    // Two spines, and leaves that all have tunnels.
    return (
      i.spines.count === 2 &&
      i.parallel === 1 &&
      all.length >= 5 &&
      all.filter((c) => c.vxlans.length === 0).length === 2
    );
  }),
  { numRuns: 1, seed: 7 },
);
/** A fabric led by OSPF as its texts are read, some of which are changed. */
function led(
  choices: Partial<OspfChoices> = {},
  change: Record<string, (frr: string) => string> = {},
  intent = spread!,
) {
  const { drawn, configs } = configsOf(intent);
  const { cables } = compileFabric(intent, drawn.values, POOLS);
  const switches = withOspf([...configs.values()], cables, { ...PLAIN, ...choices }).map((c): ReadSwitch => {
    const files = linux.render(c).files;
    const changed = change[c.hostname]?.(files['frr.conf']!) ?? files['frr.conf']!;
    if (change[c.hostname]) expect(changed).not.toBe(files['frr.conf']);
    return { host: c.hostname, ...linux.parse({ ...files, 'frr.conf': changed }) };
  });
  return modelNetwork(switches, cables);
}
const lower = (m: NetworkModel): string[] => m.switches.filter((s) => s.config.vxlans.length > 0).map((s) => s.host);
const paths = (m: NetworkModel, from: string, to: string): number =>
  pathsTo(m, from, to, m.views.get(to)!.config.loopbacks[0]!.split('/')[0]!);
const doubt = (m: NetworkModel, from: string, to: string): string | null =>
  pathsDoubt(m, from, to, m.views.get(to)!.config.loopbacks[0]!.split('/')[0]!);
const reasons = (m: NetworkModel): string[] => m.ospf!.adjacencies.flatMap((a) => a.reason ?? []);

describe('OSPF as it is read', () => {
  const areas = fc.constantFrom('0.0.0.0', '0.0.0.7', '10.0.0.1');
  const masks = fc.constantFrom('a', 'b').map((c) => `sealed:${c.repeat(22)}`);
  const some = <T extends object>(fields: { [K in keyof T]: fc.Arbitrary<T[K]> }) =>
    fc.record(fields, { requiredKeys: [] });
  const ports = (withAreas: boolean) =>
    fc.uniqueArray(
      fc.tuple(
        fc.constantFrom('lo', 'p1', 'p2', 'vlan10'),
        some({
          ...(withAreas ? { area: areas } : {}),
          cost: fc.integer({ min: 1, max: 65535 }),
          pointToPoint: fc.boolean(),
          passive: fc.boolean(),
          hello: fc.integer({ min: 1, max: 65535 }),
          dead: fc.integer({ min: 1, max: 65535 }),
          priority: fc.integer({ min: 0, max: 255 }),
          mtuIgnored: fc.constant(true),
          proof: fc.constantFrom('none' as const, 'digest' as const),
          keys: fc.uniqueArray(fc.record({ id: fc.integer({ min: 1, max: 255 }), key: masks }), {
            minLength: 1,
            maxLength: 3,
            selector: (k) => k.id,
          }),
        }),
      ),
      { selector: ([name]) => name, minLength: 1 },
    );
  const redistributions = some({
    metric: fc.integer({ min: 0, max: 16777214 }),
    wayCounts: fc.boolean(),
    routeMap: fc.constant('M'),
  });
  const routers = some({
    routerId: fc.constant('10.255.0.9'),
    passive: fc.constant(true),
    provenAreas: fc.uniqueArray(areas, { minLength: 1, maxLength: 2 }),
    connected: redistributions,
    static: redistributions,
    maximumPaths: fc.integer({ min: 1, max: 256 }),
  });
  const networks = fc.uniqueArray(
    fc.record({ prefix: fc.constantFrom('10.0.0.0/8', '10.1.0.0/16', '0.0.0.0/0'), area: areas }),
    {
      selector: (n) => n.prefix,
    },
  );
  const whole = fc.boolean().chain((byPorts) =>
    fc.record({
      router: fc
        .tuple(routers, byPorts ? fc.constant([]) : networks)
        .map(([r, n]) => ({ ...r, networks: n }) as OspfRouter),
      ports: ports(byPorts).map((all) =>
        all
          .flatMap(([name, said]) => (Object.keys(said).length > 0 ? [{ name, ...said } as OspfPort] : []))
          .sort((a, b) => naturally(a.name, b.name)),
      ),
    }),
  );

  test('what is written is read back as it was, all of it', () => {
    const base = configsOf(spread!).configs.values().next().value!;
    fc.assert(
      fc.property(whole, ({ router, ports: said }) => {
        const config: SwitchConfig = { ...base, ospf: router, ...(said.length > 0 ? { ospfPorts: said } : {}) };
        const { config: got, unread } = linux.parse(linux.render(config).files);
        expect(unread).toEqual([]);
        expect([got.ospf, got.ospfPorts ?? []]).toEqual([router, said]);
      }),
      { numRuns: 200 },
    );
  });

  const read = (frr: string) =>
    linux.parse({ interfaces: 'auto p1\niface p1\n    address 10.1.1.0/31\n', 'frr.conf': frr });
  test.each([
    ['router ospf\n ospf router-id x\nexit\n', 'a router id is written like an IPv4 address'],
    ['router ospf\n network 10.0.0.0 area 0\nexit\n', 'a network is: network PREFIX area AREA'],
    ['interface p1\n ip ospf cost 0\nexit\n', 'a cost is 1–65535'],
    ['interface p1\n ip ospf area x\nexit\n', 'an area is a number, or written like an IPv4 address'],
    [
      'interface p1\n ip ospf area 0\nexit\nrouter ospf\n network 10.0.0.0/8 area 0\nexit\n',
      'FRR takes areas from interfaces or from networks, not from both',
    ],
    ['interface p1\n ip ospf message-digest-key 1 md5 plain\nexit\n', 'the key stands here in plain words'],
    ['interface p1\n ip ospf area 7\n ip ospf area 0\nexit\n', 'it is in area 0.0.0.7 already: take that back first'],
    ['router ospf\n area 1 stub\nexit\n', '“area 1 stub” is not modelled'],
  ])('%j', (frr, why) => {
    const { unread } = read(frr);
    expect(unread.map((u) => u.why)).toEqual([why]);
    expect(unread[0]!.text).not.toContain('plain');
  });
  test('an interface gets addresses and is shut there as well', () => {
    const { config, unread } = read(
      'interface p1\n ip address 10.5.5.1/24\n shutdown\nexit\ninterface lo\n ip address 10.255.0.1/32\nexit\n',
    );
    expect(unread).toEqual([]);
    expect(config.ports[0]).toMatchObject({ addresses: ['10.1.1.0/31', '10.5.5.1/24'], shut: true });
    expect(config.loopbacks).toEqual(['10.255.0.1/32']);
  });
});

describe('neighbours', () => {
  const [leaf] = lower(led()) as [string];
  const { port, farHost } = led().ospf!.adjacencies.find((a) => a.host === leaf)!;
  const spine = farHost!;
  const inPort = (line: string) => (t: string) => t.replace(new RegExp(`(interface ${port}\n)`), `$1 ${line}\n`);
  const KEY = `sealed:${'k'.repeat(22)}`;

  test('those of a healthy fabric are all up, without a finding', () => {
    fc.assert(
      fc.property(intents, ospfChoices, (intent, choices) => {
        const m = led({ ...choices, costs: [0] }, {}, intent);
        expect(m.ospf!.adjacencies).toHaveLength(2 * m.cables.length);
        expect([reasons(m), [...m.ospf!.doubts]]).toEqual([[], []]);
        expect(m.sessions.filter((s) => !s.up)).toEqual([]);
        expect(judgeNetwork(m).findings).toEqual([]);
      }),
      { numRuns: 30 },
    );
  });
  test.each<[string, RegExp, number]>([
    ['ip ospf hello-interval 5', /^hello interval (5|10) s here, (5|10) s on /, 2],
    ['ip ospf hello-interval 10', /^$/, 0],
    ['ip ospf dead-interval 40', /^$/, 0],
    ['ip ospf dead-interval 20', /^dead interval (20|40) s here, (20|40) s on /, 2],
    // An end that is passive says nothing, so it misses nobody.
    ['ip ospf passive', /^it is passive on /, 1],
    // Without a key it asks for nothing; with one, the other end shows none.
    ['ip ospf authentication message-digest', /^$/, 0],
    [
      `ip ospf authentication message-digest\n ip ospf message-digest-key 1 md5 ${KEY}`,
      /^(authentication by digest|no authentication) here, /,
      2,
    ],
    [`ip ospf message-digest-key 1 md5 ${KEY}`, /^$/, 0],
    ['shutdown', new RegExp(`^${port} of ${leaf} is shut$`), 1],
    ['ip ospf cost 7', /^$/, 0],
    ['ip ospf priority 0', /^$/, 0],
  ])('%s at one end', (line, why, many) => {
    const found = reasons(led({}, { [leaf]: inPort(line) }));
    expect(found).toHaveLength(many);
    for (const r of found) expect(r).toMatch(why);
  });
  test('another area, and nobody who speaks for a link: each where it is said', () => {
    const area = (t: string) => t.replace(new RegExp(`(interface ${port}\n(?:.*\n)*? ip ospf area )\\S+`), '$11');
    const m = led({}, { [leaf]: area });
    expect(reasons(m)).toEqual(
      [`area 0.0.0.0 here, 0.0.0.1 on ${leaf}`, `area 0.0.0.1 here, 0.0.0.0 on ${spine}`].sort().reverse().sort(),
    );
    expect(
      judgeNetwork(m)
        .findings.filter((f) => f.rule === 'ospf-neighbour-up')
        .map((f) => f.configPlace),
    ).toContainEqual(['ospfPorts', port, 'area']);
    const mute = (host: string, p: string) => ({
      [host]: (t: string) => t.replace(`interface ${p}\n`, `interface ${p}\n ip ospf priority 0\n`),
    });
    const far = led().plan.end(leaf, port)!.port;
    const shared = { pointToPoint: false };
    expect(reasons(led(shared, { ...mute(leaf, port), ...mute(spine, far) }))).toHaveLength(2);
    expect(reasons(led(shared, mute(leaf, port)))).toEqual([]);
  });
  test('keys: the one that is sent with must be known at the other end', () => {
    const with_ = (host: string, far: string, id: number, key: string) => {
      const p = led().ospf!.adjacencies.find((a) => a.host === host && a.farHost === far)!.port;
      const lines = ` ip ospf message-digest-key ${id} md5 ${key}\n ip ospf authentication message-digest\n`;
      return (t: string) => t.replace(new RegExp(`(interface ${p}\n)`), `$1${lines}`);
    };
    const said = (id: number, key: string) =>
      reasons(led({}, { [leaf]: with_(leaf, spine, 1, KEY), [spine]: with_(spine, leaf, id, key) }));
    expect(said(1, KEY)).toEqual([]);
    expect(said(2, KEY)).toHaveLength(2);
    expect(said(1, KEY.replace('kk', 'kj'))).toHaveLength(2);
  });
  test('the same router id is nobody else; over a link of two kinds no route leads', () => {
    const id = /ospf router-id (\S+)/;
    const other = id.exec(linux.render(led().switches.find((s) => s.host === spine)!.config).files['frr.conf']!)![1]!;
    const twin = led({}, { [leaf]: (t) => t.replace(id, `ospf router-id ${other}`) });
    expect(reasons(twin)).toContainEqual(`${spine} has the same router id, ${other}`);
    const mixed = led(
      {},
      {
        [leaf]: (t) =>
          t
            .replace(`interface ${port}\n`, `interface ${port}\n no ip ospf network\n`)
            .replace(new RegExp(`(interface ${port}\n(?:.*\n)*?) ip ospf network point-to-point\n`), '$1'),
      },
    );
    expect([mixed.ospf!.adjacencies.every((a) => a.up), paths(mixed, leaf, lower(mixed)[1]!)]).toEqual([true, 1]);
    expect(reasons(mixed).sort()).toEqual([
      `a link of many here, a link of two on ${spine}`,
      `a link of two here, a link of many on ${leaf}`,
    ]);
  });
});

describe('routes', () => {
  test('with equal costs a leaf has the paths to another that BGP gives it', () => {
    fc.assert(
      fc.property(intents, ospfChoices, (intent, choices) => {
        const { drawn } = configsOf(intent);
        const plain = compileFabric(intent, drawn.values, POOLS);
        const bgp = modelNetwork(
          plain.switches.map((s) => ({ host: s.seat.host, ...linux.parse(s.files) })),
          plain.cables,
        );
        const m = led({ ...choices, bgp: 'internal', costs: [0] }, {}, intent);
        const asn = (h: string): number => bgp.views.get(h)!.config.bgp!.asn;
        for (const a of lower(bgp))
          for (const b of lower(bgp))
            // Two of one AS number hear nothing of one another by eBGP.
            if (a !== b && asn(a) !== asn(b)) expect([a, b, paths(m, a, b)]).toEqual([a, b, paths(bgp, a, b)]);
      }),
      { numRuns: 30 },
    );
  });

  test('the cheapest way is taken, at the end where it goes out; and what shares its cost', () => {
    const whole = led();
    const [a, b] = lower(whole) as [string, string];
    expect(paths(whole, a, b)).toBe(2);
    const out = whole.ospf!.adjacencies.find((x) => x.host === a)!;
    const dear = led(
      {},
      { [a]: (t) => t.replace(`interface ${out.port}\n`, `interface ${out.port}\n ip ospf cost 11\n`) },
    );
    expect([paths(dear, a, b), paths(dear, b, a)]).toEqual([1, 2]);
    const narrow = led({}, { [a]: (t) => t.replace('router ospf\n', 'router ospf\n maximum-paths 1\n') });
    expect([paths(narrow, a, b), paths(narrow, b, a)]).toEqual([1, 2]);
  });

  test('between eBGP, OSPF and iBGP the distance decides', () => {
    const both = led({ bgp: 'all', costs: [1, 2, 3, 4, 5] });
    const [a, b] = lower(both) as [string, string];
    // eBGP has all ways, whatever OSPF thinks of their costs.
    expect(paths(both, a, b)).toBe(2);
    const silent = led({ bgp: 'links', costs: [1, 2, 3, 4, 5] });
    expect(paths(silent, a, b)).toBe(1);
  });

  test('of several VTEPs those are used that OSPF has near, and which these were is uncertain where they are not equally far', () => {
    const unsure = (choices: Partial<OspfChoices>): Set<boolean> => {
      const found = new Set<boolean>();
      for (const intent of fc.sample(intents, { numRuns: 30, seed: 1 })) {
        if (![...configsOf(intent).configs.values()].every((c) => c.bgp && c.ports.length > 0)) continue;
        const m = led(choices, {}, intent);
        for (const { host, config } of m.switches)
          for (const { name } of config.vrfs)
            for (const r of routesOf(m, host, name) as readonly RouteAnswer[])
              if (r.kind === 'evpn' && r.ways.length > 1) found.add(r.unsure !== null);
      }
      return found;
    };
    expect(unsure({ bgp: 'links' })).toEqual(new Set([false]));
    expect(unsure({ bgp: 'links', costs: [10, 10, 30, 20] })).toEqual(new Set([true, false]));
    // What eBGP itself leads to is as near as all else.
    expect(unsure({ bgp: 'all', costs: [10, 10, 30, 20] })).toEqual(new Set([false]));
  });

  test('an area that is not in the backbone is told of by who is in both; outside metrics come last', () => {
    const m = led({ areas: 'many' });
    const [a, b] = lower(m) as [string, string];
    const [prefix] = m.views.get(b)!.config.loopbacks;
    expect(paths(m, a, b)).toBe(2);
    expect(m.ospf!.routesTo(prefix!)[m.index.get(a)!]!.kind).toBe('inter');
    // Routers of the backbone that are no neighbours in it hear of one another through the others (seen on FRR 8.4.4).
    const [s, t] = m.switches.filter((x) => x.config.vxlans.length === 0).map((x) => x.host) as [string, string];
    expect(paths(m, s, t)).toBe(lower(m).length);
    const told = led({ redistributes: true });
    const route = told.ospf!.routesTo(prefix!)[told.index.get(a)!]!;
    expect([route.kind, route.over.length]).toEqual(['outside', 2]);
    // An address that a port borrows is one of OSPF already, and the port does not tell it.
    const lent = led({ redistributes: true, links: 'borrowed' });
    expect(paths(lent, a, b)).toBe(0);
  });

  test('a line that is not understood doubts what goes over its switch, and nothing else', () => {
    const whole = led();
    const [a, b] = lower(whole) as [string, string];
    const spines = whole.switches.filter((s) => s.config.vxlans.length === 0).map((s) => s.host);
    const m = led(
      {},
      { [spines[0]!]: (t) => t.replace('router ospf\n', 'router ospf\n max-metric router-lsa administrative\n') },
    );
    expect(doubt(m, a, b)).toContain('max-metric');
    expect(doubt(m, a, spines[1]!)).toBeNull();
    const near = m.ospf!.adjacencies.filter((x) => adjacencyDoubt(m, x) !== null);
    expect(near.every((x) => [x.host, x.farHost].includes(spines[0]!))).toBe(true);
  });

  test('questions: the route with its neighbours and who brings it, and the way of a packet', () => {
    const m = led();
    const [a, b] = lower(m) as [string, string];
    const address = m.views.get(b)!.config.loopbacks[0]!.split('/')[0]!;
    const question = readQuestion(`routes ${a} to ${address}`.split(' '));
    if (typeof question === 'string') throw new Error(question);
    const answer = ask(m, question);
    if (typeof answer === 'string' || answer.ask !== 'routes') throw new Error('no routes');
    expect(answer.routes.map((r) => [r.kind, r.ways.length, r.unsure])).toEqual([['ospf', 2, null]]);
    const cut = led({}, { [a]: (t) => t.replace(/^(interface p\d+\n)/m, '$1 ip ospf passive\n') });
    const rows = networkDifferences(m, cut).filter((r) => r.kind === 'neighbour');
    expect(rows.map((r) => [r.was, r.is]).sort()).toEqual([
      ['up', ''],
      ['up', `down: it is passive on ${a}`],
    ]);
    expect(answer.routes[0]!.because.at(-1)).toMatchObject({ host: b, words: `${b} tells it in area 0.0.0.0` });
  });
});
