import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { ask } from '../ask/ask.ts';
import { readQuestion } from '../ask/question.ts';
import { routesOf } from '../ask/routesOf.ts';
import { cablesOf } from '../layout/links.ts';
import { linux } from '../dialects/linux/linux.ts';
import { judgeNetwork } from '../proof/judgeNetwork.ts';
import { answersOf } from '../read/answers.ts';
import type { RouteAnswer } from '../ask/answer.ts';
import { ospfChoices, withOspf } from '../testing/ospfOf.ts';
import { evpnRouteDoubt, SOME_OF } from './uncertain.ts';
import { networkDifferences } from '../ask/differences.ts';
import { configsOf, intents } from '../testing/fabricOf.ts';
import {
  dualSkerry as dual,
  inFrr,
  inInterfaces,
  PLAIN,
  skerryConfigs as skerry,
  type Changes,
} from '../testing/dualSkerry.ts';
import { ipv6Choices, withIpv6 } from '../testing/ipv6Of.ts';
import { withFewServers } from '../testing/skerryFolder.ts';
import { hostReach } from './multihoming.ts';
import { sessionDoubt } from './modelDoubts.ts';
import { modelNetwork } from './modelNetwork.ts';
import type { NetworkModel } from './networkModel.ts';
import { evpnRoutesFrom } from './evpnRoutes.ts';
import { loopbackPaths } from './tenants.ts';

/** A route as `bgp sk-sp-01 sk-sp-02`: where it leads. */
function led(m: NetworkModel, host: string, prefix: string, vrf?: string): string {
  const all = routesOf(m, host, vrf);
  if (typeof all === 'string') throw new Error(all);
  const r = all.find((x) => x.prefix === prefix);
  if (!r) return 'none';
  const ways = r.ways.map((w) => w.to ?? w.over).sort();
  return `${[r.kind, ...ways].join(' ')}${r.unsure === null ? '' : ` (${r.unsure})`}`;
}
const SPINES = ['sk-sp-01', 'sk-sp-02', 'sk-sp-03', 'sk-sp-04'].join(' ');
/** The IPv6 loopback of a switch of Skerry. */
const six = (host: string): string =>
  `2001:db8:0:1::${(skerry.findIndex((c) => c.hostname === host) + 1).toString(16)}/128`;
const LEAF = skerry.findIndex((c) => c.hostname === 'sk-lf-01') === 0 ? 'sk-lf-02' : 'sk-lf-01';
const [VRF] = skerry.find((c) => c.hostname === 'sk-lf-03')!.vrfs.map((v) => v.name);
/** A server in the VRF on a switch, by IPv6. */
const server = (m: NetworkModel, host: string) =>
  m.hosts.find(
    (h) =>
      h.switch === host &&
      h.ip.includes(':') &&
      m.views.get(host)!.config.svis.some((s) => s.vlan === h.vlan && s.vrf === VRF),
  )!;

describe('IPv6 in texts', () => {
  test('what is written reads back as the same, whatever a fabric says of IPv6', () => {
    fc.assert(
      fc.property(intents, ipv6Choices, ospfChoices, (intent, choices, ospf) => {
        const { configs, layout } = configsOf(intent);
        for (const config of withIpv6([...configs.values()], cablesOf(layout), choices, ospf)) {
          const { config: read, unread } = linux.parse(linux.render(config).files);
          expect(read).toEqual(config);
          expect(unread).toEqual([]);
        }
      }),
      { numRuns: 60 },
    );
  });
  const said = (frr: string, interfaces = '') => {
    const { config, unread } = linux.parse({ interfaces, 'frr.conf': frr });
    return { config, unread: unread.map((u) => [u.why, u.doubts]) };
  };
  test('addresses are kept as RFC 5952 writes them, those of a link alone are not, wherever they stand', () => {
    const { config } = said(
      'interface p1\n ipv6 address 2001:DB8:0:0::7/64\n ipv6 nd ra-interval 3\nexit\ninterface lo\n ipv6 address 2001:db8::9/128\n',
      'auto lo\niface lo inet loopback\n    address 2001:db8:0::1/128\nauto p1\niface p1\n    address 10.0.0.1/31\n    address 2001:0db8::5/64\n    address fe80::1/64\n',
    );
    expect(config.ipv6Loopbacks).toEqual(['2001:db8::1/128', '2001:db8::9/128']);
    expect(config.ports[0]).toMatchObject({
      addresses: ['10.0.0.1/31'],
      ipv6Addresses: ['2001:db8::5/64', '2001:db8::7/64'],
    });
  });
  test.each([
    ['ipv6 prefix-list A permit 2001:db8::/32 ge 24', /^the daemon refuses it.*≤ 128 must hold$/],
    ['ipv6 prefix-list A permit 10.0.0.0/8', /^a prefix list line is: ipv6 prefix-list/],
    ['ip prefix-list A permit 2001:db8::/32', /^a prefix list line is: ip prefix-list/],
    ['ipv6 route 10.0.0.0/8 blackhole', /^a static route is: ipv6 route/],
    ['ipv6 route 2001:db8::/32 10.0.0.1', /^the next hop is no address$/],
    ['ip route 10.0.0.0/8 2001:db8::1', /^the next hop is no address$/],
  ])('%s is refused with its reason', (line, why) => {
    const { unread } = said(line);
    expect(unread.map(([w]) => w)).toEqual([expect.stringMatching(why)]);
  });
  test('what is not understood of IPv6 doubts nothing else', () => {
    const { unread } = said(
      'ipv6 route 2001:db8::/32 fe80::1 p1\nrouter bgp 65001\n neighbor p1 interface remote-as external\n address-family ipv6 unicast\n  neighbor p1 activate\n  neighbor p1 unsuppress-map X\n exit-address-family\n',
    );
    expect(unread.map(([, doubts]) => doubts)).toEqual([
      ['staticRoutes', '2001:db8::/32'],
      ['bgp', 'ipv6'],
    ]);
    const m = dual({}, { [LEAF]: inFrr(/( address-family ipv6 unicast\n)/, '$1  table-map X\n') });
    expect(led(m, LEAF, six('sk-lf-03'))).toContain('“table-map X”, is not understood)');
    expect(answersOf(m, []).sessions.every((s) => s.families.ipv4.state === 'up')).toBe(true);
    expect(led(m, LEAF, '10.255.0.6/32')).not.toMatch(/\(/);
  });
});

describe('IPv6 in the network', () => {
  test('where IPv6 says the same as IPv4, each router has it over as many ways, whatever the fabric', () => {
    fc.assert(
      fc.property(intents, fc.boolean(), fc.boolean(), (intent, byDefault, own) => {
        const { configs, layout } = configsOf(intent);
        // Over the sessions of IPv4, or each over one of its own between addresses of IPv6.
        const over = own ? ({ sessions: 'own', links: 'addressed' } as const) : { byDefault };
        const made = withIpv6([...configs.values()], cablesOf(layout), { ...PLAIN, ...over, tenants: 'none' });
        const m = modelNetwork(
          made.map((config) => ({ host: config.hostname, config, unread: [] })),
          cablesOf(layout),
        );
        const routed = made.filter((c) => c.ipv6Loopbacks);
        for (const from of routed)
          for (const to of routed) {
            if (from === to) continue;
            const route = routesOf(m, from.hostname, undefined, to.ipv6Loopbacks![0]!.split('/')[0]);
            if (typeof route === 'string') throw new Error(route);
            const ways = route.filter((r) => r.kind === 'bgp').flatMap((r) => r.ways);
            const own = to.loopbacks[0]!.split('/')[0]!;
            expect([from.hostname, to.hostname, ways.length]).toEqual([
              from.hostname,
              to.hostname,
              loopbackPaths(m, from.hostname, to.hostname, own),
            ]);
          }
      }),
      { numRuns: 12 },
    );
  });
  test('where OSPF of both families says the same, each router goes the same ways by IPv6, or it is not known how many', () => {
    let compared = 0;
    fc.assert(
      fc.property(intents, ospfChoices, (intent, said) => {
        const { configs, layout } = configsOf(intent);
        const choices = { ...said, links: 'subnets', by: 'interfaces', bgp: 'internal', redistributes: false } as const;
        const cables = cablesOf(layout);
        const led = withOspf([...configs.values()], cables, choices);
        const made = withIpv6(led, cables, { ...PLAIN, led: 'ospf', tenants: 'none' }, choices);
        const m = modelNetwork(
          made.map((config) => ({ host: config.hostname, config, unread: [] })),
          cables,
        );
        for (const from of made)
          for (const to of made) {
            if (from === to || !to.ipv6Loopbacks) continue;
            const [four, six_] = [to.loopbacks[0]!, to.ipv6Loopbacks[0]!].map((l) => {
              const [r] = routesOf(m, from.hostname, undefined, l.split('/')[0]) as readonly RouteAnswer[];
              return r && { kind: r.kind, ways: r.ways.map((w) => w.over), unsure: r.unsure };
            });
            if (six_?.unsure) {
              expect(six_.unsure).toBe(SOME_OF);
              expect(six_.ways.length).toBeGreaterThan(1);
            }
            compared++;
            expect([from.hostname, to.hostname, six_?.kind, six_?.ways]).toEqual([
              from.hostname,
              to.hostname,
              four?.kind,
              four?.ways,
            ]);
          }
      }),
      { numRuns: 10 },
    );
    expect(compared).toBeGreaterThan(0);
  });
  test('OSPF of IPv6: who does not fit is no neighbour, and says why; a line that is not understood doubts IPv6 alone', () => {
    const ospf = { led: 'ospf', tenants: 'none' } as const;
    const near = (change: Changes = {}) => {
      const m = dual(ospf, change);
      const at = answersOf(m, []).adjacencies!.find((a) => a.host === LEAF && a.farHost === 'sk-sp-01')!;
      return [at.state, at.reason, led(m, LEAF, six('sk-sp-01'))];
    };
    expect(near()).toEqual(['up', null, 'ospf sk-sp-01']);
    const others = expect.stringMatching(/^ospf sk-sp-02|^none$/) as string;
    const spine = (from: RegExp, to: string): Changes => ({ 'sk-sp-01': inFrr(from, to) });
    const all = (word: string, to: string) => spine(new RegExp(` ipv6 ospf6 ${word}\\b.*`, 'g'), ` ipv6 ospf6 ${to}`);
    expect(near(all('hello-interval', 'hello-interval 2'))[1]).toBe('hello interval 1 s here, 2 s on sk-sp-01');
    expect(near(all('area', 'area 0.0.0.7'))[1]).toBe('area 0.0.0.0 here, 0.0.0.7 on sk-sp-01');
    expect(near(spine(/ network point-to-point\n/g, ' passive\n'))[1]).toBe('it is passive on sk-sp-01');
    const mtu: Changes = { 'sk-sp-01': inInterfaces(/ mtu 9216/g, ' mtu 9000') };
    expect(near(mtu)).toEqual(['down', 'MTU 9216 here, 9000 on sk-sp-01', others]);
    expect(near({ 'sk-sp-01': inInterfaces(/ mtu 9216/g, ' mtu 1279') })[0]).toBe('down');
    const [state, reason] = near(spine(/(router ospf6\n)/, '$1 area 0.0.0.0 stub\n'));
    expect([state, reason]).toEqual(['uncertain', expect.stringContaining('“area 0.0.0.0 stub”, is not understood')]);
  });
  test('a loopback is known over every session that both ends speak it over, and no other', () => {
    expect(led(dual(), LEAF, six('sk-lf-03'))).toBe(`bgp ${SPINES}`);
    const m = dual({}, { 'sk-sp-02': inFrr(/(ipv6 unicast\n(?:.*\n)*?)  neighbor FABRIC activate\n/, '$1') });
    expect(led(m, LEAF, six('sk-lf-03'))).toBe('bgp sk-sp-01 sk-sp-03 sk-sp-04');
    const found = judgeNetwork(m).findings.filter((f) => f.rule === 'bgp-session-up');
    expect(found.length).toBeGreaterThan(0);
    for (const f of found) expect(f.message).toMatch(/: IPv6 to .* stays down: not activated /);
  });
  test('neighbours speak it by themselves where a line says so, from there on', () => {
    expect(led(dual({ byDefault: true }), LEAF, six('sk-lf-03'))).toBe(`bgp ${SPINES}`);
    const off = dual({ byDefault: true }, { [LEAF]: inFrr(/ bgp default ipv6-unicast\n/, '') });
    expect(led(off, LEAF, six('sk-lf-03'))).toBe('none');
  });
  describe('sessions between loopbacks of IPv6', () => {
    const SPINE = 'sk-sp-01';
    const address = (host: string): string => six(host).split('/')[0]!;
    const asn = (host: string): number => skerry.find((c) => c.hostname === host)!.bgp!.asn;
    /** Each says the other, by words that may be left out. */
    const speaks = (far: string, words = ['ebgp-multihop 4', 'update-source lo']) => {
      const name = address(far);
      const lines = [`remote-as ${asn(far)}`, ...words].map((w) => ` neighbor ${name} ${w}\n`).join('');
      return (frr: string, interfaces: string): readonly [string, string] => [
        frr
          .replace(/^( neighbor FABRIC peer-group\n)/m, `${lines}$1`)
          .replace(/( address-family l2vpn evpn\n)/, `$1  neighbor ${name} activate\n`),
        interfaces,
      ];
    };
    const session = (change: Changes, choices = {}) => {
      const m = dual(choices, change);
      const found = m.sessions.find((s) => s.host === LEAF && s.peer === address(SPINE))!;
      return { m, up: found.up && found.evpn, why: found.reason, doubt: sessionDoubt(m, found) };
    };
    const both = { [LEAF]: speaks(SPINE), [SPINE]: speaks(LEAF) };
    test('they come up over the routes that other sessions bring', () => {
      expect(session(both)).toMatchObject({ up: true, why: null, doubt: null });
      expect(session(both, { led: 'ospf' })).toMatchObject({ up: true, doubt: null });
      const one = { ...both, [SPINE]: speaks(LEAF, ['update-source lo']) };
      expect(session(one)).toMatchObject({ up: false, why: 'eBGP over routes needs ebgp-multihop at both ends' });
      expect(session({ [LEAF]: speaks(SPINE) }).why).toMatch(/has no neighbour statement for a loopback of sk-lf/);
    });
    test('and do not where none leads there, or none back; a line that may change that leaves them uncertain', () => {
      const after = (host: string, from: RegExp, to: string) => (frr: string, interfaces: string) => {
        const [text] = both[host]!(frr, interfaces);
        const changed = text.replace(from, to);
        expect(changed).not.toBe(text);
        return [changed, interfaces] as const;
      };
      const mute = /( address-family ipv6 unicast\n(?:.*\n)*?) {2}redistribute connected.*\n/;
      expect(session({ ...both, [SPINE]: after(SPINE, mute, '$1') }).why).toBe(
        `no route to ${address(SPINE)} of ${SPINE}`,
      );
      expect(session({ ...both, [LEAF]: after(LEAF, mute, '$1') }).why).toBe(
        `${SPINE} has no route back to ${address(LEAF)}`,
      );
      const strange = after(LEAF, /( address-family ipv6 unicast\n)/, '$1  table-map X\n');
      expect(session({ ...both, [LEAF]: strange }).doubt).toContain('“table-map X”, is not understood');
    });
    test('the next model knows them again, and learns of routes that are lost', () => {
      const { m } = session(both);
      const next = modelNetwork(m.switches, m.cables, m.hosts, m);
      expect(next.sessions).toBe(m.sessions);
      const closed = m.switches.map((s) =>
        s.host === LEAF ? { ...s, config: { ...s.config, ipv6Loopbacks: [] } } : s,
      );
      const lost = modelNetwork(closed, m.cables, m.hosts, m);
      expect(lost.sessions.find((s) => s.host === SPINE && s.peer === address(LEAF))!.up).toBe(false);
    });
  });
  test('an aggregate hides what is within it, lists let through what they say, and what is written comes first', () => {
    const all = dual({ aggregated: true });
    const first = skerry[0]!.hostname;
    expect(led(all, LEAF, '2001:db8:0:1::/64')).toBe(`bgp ${first}`);
    expect(led(all, LEAF, six('sk-lf-03'))).toBe('bgp sk-sp-02 sk-sp-03 sk-sp-04');
    const last = skerry.at(-1)!.hostname;
    expect(led(dual({ filtered: true }), last, six(first))).toBe('none');
    const written = dual({ written: true });
    expect(led(written, last, '2001:db8:9::/48')).toBe('static nowhere: it is dropped');
    expect(led(written, LEAF, '2001:db8:9::/48')).toMatch(/^bgp /);
  });
  test('a port that carries less than 1280 bytes has none; one more has', () => {
    const mtu = (n: number) =>
      dual({ links: 'addressed' }, { [LEAF]: inInterfaces(/(iface p49\n(?: .*\n)*?    mtu )\d+/, `$1${n}`) });
    const connected = (m: NetworkModel): number =>
      (routesOf(m, LEAF) as readonly { prefix: string; kind: string }[]).filter(
        (r) => r.kind === 'connected' && r.prefix.endsWith('/127'),
      ).length;
    expect([connected(mtu(1280)), connected(mtu(1279))]).toEqual([4, 3]);
  });
  test('tenants: prefixes and servers come in EVPN, a default where one is told, and servers reach one another', () => {
    const m = dual({ tellsDefault: true });
    const [a, b] = [server(m, 'sk-lf-01'), server(m, 'sk-lf-03')];
    expect(hostReach(m, a, b)).toMatchObject({ ok: true, unsure: null });
    expect(
      hostReach(
        m,
        a,
        m.hosts.find((h) => h.switch === b.switch && !h.ip.includes(':'))!,
      ),
    ).toMatchObject({
      ok: false,
      how: expect.stringContaining('different families') as string,
    });
    const types = evpnRoutesFrom(m, 'sk-lf-03').flatMap((r) =>
      r.type === 5 && r.prefix.includes(':') ? ['5'] : r.type === 2 && r.ip.includes(':') ? ['2'] : [],
    );
    expect([types.includes('5'), types.includes('2')]).toEqual([true, true]);
    const teller = skerry.at(-1)!.hostname;
    const listener = skerry.find((c) => c.hostname !== teller && c.vrfs.some((v) => v.name === VRF))!.hostname;
    expect(led(m, listener, '::/0', VRF)).toBe(`evpn ${teller}`);
  });
  test('a server of both families that is cut off is one finding', () => {
    const shut = dual({}, { 'sk-lf-03': inInterfaces(/(iface p1\n)/, '$1    link-down yes\n') });
    const found = judgeNetwork(shut).findings.filter(
      (f) => f.rule === 'server-joined' && f.message.includes('p1 of sk-lf-03'),
    );
    expect(found).toHaveLength(1);
  });
  test('a server without its gateway, or one that EVPN does not tell, is cut off where it is', () => {
    const gone = dual({}, { 'sk-lf-03': inInterfaces(/ {4}address 2001:db8:1:.*\n/g, '') });
    const there = dual();
    const [a, b] = [server(there, 'sk-lf-01'), server(there, 'sk-lf-03')];
    expect(hostReach(gone, a, b)).toMatchObject({ ok: false });
    const how = hostReach(gone, b, a).how;
    expect(how).toContain(`sk-lf-03 does not have gateway ${b.gateway} on VLAN ${b.vlan}`);
  });
  test('a list of IPv6 that is asked and not there is found where it is asked, also where IPv4 has one of that name', () => {
    const names = (change: (frr: string, interfaces: string) => readonly [string, string]): string[] =>
      judgeNetwork(dual({}, { [LEAF]: change })).findings.flatMap((f) => (f.rule === 'names-defined' ? f.message : []));
    const policy = inFrr(
      /(ipv6 unicast\n(?:.*\n)*? {2}neighbor FABRIC activate\n)/,
      '$1  neighbor FABRIC prefix-list LOOPBACKS in\n',
    );
    const said = `${LEAF}: IPv6 prefix list LOOPBACKS is used but not defined.`;
    expect(names(policy)).toEqual([said]);
    expect(
      names(inFrr('match ipv6 address prefix-list LOOPBACKS6', 'match ipv6 address prefix-list LOOPBACKS')),
    ).toEqual([said]);
    expect(names(inFrr('neighbor FABRIC timers 3 9', 'neighbor FABRIC timers 2 6'))).toEqual([]);
  });
  test('what two networks answer otherwise by IPv6 is said apart from IPv4, though servers have one name', () => {
    const before = withFewServers(dual());
    const rows = (change: Changes) => networkDifferences(before, withFewServers(dual({}, change)));
    const gone = rows({ 'sk-lf-03': inInterfaces(/ {4}address 2001:db8:1:.*\n/g, '') });
    const [a, b] = [server(before, 'sk-lf-01'), server(before, 'sk-lf-03')];
    const about = `${a.host} reaches ${b.host}`;
    expect(gone.find((r) => r.about === `${about} by IPv6`)).toMatchObject({
      was: 'yes',
      is: expect.stringMatching(/^no/) as string,
    });
    expect(gone.some((r) => r.about === about)).toBe(false);
    const off = rows({ 'sk-sp-02': inFrr(/(ipv6 unicast\n(?:.*\n)*?) {2}neighbor FABRIC activate\n/, '$1') });
    expect(off.find((r) => r.kind === 'session')).toMatchObject({
      was: 'up, ipv4 and ipv6 and evpn',
      is: 'up, ipv4 and evpn',
    });
    const to = six('sk-lf-03').split('/')[0]!;
    expect(off.find((r) => r.about === `paths of ${LEAF} to ${to} of sk-lf-03`)).toMatchObject({ was: '4', is: '3' });
  });
  test('a line of a tenant’s IPv6 that is not understood makes its reach and its routes uncertain, and those of IPv4 not', () => {
    const line = inFrr(/(vrf [a-z]+\n(?:.*\n)*? address-family ipv6 unicast\n)/, '$1  table-map X\n');
    const m = dual({}, { 'sk-lf-03': line });
    const [a, b] = [server(m, 'sk-lf-01'), server(m, 'sk-lf-03')];
    expect(hostReach(m, a, b).unsure).toContain('“table-map X”, is not understood');
    const four = (at: string) =>
      m.hosts.find((h) => h.switch === at && h.host === (at === a.switch ? a.host : b.host))!;
    expect(hostReach(m, four(a.switch), four(b.switch))).toMatchObject({ ok: true, unsure: null });
    const told = evpnRoutesFrom(m, 'sk-lf-03').filter((r) => r.type === 5);
    const unsure = told.map((r) => [r.prefix.includes(':'), evpnRouteDoubt(m, LEAF, r) !== null]);
    expect(unsure.every(([ipv6, is]) => ipv6 === is)).toBe(true);
    expect(unsure.some(([ipv6]) => ipv6)).toBe(true);
  });
  test('what OSPF of IPv6 has learnt is told on by BGP in ways that are not computed', () => {
    const { unread } = linux.parse({
      interfaces: '',
      'frr.conf': 'router bgp 65001\n address-family ipv6 unicast\n  redistribute ospf6\n exit-address-family\nexit\n',
    });
    expect(unread.map((u) => [u.harmless, u.doubts])).toEqual([[undefined, ['bgp', 'ipv6']]]);
  });
  test('questions take addresses of both families', () => {
    const m = dual();
    const answer = (words: string) => {
      const question = readQuestion(words.split(' '));
      if (typeof question === 'string') throw new Error(question);
      return ask(m, question);
    };
    const to = six('sk-lf-03').split('/')[0]!;
    expect(answer(`routes ${LEAF} to ${to}`)).toMatchObject({ routes: [{ prefix: six('sk-lf-03'), kind: 'bgp' }] });
    const { routes } = answer(`routes ${LEAF} to ${to}`) as { routes: readonly RouteAnswer[] };
    expect(routes[0]!.because.at(-1)).toMatchObject({ host: 'sk-lf-03', configPlace: ['bgp', 'ipv6', 'connected'] });
    const heard = answer(`hears ${to.toUpperCase()}`) as { hearings: readonly { hears: readonly string[] }[] };
    expect(heard.hearings.every((h) => h.hears.length > 0)).toBe(true);
    const [a, b] = [server(m, 'sk-lf-01'), server(m, 'sk-lf-03')];
    expect(answer(`reach ${a.ip.toUpperCase()} ${b.ip}`)).toMatchObject({ ok: true, unsure: null });
    const { reach } = answersOf(m, []);
    expect(reach.length).toBe(
      m.hosts.length ** 2 -
        m.hosts.length -
        m.hosts.filter((h) => h.ip.includes(':')).length * 2 * m.hosts.filter((h) => !h.ip.includes(':')).length,
    );
    expect(readQuestion(['routes', LEAF, 'to', '2001:db8::g'])).toMatch(/is no address/);
  });
});
