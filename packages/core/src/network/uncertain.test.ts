import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { networkFromTexts, skerryHosts, skerryTexts, type Texts } from '../testing/skerryFolder.ts';
import { answersOf, type NetworkAnswers } from '../read/answers.ts';

const answers = (texts: Texts): NetworkAnswers => answersOf(networkFromTexts(texts), []);
function damaged(host: string, file: 'interfaces' | 'frr.conf', from: string | RegExp, to: string): Texts {
  const texts = skerryTexts();
  const text = texts[host]![file].replace(from, to);
  if (text === texts[host]![file]) throw new Error(`nothing to damage in ${host}: ${from}`);
  texts[host]![file] = text;
  return texts;
}
/** Every answer that is certain, by what it is about. */
function certain(a: NetworkAnswers): Map<string, string> {
  const out = new Map<string, string>();
  for (const s of a.sessions)
    for (const family of ['ipv4', 'evpn'] as const)
      if (s.families[family].state !== 'uncertain')
        out.set(`session ${s.host} ${s.peer} ${family}`, s.families[family].state);
  for (const r of a.routes) if (r.unsure === null) out.set(`paths ${r.host} ${r.loopback}`, String(r.paths));
  for (const v of a.l2Vnis) if (v.unsure === null) out.set(`vni ${v.host} ${v.vni}`, v.hears.join());
  for (const v of a.l3Vnis) if (v.unsure === null) out.set(`vrf ${v.host} ${v.vrf}`, v.importsFrom.join());
  for (const r of a.reach) if (r.unsure === null) out.set(`reach ${r.from} ${r.to}`, String(r.ok));
  return out;
}
const all = certain(answers(skerryTexts()));
const lost = (texts: Texts): string[] => {
  const left = certain(answers(texts));
  return [...all.keys()].filter((k) => !left.has(k));
};

describe('what is not understood makes uncertain what hangs on it, and nothing else', () => {
  test('of a sound fabric everything is certain', () => {
    const a = answers(skerryTexts());
    const n = a.sessions.length * 2 + a.routes.length + a.l2Vnis.length + a.l3Vnis.length + a.reach.length;
    expect(all.size).toBe(n);
    expect(skerryHosts.length).toBeGreaterThan(20);
  });

  test('a line about the session with one neighbour: both its ends, and path counts that go over it; whom servers reach stays certain', () => {
    const texts = damaged(
      'sk-lf-01',
      'frr.conf',
      / neighbor p49 interface remote-as external\n/,
      '$& neighbor p49 password sounding\n',
    );
    const gone = lost(texts);
    expect(gone.filter((k) => k.startsWith('session'))).toEqual([
      'session sk-sp-01 p1 ipv4',
      'session sk-sp-01 p1 evpn',
      'session sk-lf-01 p49 ipv4',
      'session sk-lf-01 p49 evpn',
    ]);
    expect(gone.filter((k) => /^(vni|vrf|reach)/.test(k))).toEqual([]);
    const paths = gone.filter((k) => k.startsWith('paths'));
    expect(paths.every((k) => /sk-lf-01|10\.255\.[01]\.(4|0)\/32/.test(k))).toBe(true);
    expect(paths).toContain('paths sk-lf-01 10.255.0.5/32');
    expect(answers(texts).sessions.find((s) => s.host === 'sk-sp-01' && s.peer === 'p1')!.families.evpn).toEqual({
      state: 'uncertain',
      reason: expect.stringMatching(/^sk-lf-01 frr\.conf:\d+, “neighbor p49 password …”, is not understood$/) as string,
    });
  });

  test('a line that may change the routes of one neighbour: what may come over it, and nothing else', () => {
    const peer = / neighbor p49 interface remote-as external\n/;
    const gone = lost(damaged('sk-lf-01', 'frr.conf', peer, '$& neighbor p49 capability dynamic\n'));
    expect(gone).toContain('reach soundings-101 soundings-201');
    expect(gone).not.toContain('reach soundings-201 echo-301');
    expect(gone).not.toContain('paths sk-lf-02 10.255.0.6/32');
  });

  test('a line about the group of all neighbours: everything that is routed over the switch', () => {
    const gone = lost(
      damaged('sk-lf-01', 'frr.conf', / neighbor FABRIC bfd\n/, '$& neighbor FABRIC maximum-prefix-out 1\n'),
    );
    expect(gone).toContain('reach soundings-101 soundings-201');
    expect(gone).toContain('vrf sk-lf-02 soundings');
    // Nobody needs this switch on the way to another.
    expect(gone).not.toContain('paths sk-lf-02 10.255.0.6/32');
    expect(gone).not.toContain('reach soundings-201 echo-301');
  });

  test.each([
    ['a port', 'interfaces', /(iface p1\n)/, '$1    ipv6-addrgen off\n', /^reach (soundings-101 |\S+ soundings-101$)/],
    ['a VNI', 'frr.conf', /( {2}vni 10006\n)/, '$1   flood-control x\n', /^(vni \S+ 10006|reach .*)$/],
    [
      'a VRF',
      'frr.conf',
      /(router bgp \d+ vrf soundings\n)/,
      '$1 bgp max-med administrative\n',
      /^(vrf \S+ soundings|reach .*)$/,
    ],
    [
      'a VLAN interface',
      'interfaces',
      /(iface vlan210\n)/,
      '$1    vrrp 5 10.0.0.9/24\n',
      /^(vrf \S+ soundings|reach .*)$/,
    ],
    [
      'a map of what EVPN tells of a VRF',
      'frr.conf',
      /(router bgp \d+ vrf soundings\n(?:.*\n)*? {2}advertise ipv4 unicast)\n/,
      'route-map M permit 10\n match probability 50\nexit\n$1 route-map M\n',
      /^(vrf \S+ soundings|reach .*)$/,
    ],
    [
      'a map of what a VRF tells of its own',
      'frr.conf',
      /(router bgp \d+ vrf soundings\n(?:.*\n)*? {2}redistribute connected)\n/,
      'route-map M permit 10\n match probability 50\nexit\n$1 route-map M\n',
      /^(vrf \S+ soundings|reach .*)$/,
    ],
    ['the bridge', 'interfaces', /(iface bridge\n)/, '$1    bridge-vlan-vni-map 10=10\n', /^(vni|vrf|reach)/],
  ] as const)('a line of %s', (_what, file, from, to, only) => {
    const gone = lost(damaged('sk-lf-01', file, from, to));
    expect(gone.length).toBeGreaterThan(0);
    expect(gone.filter((k) => !only.test(k))).toEqual([]);
  });

  test('a list that is not understood counts where it is asked, and nowhere else', () => {
    const list = 'access-list 101 permit ip any any\n';
    expect(lost(damaged('sk-lf-01', 'frr.conf', /^bfd\n/m, `${list}bfd\n`))).toEqual([]);
    const asked = `${list}route-map M permit 10\n match ip address 101\nexit\n`;
    const own = /(router bgp \d+ vrf soundings\n(?:.*\n)*? {2}redistribute connected)\n/;
    const gone = lost(damaged('sk-lf-01', 'frr.conf', own, `${asked}$1 route-map M\n`));
    expect(gone).toContain('vrf sk-lf-02 soundings');
    expect(gone.filter((k) => !/^(vrf \S+ soundings|reach .*)$/.test(k))).toEqual([]);
  });

  test('a line of a VLAN interface doubts its VRF there too', () => {
    const gone = lost(damaged('sk-lf-01', 'interfaces', /(iface vlan210\n)/, '$1    vrrp 5 10.0.0.9/24\n'));
    expect(gone).toContain('vrf sk-lf-02 soundings');
    expect(gone.some((k) => k.startsWith('vrf') && k.endsWith('tides'))).toBe(false);
  });

  test('a line that nobody knows, outside of all blocks, doubts the whole switch; one that the daemon refuses, nothing', () => {
    const gone = lost(damaged('sk-lf-01', 'frr.conf', /^bfd\n/m, 'mysterious words\nbfd\n'));
    for (const k of ['session sk-lf-01 p49 ipv4', 'reach soundings-101 echo-301', 'vni sk-lf-02 10006'])
      expect(gone).toContain(k);
    expect(gone).not.toContain('session sk-lf-02 p49 ipv4');
    expect(lost(damaged('sk-lf-01', 'frr.conf', /^bfd\n/m, 'router bgp 0\nbfd\n'))).toEqual([]);
  });

  test('what stays certain is what it would be if the lines had closed their sessions, in any combination', () => {
    const hosts = Object.keys(skerryTexts());
    const ends = hosts.flatMap((host) =>
      [...skerryTexts()[host]!['frr.conf'].matchAll(/ neighbor (\S+) interface remote-as/g)].map((m) => [host, m[1]!]),
    );
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom(...ends), fc.boolean()), { minLength: 1, maxLength: 6 }),
        (doubted) => {
          const texts = { unknown: skerryTexts(), done: skerryTexts() };
          for (const [[host, peer], closes] of doubted) {
            const add = (t: Texts, line: string): void => {
              const at = new RegExp(`( neighbor ${peer} interface remote-as .*\n)`);
              t[host!]!['frr.conf'] = t[host!]!['frr.conf'].replace(at, `$1 neighbor ${peer} ${line}\n`);
            };
            add(texts.unknown, 'strange words');
            if (closes) add(texts.done, 'shutdown');
          }
          const really = certain(answers(texts.done));
          for (const [what, said] of certain(answers(texts.unknown)))
            expect([what, really.get(what)]).toEqual([what, said]);
        },
      ),
      { numRuns: 20 },
    );
  });
});
