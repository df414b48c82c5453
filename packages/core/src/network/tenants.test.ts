import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { ask } from '../ask/ask.ts';
import type { RouteAnswer } from '../ask/answer.ts';
import { readQuestion } from '../ask/question.ts';
import { routesOf } from '../ask/routesOf.ts';
import { linux } from '../dialects/linux/linux.ts';
import { judgeNetwork } from '../proof/judgeNetwork.ts';
import { borderChoices, withBorders, type BorderChoices } from '../testing/bordersOf.ts';
import { networkFromTexts, skerryCables, skerryHosts, skerryTexts } from '../testing/skerryFolder.ts';
import { hostReach } from './multihoming.ts';
import { modelNetwork } from './modelNetwork.ts';
import type { NetworkModel } from './networkModel.ts';
import { l3ImportsOf } from './targets.ts';
import { loopbackPaths, tenantsOf } from './tenants.ts';

const PLAIN: BorderChoices = {
  routers: 2,
  link: 'numbered',
  by: 'bgp',
  tells: 'no more',
  second: 'equal',
  out: 'all',
  leaked: false,
  sameAs: false,
};
const skerry = networkFromTexts(skerryTexts()).switches.map((s) => s.config);
/** Skerry with routers outside, as texts of which some are changed, read again. */
function bordered(choices: Partial<BorderChoices> = {}, change: Record<string, (frr: string) => string> = {}) {
  const made = withBorders(skerry, skerryCables, skerryHosts, { ...PLAIN, ...choices })!;
  const switches = made.configs.map((c) => {
    const { files } = linux.render(c);
    const text = change[c.hostname]?.(files['frr.conf']!) ?? files['frr.conf']!;
    if (change[c.hostname]) expect(text).not.toBe(files['frr.conf']);
    return { host: c.hostname, ...linux.parse({ ...files, 'frr.conf': text }) };
  });
  return modelNetwork(switches, made.cables, made.hosts);
}
const [VRF] = skerry.flatMap((c) => c.vrfs.map((v) => v.name));
const BORDERS = ['sk-lf-01', 'sk-lf-02'];
/** A switch of two tenants that is no border, and the second of them. */
const BOTH = skerry.find(
  (c) => c.vrfs.length > 1 && c.vrfs.some((v) => v.name === VRF) && !BORDERS.includes(c.hostname),
)!.hostname;
const OTHER = skerry.find((c) => c.hostname === BOTH)!.vrfs.find((v) => v.name !== VRF)!.name;
const inside = skerryHosts.find((h) => h.switch === 'sk-lf-03')!;

const route = (m: NetworkModel, host: string, prefix: string, vrf = VRF): RouteAnswer | undefined => {
  const all = routesOf(m, host, host.startsWith('of-') ? undefined : vrf);
  if (typeof all === 'string') throw new Error(all);
  return all.find((r) => r.prefix === prefix);
};
/** A route as `bgp of-rt-01 64700`: where it leads, over which numbers. */
const led = (m: NetworkModel, host: string, prefix: string, vrf = VRF): string => {
  const r = route(m, host, prefix, vrf);
  if (!r) return 'none';
  const ways = r.ways.map((w) => [w.to ?? w.over, ...w.path].join(' '));
  return `${r.kind} ${ways.sort().join(', ')}${r.unsure === null ? '' : ` (${r.unsure})`}`;
};
const reach = (m: NetworkModel, from: string, to: string) => {
  const find = (name: string) => m.hosts.find((h) => h.host === name)!;
  return hostReach(m, find(from), find(to));
};
const tenantSession = (m: NetworkModel, host = BORDERS[0]!) => m.sessions.find((s) => s.host === host && s.vrf)!;
/** A line behind another in the router of the tenant. */
const inTenant =
  (behind: RegExp, line: string) =>
  (frr: string): string =>
    frr.replace(new RegExp(`(router bgp \\d+ vrf ${VRF}\\n(?:.*\\n)*?.*${behind.source})`), `$1${line}\n`);

describe('a tenant that speaks to routers outside', () => {
  test('is read as it is written, in all ways that there are, and its proof is clean', () => {
    fc.assert(
      fc.property(borderChoices, (choices) => {
        const made = withBorders(skerry, skerryCables, skerryHosts, choices)!;
        for (const c of made.configs) {
          const read = linux.parse(linux.render(c).files);
          expect([read.unread, read.config]).toEqual([[], c]);
        }
        const network = modelNetwork(
          made.configs.map((c) => ({ host: c.hostname, config: c, unread: [] })),
          made.cables,
          made.hosts,
        );
        const errors = judgeNetwork(network).findings.filter((f) => f.severity === 'error');
        // With what everybody may answer to, it is found that two tenants were joined.
        expect(errors.filter((f) => !(choices.leaked && f.rule === 'networks-apart')).map((f) => f.message)).toEqual(
          [],
        );
        expect(network.sessions.filter((s) => s.unsure !== undefined || !s.up)).toEqual([]);
        // Who is outside is reached, and answers, whatever it tells.
        expect(reach(network, inside.host, 'far-0')).toMatchObject({ ok: true, unsure: null });
      }),
      { numRuns: 40 },
    );
  });

  test('what one border hears goes to all others by EVPN, and to the other router with every number on its way', () => {
    const m = bordered();
    expect(tenantSession(m)).toMatchObject({ up: true, farHost: 'of-rt-01', ipv4: true, evpn: false });
    expect(led(m, 'sk-lf-01', '198.51.100.0/24')).toBe('bgp of-rt-01 64700');
    const far = route(m, 'sk-lf-03', '198.51.100.0/24')!;
    expect([far.kind, far.ways.map((w) => [w.to, w.path.length, w.path.at(-1)])]).toEqual([
      'evpn',
      [['sk-lf-01', 3, 64700]],
    ]);
    expect(route(m, 'of-rt-02', '198.51.100.0/24')!.ways).toMatchObject([{ to: 'sk-lf-02' }]);
    expect(loopbackPaths(m, 'of-rt-02', 'of-rt-01', '10.253.0.1')).toBe(1);
    // Nothing of it is in the underlay.
    expect(led(m, 'sk-lf-01', '198.51.100.0/24', undefined)).not.toBe('none');
    expect(routesOf(m, 'sk-sp-01', undefined, '198.51.100.10')).toEqual([]);
    expect(reach(m, 'far-0', 'far-1')).toMatchObject({ ok: true, unsure: null });
  });

  test('a subnet that two racks announce is reached over both; without sharing over AS numbers over one of them', () => {
    const shared = bordered({ tells: 'aggregate' });
    expect(led(shared, 'sk-lf-03', '198.51.0.0/16')).toMatch(/^evpn sk-lf-01 .*, sk-lf-02 [^()]*$/);
    const strict = bordered(
      { tells: 'aggregate' },
      { 'sk-lf-03': (t) => t.replace(/(vrf \S+\n bgp router-id .*\n) bgp bestpath as-path multipath-relax\n/g, '$1') },
    );
    // All come from the spines’ one number, so that nothing has to be relaxed.
    expect(led(strict, 'sk-lf-03', '198.51.0.0/16')).toMatch(/^evpn sk-lf-01 .*, sk-lf-02 [^()]*$/);
    // Where it has a router of its own, its own is nearer.
    expect(led(shared, 'sk-lf-01', '198.51.0.0/16')).toBe('bgp of-rt-01 64700');
  });

  test('what one table chose by what it heard first goes on: whoever hears of it may have it or not, and EVPN holds it or not', () => {
    // Over its own router the default is three numbers long, as over the fabric.
    const m = bordered({ second: 'longer', tells: 'default' });
    const everywhere = '0.0.0.0/0';
    expect(route(m, 'sk-lf-02', everywhere)!.unsure).toMatch(/heard first/);
    // Its own router hears of the way over the fabric, if that is the one that is used.
    expect(route(m, 'of-rt-02', everywhere)).toMatchObject({ ways: [], unsure: expect.stringMatching(/heard first/) });
    const question = readQuestion(['evpn', 'sk-lf-03', 'type', '5']);
    const answer = typeof question === 'string' ? question : ask(m, question);
    if (typeof answer === 'string' || answer.ask !== 'evpn') throw new Error(String(answer));
    const told = answer.routes.filter((r) => r.about.startsWith(everywhere));
    expect(told.map((r) => [r.from, r.unsure !== null])).toEqual([
      ['sk-lf-01', true],
      ['sk-lf-02', true],
    ]);
    // Where one is longer, nothing is by chance.
    expect(route(bordered({ tells: 'default' }), 'of-rt-02', everywhere)).toBeUndefined();
  });
  test('a way with a VNI and one without do not share load: of those as good the one that was heard first stays', () => {
    const m = bordered(
      { tells: 'aggregate' },
      {
        'sk-lf-02': (t) =>
          inTenant(
            /redistribute connected\n/,
            '  neighbor 192.0.2.5 route-map LONGER in',
          )(t).replace(/(\nbfd\n)/, '\nroute-map LONGER permit 10\n set as-path prepend 64799 64799\nexit$1'),
      },
    );
    expect(route(m, 'sk-lf-02', '198.51.0.0/16')!.unsure).toMatch(/heard first/);
  });

  test('what an aggregate stands for is not told to neighbours, but by EVPN it is (FRR 8.4.4)', () => {
    const m = bordered({ out: 'aggregate' });
    const subnets = (host: string): number =>
      (routesOf(m, host, host.startsWith('of-') ? undefined : VRF) as RouteAnswer[]).filter(
        (r) => r.prefix.startsWith('10.') && r.prefix.endsWith('/24'),
      ).length;
    expect(led(m, 'of-rt-01', '10.0.0.0/8')).toMatch(/^bgp sk-lf-01/);
    expect(subnets('of-rt-01')).toBe(0);
    expect(subnets('sk-lf-04')).toBeGreaterThan(0);
    expect(reach(m, 'far-0', inside.host)).toMatchObject({ ok: true });
  });

  test('what is written down leads by its next hop; a default route and a nearer one are told apart', () => {
    const m = bordered({ by: 'static' });
    expect(m.sessions.filter((s) => s.vrf !== undefined)).toEqual([]);
    expect(led(m, 'sk-lf-01', '198.51.100.0/24')).toBe('static 192.0.2.1');
    expect(led(m, 'sk-lf-03', '198.51.100.0/24')).toMatch(/^evpn sk-lf-01/);
    expect(reach(m, inside.host, 'far-0')).toMatchObject({ ok: true, unsure: null });
    const written = (line: string) =>
      bordered({ by: 'static' }, { 'sk-lf-01': (t) => t.replace(`vrf ${VRF}\n`, `vrf ${VRF}\n ip route ${line}\n`) });
    const dropped = reach(written('198.51.100.0/25 blackhole'), inside.host, 'far-0');
    expect(dropped).toMatchObject({ ok: false, how: 'sk-lf-01 drops it: 198.51.100.0/25 is written down' });
    expect(reach(written('198.51.100.0/25 blackhole 250'), inside.host, 'far-0').ok).toBe(false);
    expect(reach(written('198.51.0.0/16 blackhole'), inside.host, 'far-0').ok).toBe(true);
    // Its next hop is nobody next door: other routes may lead there.
    expect(reach(written('198.51.100.0/25 192.0.2.77'), inside.host, 'far-0').unsure).toMatch(/192\.0\.2\.77/);
  });

  test('a route that is told and stands behind what BGP brings: which of both was there first decides, and that is said', () => {
    const at = (distance: number, told: boolean) => {
      const m = bordered(
        { by: 'static' },
        {
          'sk-lf-03': (t) =>
            t
              .replace(`vrf ${VRF}\n`, `vrf ${VRF}\n ip route 198.51.100.0/24 blackhole ${distance}\n`)
              .replace(
                /(router bgp \d+ vrf \S+\n[^]*? {2}redistribute connected\n)/,
                told ? '$1  redistribute static\n' : '$1',
              ),
        },
      );
      const answer = route(m, 'sk-lf-03', '198.51.100.0/24');
      return [answer?.kind, answer?.unsure ?? null];
    };
    expect(at(19, true)).toEqual(['static', null]);
    expect(at(200, true)).toEqual(['static', expect.stringMatching(/first/)]);
    expect(at(20, true)).toEqual(['static', expect.stringMatching(/first/)]);
    // Told to nobody, it waits until BGP brings none.
    expect(at(200, false)).toEqual(['evpn', null]);
  });

  test('a table without a route stops packets, by name; routes that lead back go round in circles', () => {
    const filtered = bordered({ by: 'static' }, { 'of-rt-01': (t) => t.replace(/ip route .*\n/g, '') });
    expect(reach(filtered, inside.host, 'far-0')).toMatchObject({
      ok: false,
      how: `the answer stops: of-rt-01 has no route to ${inside.ip} outside of VRFs`,
    });
    const circle = bordered(
      { by: 'static' },
      {
        'sk-lf-01': (t) => t.replace(`vrf ${VRF}\n`, `vrf ${VRF}\n ip route 203.0.113.0/24 192.0.2.1\n`),
        'of-rt-01': (t) => `${t}ip route 203.0.113.0/24 192.0.2.0\n`,
      },
    );
    const lost = { ...circle.hosts.find((h) => h.host === 'far-1')!, host: 'lost', ip: '203.0.113.9' };
    expect(hostReach(circle, inside, lost).how).toMatch(/go round in circles over (sk-lf-01|of-rt-01)/);
  });

  test.each([
    [
      'at the tenant',
      'sk-lf-01',
      inTenant(/remote-as \d+\n/, ' neighbor 192.0.2.1 shutdown'),
      'closed here (shutdown)',
    ],
    [
      'outside',
      'of-rt-01',
      (t: string) => t.replace(/remote-as \d+/, 'remote-as 64999'),
      /^of-rt-01 says AS 64999, here is AS \d+$/,
    ],
    [
      'another VRF',
      'sk-lf-01',
      (t: string) => t.replace(/neighbor 192\.0\.2\.1 remote-as/, 'neighbor 198.18.0.9 remote-as'),
      /^no port in VRF \S+ has an address in the subnet of 198\.18\.0\.9/,
    ],
  ])('a session is judged by the words of both ends: %s', (_what, host, change, reason) => {
    const m = bordered({}, { [host]: change });
    const s = tenantSession(m);
    expect(s.up).toBe(false);
    expect(s.reason).toEqual(typeof reason === 'string' ? reason : expect.stringMatching(reason));
    expect(led(m, 'sk-lf-03', '198.51.100.0/24')).toMatch(s.unsure === undefined ? /^none$/ : /^none$|not computed/);
    // The finding stands at the line of the tenant.
    const found = judgeNetwork(m).findings.filter((f) => f.rule === 'bgp-session-up' && f.host === 'sk-lf-01');
    expect(found.map((f) => (f.configPlace as readonly string[]).slice(0, 4))).toEqual([['bgp', 'vrfs', VRF, 'peers']]);
    expect(found[0]!.severity === 'warning').toBe(s.unsure !== undefined);
  });

  test('a default that is switched off counts for neighbours that come after it (FRR 8.4.4)', () => {
    const after = bordered({}, { 'sk-lf-01': inTenant(/remote-as \d+\n/, ' no bgp default ipv4-unicast') });
    expect(tenantSession(after)).toMatchObject({ up: true });
    const before = bordered({}, { 'sk-lf-01': inTenant(/bgp router-id .*\n/, ' no bgp default ipv4-unicast') });
    expect(tenantSession(before)).toMatchObject({ up: false, reason: 'no address family in common' });
  });

  test('another tenant that takes its targets reaches what it may, and its groups are one', () => {
    const m = bordered({ leaked: true });
    const groups = (of: NetworkModel) => [VRF, OTHER].map((v) => tenantsOf(of).groupOf(BOTH, v));
    const [first, second] = groups(m);
    expect(first).toBe(second);
    // Its routes come from the first tenant's switches as well, whatever their VNI.
    const from = (of: NetworkModel): string[] => l3ImportsOf(of, BOTH, OTHER);
    expect(from(m).length).toBeGreaterThan(from(bordered()).length);
    expect(from(m)).toContain('sk-lf-01');
    expect(led(m, BOTH, '198.51.100.0/24', OTHER)).toMatch(/^evpn sk-lf-01/);
    const [apart, away] = groups(bordered());
    expect(apart === away).toBe(false);
  });

  test('a line about its neighbour that is not understood makes its routes uncertain, and no others', () => {
    const m = bordered({}, { 'sk-lf-01': inTenant(/remote-as \d+\n/, ' neighbor 192.0.2.1 password sounding-line') });
    expect(led(m, 'sk-lf-03', '198.51.101.0/24')).toMatch(/password …”, is not understood/);
    expect(reach(m, inside.host, 'far-0').unsure).toMatch(/password/);
    expect((routesOf(m, BOTH, OTHER) as RouteAnswer[]).map((r) => r.unsure).filter(Boolean)).toEqual([]);
  });

  test('a line of a map that its neighbour goes by makes the tenant uncertain, and nothing else', () => {
    const m = bordered(
      { second: 'longer' },
      { 'sk-lf-02': (t) => t.replace(/( set as-path prepend .*\n)/, '$1 set ip next-hop somewhere\n') },
    );
    expect(led(m, 'sk-lf-03', '198.51.101.0/24')).toMatch(/next-hop somewhere”, is not understood/);
    expect((routesOf(m, BOTH, OTHER) as RouteAnswer[]).map((r) => r.unsure).filter(Boolean)).toEqual([]);
  });

  test('next hops that maps speak of are computed over sessions of eBGP, and else make the tenant uncertain', () => {
    const at = (line: string, choices: Partial<BorderChoices> = {}) =>
      bordered(
        { second: 'longer', ...choices },
        { 'sk-lf-02': (t) => t.replace(/( set as-path prepend .*\n)/, `$1 ${line}\n`) },
      );
    const plain = led(bordered({ second: 'longer' }), 'sk-lf-03', '198.51.101.0/24');
    expect(plain).toMatch(/^evpn sk-lf-02 [\d ]+$/);
    expect(led(at('set ip next-hop peer-address'), 'sk-lf-03', '198.51.101.0/24')).toBe(plain);
    // Over a link without addresses, what is asked is 0.0.0.0.
    const unnumbered = (address: string): string =>
      led(at(`match ip next-hop address ${address}`, { link: 'unnumbered' }), 'sk-lf-02', '198.51.101.0/24');
    expect([unnumbered('0.0.0.0'), unnumbered('192.0.2.3')]).toEqual(['bgp of-rt-02 64799 64799 64701', 'none']);
    // What it tells of its own with another next hop.
    const own = bordered(
      {},
      {
        'sk-lf-02': (t) =>
          `${t.replace(/(router bgp \d+ vrf (?:.*\n)*?.*redistribute connected)\n/, '$1 route-map HOPS\n')}route-map HOPS permit 10\n set ip next-hop 192.0.2.9\nexit\n`,
      },
    );
    expect(led(own, 'sk-lf-03', '198.51.101.0/24')).toMatch(/what map HOPS makes of next hops of \S+ is not computed/);
    const told = bordered(
      {},
      {
        'sk-lf-02': (t) =>
          `${t.replace(/( vrf (?:.*\n)*?.*advertise ipv4 unicast)\n/, '$1 route-map HOPS\n')}route-map HOPS permit 10\n set ip next-hop 192.0.2.9\nexit\n`,
      },
    );
    expect(led(told, 'sk-lf-03', '198.51.101.0/24')).toMatch(/what map HOPS makes of next hops of \S+ is not computed/);
    expect((routesOf(told, BOTH, OTHER) as RouteAnswer[]).map((r) => r.unsure).filter(Boolean)).toEqual([]);
  });

  test.each<[string, string, string, (t: string) => string, readonly string[]]>([
    [
      'a map that is not there',
      'names-defined',
      'sk-lf-01',
      (t) => inTenant(/redistribute connected\n/, '  neighbor 192.0.2.1 route-map NOWHERE in')(t),
      ['sk-lf-01: route map NOWHERE is used but not defined.'],
    ],
    [
      'a route of a VRF that is not there',
      'names-defined',
      'sk-lf-01',
      (t) => `${t}ip route 203.0.113.0/24 blackhole vrf nowhere\n`,
      ['sk-lf-01: VRF nowhere is used but not defined.'],
    ],
    [
      'a policy that is wanted of its neighbour',
      'policy-allows',
      'sk-lf-01',
      (t) => inTenant(/bgp router-id .*\n/, ' bgp ebgp-requires-policy')(t),
      [`sk-lf-01 wants a policy on every eBGP peer in VRF ${VRF} and has none, so it exchanges no route.`],
    ],
  ])('rules look into VRFs: %s', (_what, rule, host, change, messages) => {
    const found = (m: NetworkModel): string[] =>
      judgeNetwork(m).findings.flatMap((f) => (f.rule === rule ? [f.message] : []));
    expect(found(bordered({}, { [host]: change }))).toEqual(messages);
    expect(found(bordered())).toEqual([]);
  });

  test('an address may stand in two VRFs, and not twice in one', () => {
    const twice = (vrf: string | undefined): string[] => {
      const [a, b] = [0, 1].map((i) => ({
        ...skerry[i]!,
        ports: [
          ...skerry[i]!.ports,
          { name: 'p60', addresses: ['192.0.2.0/31'], ...(i === 1 && vrf ? { vrf } : { vrf: VRF! }) },
        ],
      }));
      const switches = [a!, b!].map((config) => ({ host: config.hostname, config, unread: [] }));
      return judgeNetwork(modelNetwork(switches, [])).findings.flatMap((f) =>
        f.rule === 'address-unique' ? [f.message] : [],
      );
    };
    expect(twice(OTHER)).toEqual([]);
    expect(twice(VRF)).toHaveLength(1);
  });

  test('who hears a prefix is told of every VRF; of another tenant’s its own table stops packets', () => {
    const m = bordered();
    const answer = ask(m, { ask: 'prefix', prefix: '198.51.100.0/24' });
    if (typeof answer === 'string' || answer.ask !== 'prefix') throw new Error(String(answer));
    const hears = (host: string): readonly string[] => answer.hearings.find((h) => h.host === host)!.hears;
    expect(hears('sk-lf-01')).toEqual([`in ${VRF}: of-rt-01 over 192.0.2.1, path 64700`]);
    expect(hears('sk-lf-03')).toEqual([expect.stringMatching(new RegExp(`^in ${VRF}: sk-lf-01 over VNI .* 64700$`))]);
    expect(hears('of-rt-01')).toEqual(['its own, on VLAN interface 3000']);
    expect(hears('sk-sp-01')).toEqual([]);
    const vlans = m.views.get(BOTH)!.config.svis.flatMap((s) => (s.vrf === OTHER ? [s.vlan] : []));
    const others = m.hosts.find((h) => h.switch === BOTH && vlans.includes(h.vlan))!;
    expect(reach(m, others.host, 'far-0').how).toBe(`${BOTH} has no route to 198.51.100.10 in VRF ${OTHER}`);
  });

  test('a VNI of the default VRF may bring routes of tenants into the underlay: what is not known there is uncertain', () => {
    const vni = skerry.find((c) => c.hostname === 'sk-lf-03')!.vrfs.find((v) => v.name === VRF)!.l3Vni!;
    const swapped = (t: string): string => t.replace(`vrf ${VRF}\n vni ${vni}\n`, ` vni ${vni}\nvrf ${VRF}\n`);
    const heard = (m: NetworkModel): readonly (string | null)[] => {
      const answer = ask(m, { ask: 'prefix', prefix: '198.51.100.0/24' });
      if (typeof answer === 'string' || answer.ask !== 'prefix') throw new Error(String(answer));
      return answer.hearings.filter((h) => h.host === 'sk-sp-01').map((h) => h.unsure);
    };
    expect(heard(bordered({}, { 'sk-lf-03': swapped }))).toEqual([
      `sk-lf-03: VNI ${vni} of the default VRF brings routes of tenants into it, and what comes of them is not computed`,
    ]);
    expect(heard(bordered())).toEqual([null]);
  });

  test('the way from a server out is told table by table, with the lines that make it', () => {
    const m = bordered({ tells: 'default' });
    const question = readQuestion(['reach', inside.host, 'far-0']);
    if (typeof question === 'string') throw new Error(question);
    const answer = ask(m, question);
    if (typeof answer === 'string' || answer.ask !== 'reach') throw new Error(String(answer));
    const said = answer.ways[0]!.hops.map((h) => `${h.at.join(' ')}: ${h.does}`);
    expect(said).toEqual([
      `sk-lf-03: takes what ${inside.host} sends in on ${inside.port}, VLAN ${inside.vlan}`,
      `sk-lf-03: routes it in VRF ${VRF}`,
      expect.stringMatching(/^sk-lf-03: sends it on in VRF \S+ by 198\.51\.100\.0\/24: VNI \d+ to \S+ of sk-lf-01$/),
      expect.stringMatching(/^sk-sp-01 .*: on to /),
      'sk-lf-01: sends it on in VRF ' + VRF + ' by 198.51.100.0/24: 192.0.2.1 of of-rt-01',
      'of-rt-01: has 198.51.100.0/24 itself: VLAN interface 3000',
      'of-rt-01: gives it to far-0 on p2, VLAN 3000',
    ]);
    expect(answer.ways[0]!.hops.at(-3)!.because.map((b) => b.configPlace)).toContainEqual([
      'bgp',
      'vrfs',
      VRF,
      'peers',
      '192.0.2.1',
      'remoteAs',
    ]);
  });
});
