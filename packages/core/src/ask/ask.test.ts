import { describe, expect, test } from 'vitest';
import { linux } from '../dialects/linux/linux.ts';
import { networkFromTexts, skerryTexts, withFewServers } from '../testing/skerryFolder.ts';
import { ask, withLines } from './ask.ts';
import type { Answer } from './answer.ts';
import { differencesByStep, networkDifferences } from './differences.ts';
import { evpnOf } from './evpnOf.ts';
import { readQuestion } from './question.ts';

const whole = networkFromTexts(skerryTexts());
function asked(words: string, network = whole, texts = skerryTexts()): Answer {
  const question = readQuestion(words.split(' '));
  if (typeof question === 'string') throw new Error(question);
  const answer = ask(network, question);
  if (typeof answer === 'string') throw new Error(answer);
  return withLines(answer, (host) => (texts[host] ? { dialect: linux, files: texts[host] } : undefined));
}
const only = <K extends Answer['ask']>(answer: Answer, kind: K): Extract<Answer, { ask: K }> => {
  if (answer.ask !== kind) throw new Error(answer.ask);
  return answer as Extract<Answer, { ask: K }>;
};
/** The text of the line that a link of a chain names. */
const lineOf = (
  b: { readonly place?: { readonly host: string; readonly file: string; readonly line: number } },
  texts = skerryTexts(),
) => texts[b.place!.host]![b.place!.file as 'frr.conf'].split('\n')[b.place!.line - 1]!.trim();

describe('questions to the model', () => {
  test('routes of a switch to an address: the longest first, its ways with their paths, and the lines that make it', () => {
    const { routes } = only(asked('routes sk-lf-01 to 10.255.0.5'), 'routes');
    expect(routes).toHaveLength(1);
    expect(routes[0]).toMatchObject({ prefix: '10.255.0.5/32', kind: 'bgp', unsure: null });
    expect(routes[0]!.ways.map((w) => [w.over, w.to])).toEqual([1, 2, 3, 4].map((n) => [`p${48 + n}`, `sk-sp-0${n}`]));
    expect(new Set(routes[0]!.ways.map((w) => w.path.length))).toEqual(new Set([2]));
    expect(lineOf(routes[0]!.because[0]!)).toMatch(/^neighbor p49 interface/);
    expect(routes[0]!.because.at(-1)!.place).toMatchObject({ host: 'sk-lf-02', file: 'frr.conf' });
  });

  test('of a VRF: its own subnets, and those that come in EVPN with the tunnel they come by', () => {
    const { routes } = only(asked('routes sk-lf-01 in soundings'), 'routes');
    expect(new Set(routes.map((r) => r.kind))).toEqual(new Set(['connected', 'evpn']));
    const far = routes.find((r) => r.kind === 'evpn')!;
    expect(far.ways[0]!.over).toMatch(/^VNI \d+ to 10\.255\.1\.\d+$/);
    expect(lineOf(far.because[0]!)).toMatch(/^route-target import /);
  });

  test('a way from server to server: in, gateway, tunnel, spines side by side, out, and back', () => {
    const { ok, ways, unsure } = only(asked('reach soundings-101 echo-301'), 'reach');
    expect([ok, unsure, ways.map((w) => w.arrives)]).toEqual([true, null, [true, true]]);
    const [there] = ways;
    expect(there!.hops[0]!.at).toEqual(['sk-lf-01']);
    expect(there!.hops.find((h) => h.does.startsWith('on to'))!.at).toEqual([1, 2, 3, 4].map((n) => `sk-sp-0${n}`));
    for (const hop of there!.hops) for (const b of hop.because) expect(b.place, b.words).toBeDefined();
  });

  test('where it stops is said with the line', () => {
    const texts = skerryTexts();
    const vlan = /bridge-access (\d+)/.exec(texts['sk-lf-01']!.interfaces.split('iface p1\n')[1]!)![1]!;
    const vni = new RegExp(`vxlan-id (\\d+)\\n {4}vxlan-local-tunnelip \\S+\\n {4}bridge-access ${vlan}\\n`).exec(
      texts['sk-lf-01']!.interfaces,
    )![1]!;
    const target = new RegExp(`(vni ${vni}\\n {3}rd .*\\n {3}route-target import )\\S+`);
    texts['sk-lf-01']!['frr.conf'] = texts['sk-lf-01']!['frr.conf'].replace(target, '$165000:1');
    const network = networkFromTexts(texts);
    const from = network.hosts.find((h) => h.switch === 'sk-lf-01' && h.port === 'p1')!;
    const to = network.hosts.find((h) => h.switch !== 'sk-lf-01' && h.vlan === from.vlan)!;
    const { ok, ways } = only(asked(`reach ${from.host} ${to.host}`, network, texts), 'reach');
    expect(ok).toBe(false);
    const last = ways[0]!.hops.at(-1)!;
    expect(last.does).toMatch(/^it stops here: route targets do not meet/);
    expect(lineOf(last.because[0]!, texts)).toBe('route-target import 65000:1');
    const { hearings } = only(asked(`hears vni ${vni}`, network, texts), 'vni');
    const deaf = hearings.find((h) => h.host === 'sk-lf-01')!;
    expect([deaf.hears, deaf.deafTo.length]).toEqual([[], hearings.length - 1]);
  });

  describe('routes that nobody has as a subnet', () => {
    const told = (line: string, of = 'sk-lf-01') => {
      const texts = skerryTexts();
      const own = texts[of]!;
      own['frr.conf'] = own['frr.conf'].replace(/( {2}redistribute connected route-map CONNECTED\n)/, `$1${line}`);
      return (question: string) => only(asked(question, networkFromTexts(texts), texts), 'routes').routes;
    };
    test('an aggregate: others lead to who tells it, there what has nothing within is dropped; and the line', () => {
      const routes = told('  aggregate-address 10.255.0.0/16 summary-only\n');
      const there = routes('routes sk-lf-02 to 10.255.0.4');
      expect(there.map((r) => [r.prefix, r.ways.length, r.ways[0]!.to, r.unsure])).toEqual([
        ['10.255.0.0/16', 4, 'sk-sp-01', null],
      ]);
      expect(there[0]!.because.at(-1)).toMatchObject({ host: 'sk-lf-01', words: 'sk-lf-01 announces it' });
      expect(routes('routes sk-lf-01 to 10.255.9.9').map((r) => r.ways)).toEqual([
        [{ over: 'nowhere: it is dropped', to: null, path: [], said: [] }],
      ]);
    });
    test('an aggregate of what is not there is not told', () =>
      expect(told('  aggregate-address 10.99.0.0/16\n')('routes sk-lf-02 to 10.99.0.1')).toEqual([]));
    test('a default route that is told to one neighbour goes on from there, and is not its own', () => {
      const routes = told('  neighbor p49 default-originate\n');
      expect(routes('routes sk-sp-01 to 192.0.2.1').map((r) => [r.prefix, r.ways[0]!.to])).toEqual([
        ['0.0.0.0/0', 'sk-lf-01'],
      ]);
      expect(routes('routes sk-lf-02 to 192.0.2.1').map((r) => r.ways.map((w) => w.to))).toEqual([['sk-sp-01']]);
      expect(routes('routes sk-lf-01 to 192.0.2.1')).toEqual([]);
      // Whatever it lets out, that goes out (seen on FRR 8.4.4).
      const held = told('  neighbor p49 default-originate\n  neighbor p49 route-map NOWHERE out\n');
      expect(held('routes sk-sp-01 to 192.0.2.1').map((r) => [r.ways[0]!.to, r.unsure])).toEqual([['sk-lf-01', null]]);
    });
  });

  test('of switches that tell a VRF the same subnet the nearest are taken; servers come by their own address once they have spoken', () => {
    const texts = skerryTexts();
    const routes = () => only(asked('routes sk-lf-01 in soundings', networkFromTexts(texts), texts), 'routes').routes;
    const far = routes().find((r) => r.kind === 'evpn' && r.prefix.endsWith('/24') && r.ways.length > 1)!;
    const [first] = far.ways;
    expect(routes().some((r) => r.prefix.endsWith('/32') && /^once \S+ has spoken$/.test(r.ways[0]!.said[0]!))).toBe(
      true,
    );
    // Its routes come by a longer way now.
    texts[first!.to!]!['frr.conf'] = texts[first!.to!]!['frr.conf'].replace(
      /( {2}neighbor FABRIC activate\n {2}advertise-all-vni\n)/,
      '$1  neighbor FABRIC route-map LONG out\n',
    ).replace(/^bfd\n/m, 'route-map LONG permit 10\n set as-path prepend 65099\nexit\nbfd\n');
    const now = routes().find((r) => r.prefix === far.prefix)!;
    expect(now.ways.map((w) => w.to)).toEqual(far.ways.slice(1).map((w) => w.to));
  });

  test('who has a prefix', () => {
    const { hearings } = only(asked('hears 10.255.0.5'), 'prefix');
    expect(hearings.filter((h) => h.hears.length === 0).map((h) => h.host)).toEqual([]);
    expect(hearings.find((h) => h.host === 'sk-lf-02')!.hears).toEqual(['its own, on lo']);
  });

  test('a route that is not there is uncertain where a line that is not understood may bring one', () => {
    const doubted = skerryTexts();
    doubted['sk-lf-02']!['frr.conf'] = doubted['sk-lf-02']!['frr.conf'].replace(
      /^(router bgp \d+\n)/m,
      '$1 bgp nonsense 5\n',
    );
    const routes = (words: string, texts = doubted) =>
      only(asked(`routes ${words}`, networkFromTexts(texts), texts), 'routes');
    for (const words of [
      'sk-lf-01',
      'sk-lf-01 to 198.51.100.7',
      'sk-lf-01 in soundings',
      'sk-lf-01 in soundings to 198.51.100.7',
    ])
      expect([routes(words).missing, routes(words, skerryTexts()).missing], words).toEqual([
        expect.stringContaining('“bgp nonsense 5”, is not understood'),
        null,
      ]);
    // None leads there more closely than the one that is there.
    expect(routes('sk-lf-01 to 10.255.0.6')).toMatchObject({
      routes: [{ prefix: '10.255.0.6/32', unsure: null }],
      missing: null,
    });
    const heard = (words: string, texts: ReturnType<typeof skerryTexts>) =>
      only(asked(`hears ${words}`, networkFromTexts(texts), texts), 'prefix').hearings.find(
        (h) => h.host === 'sk-lf-01',
      )!;
    expect(heard('198.51.100.0/24', doubted)).toMatchObject({
      hears: [],
      unsure: expect.stringContaining('nonsense') as unknown,
    });
    expect(heard('198.51.100.0/24', skerryTexts())).toMatchObject({ hears: [], unsure: null });
  });

  describe('routes of EVPN, told apart by type', () => {
    const evpn = (words: string, texts = skerryTexts()) =>
      only(asked(`evpn ${words}`, networkFromTexts(texts), texts), 'evpn').routes;

    test('who floods a network, prefixes of VRFs, servers: each with its distinguisher, and where it goes in', () => {
      const routes = evpn('sk-lf-01');
      expect(new Set(routes.map((r) => r.type))).toEqual(new Set([1, 2, 3, 4, 5]));
      const flood = evpn('sk-lf-01 type 3').find((r) => r.from === 'sk-lf-02' && r.into.length > 0)!;
      expect(flood).toMatchObject({ vtep: '10.255.1.1', paths: 4, why: null, unsure: null });
      expect(flood.into).toEqual([flood.about]);
      expect(lineOf(flood.because[0]!)).toMatch(/^vni \d+$|^rd /);
      expect(flood.rd).toMatch(/^10\.255\.0\.5:\d+$/);
      const prefix = evpn('sk-lf-01 type 5').find((r) => r.from !== 'sk-lf-01' && r.into.length > 0)!;
      expect(prefix.about).toMatch(/^10\.\S+\/24 of (soundings|tides)$/);
      expect(prefix.into).toEqual([`VRF ${prefix.about.split(' ').at(-1)}`]);
      const server = evpn('sk-lf-02 type 2').find((r) => r.about.startsWith('soundings-101 '))!;
      expect(server.into.at(-1)).toBe('VRF soundings');
    });
    test('of many the first are looked into, in the same order, and all are counted', () => {
      const all = evpnOf(whole, 'sk-lf-01');
      const few = evpnOf(whole, 'sk-lf-01', undefined, 5);
      if (typeof all === 'string' || typeof few === 'string') throw new Error('no answer');
      expect(few).toEqual({ total: all.routes.length, routes: all.routes.slice(0, 5) });
      expect(all.routes.length).toBeGreaterThan(50);
    });
    test('a spine holds all and uses none; a leaf says why it does not use one', () => {
      const above = evpn('sk-sp-01');
      expect(above.length).toBe(evpn('sk-lf-01').length);
      expect(above.filter((r) => r.into.length > 0)).toEqual([]);
      expect(above.find((r) => r.type === 3)!.why).toMatch(/^it does not carry VNI \d+$/);
      const texts = skerryTexts();
      texts['sk-lf-01']!['frr.conf'] = texts['sk-lf-01']!['frr.conf'].replace(
        /(router bgp \d+ vrf soundings\n(?:.*\n)*? {2}route-target import )\S+/,
        '$165000:1',
      );
      const lost = evpn('sk-lf-01 type 5', texts).filter(
        (r) => r.about.endsWith('of soundings') && r.from !== 'sk-lf-01',
      );
      expect(new Set(lost.map((r) => r.why?.replace(/of sk-\S+/, 'of X')))).toEqual(
        new Set(['no VRF of it imports what soundings of X exports']),
      );
    });
    test('what does not come is not there; what a line that is not understood may keep away is uncertain', () => {
      const cut = skerryTexts();
      cut['sk-lf-02']!['frr.conf'] = cut['sk-lf-02']!['frr.conf'].replace(/^ neighbor p\d+ interface.*\n/gm, '');
      expect(evpn('sk-lf-01', cut).some((r) => r.from === 'sk-lf-02')).toBe(false);
      const doubted = skerryTexts();
      doubted['sk-lf-02']!['frr.conf'] = doubted['sk-lf-02']!['frr.conf'].replace(
        /^(router bgp \d+\n)/m,
        '$1 bgp nonsense 5\n',
      );
      const [unsure, sure] = [evpn('sk-lf-01', doubted), evpn('sk-lf-01')];
      expect(unsure.filter((r) => r.from === 'sk-lf-02').every((r) => /nonsense/.test(r.unsure ?? ''))).toBe(true);
      expect(sure.every((r) => r.unsure === null)).toBe(true);
    });
    test('what leads to an address of its own a switch does not take, and without a route to its VTEP none is told on', () => {
      const twin = skerryTexts();
      for (const file of ['interfaces', 'frr.conf'] as const)
        twin['sk-lf-02']![file] = twin['sk-lf-02']![file].replace(/10\.255\.1\.1(?!\d)/g, '10.255.1.0');
      expect(evpn('sk-lf-01 type 3', twin).filter((r) => r.from === 'sk-lf-02' && r.unsure === null)).toEqual([]);
      // Its IPv4 sessions are closed: spines hear of its networks and tell nobody.
      const mute = skerryTexts();
      mute['sk-lf-02']!['frr.conf'] = mute['sk-lf-02']!['frr.conf'].replace(
        / {2}neighbor FABRIC activate\n(?= {2}redistribute| {2}maximum)/,
        '',
      );
      const from = (host: string): number => evpn(`${host} type 3`, mute).filter((r) => r.from === 'sk-lf-02').length;
      expect(mute['sk-lf-02']!['frr.conf']).not.toBe(skerryTexts()['sk-lf-02']!['frr.conf']);
      expect([from('sk-sp-01') > 0, from('sk-lf-01')]).toEqual([true, 0]);
    });
    test('a VRF that does not advertise brings no prefix, a default route is one of its own, an aggregate goes beside its parts', () => {
      const prefixes = (from: RegExp, to: string): string[] => {
        const texts = skerryTexts();
        const before = texts['sk-lf-01']!['frr.conf'];
        texts['sk-lf-01']!['frr.conf'] = before.replace(from, to);
        if (texts['sk-lf-01']!['frr.conf'] === before) throw new Error('nothing to change');
        return evpn('sk-lf-02 type 5', texts)
          .filter((r) => r.from === 'sk-lf-01' && r.about.endsWith('of soundings'))
          .map((r) => r.about.split(' ')[0]!);
      };
      const within = /(router bgp \d+ vrf soundings\n(?:.*\n)*?) {2}advertise ipv4 unicast\n/;
      const usual = prefixes(within, '$1  advertise ipv4 unicast\n! \n');
      expect(usual.length).toBeGreaterThan(0);
      expect(prefixes(within, '$1')).toEqual([]);
      expect(prefixes(within, '$1  default-originate ipv4\n')).toEqual(['0.0.0.0/0']);
      const tells = /(router bgp \d+ vrf soundings\n(?:.*\n)*? {2}redistribute connected\n)/;
      expect(prefixes(tells, '$1  aggregate-address 10.0.0.0/8 summary-only\n').sort()).toEqual(
        ['10.0.0.0/8', ...usual].sort(),
      );
    });
  });

  test.each([
    ['', /a question is/],
    ['evpn', /a question is/],
    ['evpn sk-lf-01 type 6', /a question is/],
    ['routes', /a question is/],
    ['routes sk-lf-01 to nowhere', /is no address/],
    ['routes sk-lf-01 under x', /a question is/],
    ['hears vni 0', /a question is/],
    ['reach one', /a question is/],
  ])('“%s” is not understood, and how one asks is said', (words, why) =>
    expect(readQuestion(words.split(' '))).toMatch(why),
  );
  test('what is not there is said', () => {
    expect(ask(whole, { ask: 'routes', host: 'gone' })).toBe('there is no switch gone');
    expect(ask(whole, { ask: 'routes', host: 'sk-lf-01', vrf: 'gone' })).toBe('sk-lf-01 has no VRF gone');
    expect(ask(whole, { ask: 'reach', from: 'soundings-101', to: 'gone' })).toBe('there is no server gone');
    expect(ask(whole, { ask: 'vni', vni: 5 })).toBe('no switch carries VNI 5');
    expect(ask(whole, { ask: 'evpn', host: 'gone' })).toBe('there is no switch gone');
  });
});

describe('what two networks answer otherwise', () => {
  const few = withFewServers(whole);
  const without = (host: string, line: RegExp) => {
    const texts = skerryTexts();
    texts[host]!['frr.conf'] = texts[host]!['frr.conf'].replace(line, '');
    return texts;
  };
  test('nothing, between a network and itself', () =>
    expect(networkDifferences(whole, networkFromTexts(skerryTexts()))).toEqual([]));

  test('a session that is closed: its ends, the paths over it, and nothing of servers', () => {
    const closed = networkFromTexts(without('sk-lf-01', / neighbor p49 interface.*\n/g));
    const rows = networkDifferences(whole, closed);
    expect(new Set(rows.map((r) => r.kind))).toEqual(new Set(['session', 'paths']));
    expect(rows).toContainEqual({
      kind: 'paths',
      about: 'paths of sk-lf-01 to 10.255.0.5 of sk-lf-02',
      was: '4',
      is: '3',
    });
    expect(rows.find((r) => r.about === 'session of sk-lf-01 over p49')).toMatchObject({
      was: 'up, ipv4 and evpn',
      is: '',
    });
  });

  test('a filter on one port: calls to it, and no other', () => {
    const texts = skerryTexts();
    const host = 'sk-lf-01';
    const filtered: Record<string, string> = {
      ...texts[host],
      'nftables.conf':
        'table inet an {\n chain f {\n type filter hook forward priority 0\n tcp dport { 5432, 8000-8010 } drop\n }\n}\n',
    };
    const rows = networkDifferences(few, withFewServers(networkFromTexts({ ...texts, [host]: filtered as never })));
    expect(rows.length).toBeGreaterThan(10);
    expect(new Set(rows.map((r) => r.about.split(' by ')[1]))).toEqual(new Set(['tcp 5432', 'tcp 8000–8010']));
    expect(rows.every((r) => r.was === 'yes' && /^no: a filter of sk-lf-01 stops it: rule 1/.test(r.is))).toBe(true);
    const all = { ...filtered, 'nftables.conf': filtered['nftables.conf']!.replace(/tcp dport .* drop/, 'drop') };
    const dropped = networkDifferences(few, withFewServers(networkFromTexts({ ...texts, [host]: all as never })));
    expect(new Set(dropped.filter((r) => r.kind === 'reach').map((r) => r.about.includes(' by ')))).toEqual(
      new Set([false]),
    );
  });

  test('of several steps each row names the last that changed it', () => {
    const one = networkFromTexts(without('sk-lf-01', / neighbor p49 interface.*\n/g));
    const rows = differencesByStep(whole, [
      { by: 'closing p49', network: one },
      {
        by: 'opening it again, and closing one of sk-lf-02',
        network: networkFromTexts(without('sk-lf-02', / neighbor p49 interface.*\n/g)),
      },
    ]);
    expect(rows.find((r) => r.about === 'session of sk-lf-02 over p49')!.by).toMatch(/^opening it again/);
    expect(rows.find((r) => r.about === 'session of sk-lf-01 over p49')).toBeUndefined();
    expect(rows.some((r) => r.about.startsWith('session of sk-lf-01'))).toBe(false);
  });
});
