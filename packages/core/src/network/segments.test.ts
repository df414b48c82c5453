import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { journeys } from '../ask/journeys.ts';
import { esiOf } from '../config/pairing.ts';
import { linux } from '../dialects/linux/linux.ts';
import { findingsIn, networkFromTexts, skerryHosts, skerryTexts, type Texts } from '../testing/skerryFolder.ts';
import { hostReach, waysBetween } from './multihoming.ts';
import type { NetworkModel } from './networkModel.ts';
import { forwardsFloods, segmentsIn } from './segments.ts';

const [A, B] = ['sk-lf-07a', 'sk-lf-07b'];
/** A server of both, another in its network on one switch, one that is routed to. */
const both = skerryHosts.find((h) => h.switch === A)!;
const beside = skerryHosts.find((h) => h.vlan === both.vlan && h.switch === 'sk-lf-02')!;
const routed = skerryHosts.find((h) => h.host.startsWith('echo-') && h.switch === 'sk-lf-03')!;

type Damage = (texts: Texts) => void;
const change =
  (host: string, file: 'interfaces' | 'frr.conf', from: RegExp, to: string): Damage =>
  (texts) => {
    const before = texts[host]![file];
    texts[host]![file] = before.replace(from, to);
    if (texts[host]![file] === before) throw new Error(`nothing to change in ${host} ${file}`);
  };
const network = (...damages: readonly Damage[]): NetworkModel => {
  const texts = skerryTexts();
  for (const d of damages) d(texts);
  return networkFromTexts(texts);
};
const closed = (host: string): Damage => change(host, 'interfaces', /iface p1\n/, 'iface p1\n    link-down yes\n');
const strange = (host: string): Damage =>
  change(host, 'interfaces', /(iface bond1\n(?: .*\n)*? +bridge-access) \d+/, '$1 999');
const preferring = (host: string, preference: number): Damage =>
  change(host, 'frr.conf', / evpn mh es-id 1\n/, ` evpn mh es-id 1\n evpn mh es-df-pref ${preference}\n`);
/** All its links up are closed at their far ends. */
const cutOff = (host: string): Damage => {
  const port = host === A ? 7 : 8;
  return (texts) => {
    for (const spine of ['sk-sp-01', 'sk-sp-02', 'sk-sp-03', 'sk-sp-04'])
      change(spine, 'interfaces', new RegExp(`iface p${port}\\n`), `iface p${port}\n    link-down yes\n`)(texts);
  };
};
const untracked = (host: string): Damage => change(host, 'frr.conf', / evpn mh uplink\n/g, '');
const deaf: Damage = change(B, 'frr.conf', /router bgp 65117/g, 'router bgp 65116');

const reach = (m: NetworkModel, a = both, b = beside): [boolean, string | null] => {
  const { ok, unsure } = hostReach(m, a, b);
  return [ok, unsure];
};
const OK = [true, null];
const ends = (m: NetworkModel) =>
  [...segmentsIn(m).values()][0]!.map((e) => [e.host, e.down === null, forwardsFloods(m, e)]);

describe('Ethernet segments', () => {
  test('their ten bytes are a type, the MAC of the system and a number, or as they are said (RFC 7432 §5)', () => {
    expect(esiOf({ number: 258, systemMac: '02:ae:fd:e8:00:07' })).toBe('03:02:ae:fd:e8:00:07:00:01:02');
    expect(esiOf({ esi: '00:11:22:33:44:55:66:77:88:99' })).toBe('00:11:22:33:44:55:66:77:88:99');
    expect([...segmentsIn(network()).keys()][0]).toBe('03:02:ae:fd:e8:00:07:00:00:01');
  });

  test('of two LAGs of one switch with one segment FRR refuses the second, which keeps what it had; ten bytes take the place of a number', () => {
    const read = (from: RegExp, to: string) => {
      const texts = skerryTexts();
      change(B, 'frr.conf', from, to)(texts);
      const { config, unread } = linux.parse(texts[B]!);
      return { lag: config.lags[1]!, unread: unread.map((u) => `${u.line} ${u.why}`) };
    };
    const twice = read(/es-id 2\n/, 'es-id 1\n');
    expect(twice.lag.segment).toBeUndefined();
    expect(twice.unread).toEqual([expect.stringMatching(/^\d+ that segment is LAG 1’s already$/)]);
    const whole = read(
      /( evpn mh es-sys-mac .*\n)(?=exit\n!\ninterface bond3)/,
      '$1 evpn mh es-id 00:11:22:33:44:55:66:77:88:99\n',
    );
    expect(whole).toMatchObject({ lag: { segment: { esi: '00:11:22:33:44:55:66:77:88:99' } }, unread: [] });
    for (const bad of [
      'es-id 0',
      'es-id 16777216',
      'es-id ff:ff:ff:ff:ff:ff:ff:ff:ff:ff',
      'es-df-pref 0',
      'es-df-pref 65536',
    ])
      expect(read(/ evpn mh es-id 2\n/, ` evpn mh es-id 2\n evpn mh ${bad}\n`).unread).toHaveLength(1);
  });

  test.each<[string, readonly Damage[], unknown]>([
    [
      'of equal ends that with the lowest VTEP',
      [],
      [
        [A, true, true],
        [B, true, false],
      ],
    ],
    [
      'the one that is preferred',
      [preferring(B, 40000)],
      [
        [A, true, false],
        [B, true, true],
      ],
    ],
    [
      'less than what is usual is less',
      [preferring(A, 32766)],
      [
        [A, true, false],
        [B, true, true],
      ],
    ],
    [
      'the one that is left, where a port is shut',
      [closed(A)],
      [
        [A, false, false],
        [B, true, true],
      ],
    ],
    [
      'the one that is left, where all links up of the other are dark',
      [cutOff(A)],
      [
        [A, false, false],
        [B, true, true],
      ],
    ],
    [
      'both, where they do not hear each other',
      [deaf],
      [
        [A, true, true],
        [B, true, true],
      ],
    ],
    [
      'neither, where both are shut',
      [closed(A), closed(B)],
      [
        [A, false, false],
        [B, false, false],
      ],
    ],
  ])('who forwards what is flooded: %s', (_, damages, wanted) => expect(ends(network(...damages))).toEqual(wanted));

  test('two that do not hear each other forward everything twice: said once, at the one that hears less', () => {
    const texts = skerryTexts();
    deaf(texts);
    const found = findingsIn(texts).filter((f) => f.rule === 'segment-elects-one');
    expect(found.map((f) => f.message)).toEqual([
      expect.stringMatching(
        /sk-lf-07a and sk-lf-07b both forward what is flooded to segment .* and to 5 more, so that servers get twice what sk-lf-01 floods: sk-lf-07b hears no EVPN route of sk-lf-07a/,
      ),
    ]);
    expect(findingsIn(skerryTexts())).toEqual([]);
  });
});

describe('servers of two switches', () => {
  test('packets come by both and go by both, and from a switch of theirs by that alone', () => {
    const m = network();
    const by = (a = both, b = beside) =>
      waysBetween(m, a, b).map((w) => [w.asks.map((h) => h.switch).join(), w.tells.map((h) => h.switch).join()]);
    expect(by()).toEqual([
      [`${A},sk-lf-02`, `sk-lf-02,${A}`],
      [`${B},sk-lf-02`, `sk-lf-02,${B}`],
    ]);
    const neighbour = skerryHosts.find((h) => h.switch === A && h !== both)!;
    expect(by(both, neighbour)).toEqual([
      [`${A},${A}`, `${A},${A}`],
      [`${B},${B}`, `${B},${B}`],
    ]);
  });

  test.each<[string, readonly Damage[], unknown]>([
    ['all is well', [], OK],
    ['the port at the one it is listed at is shut', [closed(A)], OK],
    ['that at the other is', [closed(B)], OK],
    ['both are', [closed(A), closed(B)], [false, null]],
    ['one has lost all links up, and takes its ports down', [cutOff(A)], OK],
    [
      'one has lost all links up, and does not',
      [cutOff(A), untracked(A)],
      [false, expect.stringContaining(`by ${A} and sk-lf-0`)],
    ],
    [
      'one does not carry its VLAN',
      [strange(B)],
      [false, expect.stringContaining('port p1 of sk-lf-07b does not carry VLAN 210')],
    ],
    ['the one that does not is shut', [strange(B), closed(B)], OK],
  ])('where %s', (_, damages, wanted) => {
    const m = network(...damages);
    expect(reach(m)).toEqual(wanted);
    expect(reach(m, both, routed)).toEqual(wanted);
  });

  test('what is asked of it goes to the end that carries its VLAN; what is flooded, to the one that is elected', () => {
    // Others do not use the end that tells them of no VLAN (RFC 7432 §8.4), and it answers by either.
    const answers = (m: NetworkModel) => hostReach(m, routed, both).how;
    expect(answers(network(strange(B)))).toMatch(/^the answer stops: port p1 of sk-lf-07b does not carry/);
    const lost = hostReach(network(strange(A), closed(B)), beside, both);
    expect([lost.ok, lost.how]).toEqual([false, 'port p1 of sk-lf-07a does not carry VLAN 210']);
  });

  test('a line that says otherwise how ends are known doubts servers of several switches, and nothing else', () => {
    const m = network(change(B, 'frr.conf', /( {2}advertise-all-vni\n)/, '$1  disable-ead-evi-tx\n'));
    expect(reach(m)[1]).toContain('“disable-ead-evi-tx”, is not understood');
    expect(reach(m, beside, routed)).toEqual(OK);
  });

  test('a question shows the way by the end that is up', () => {
    const answer = journeys(network(closed(A)), both.host, beside.host);
    if (typeof answer === 'string') throw new Error(answer);
    expect(answer).toMatchObject({ ok: true, unsure: null });
    expect(answer.ways.map((w) => [w.hops[0]!.at, w.hops.at(-1)!.at])).toEqual([
      [[B], ['sk-lf-02']],
      [['sk-lf-02'], [B]],
    ]);
  });

  test('whatever is wrong at the ends, what is certain holds by each end that is up', () => {
    const damages = [
      closed(A),
      closed(B),
      strange(A),
      strange(B),
      cutOff(A),
      cutOff(B),
      untracked(A),
      untracked(B),
      deaf,
    ];
    fc.assert(
      fc.property(fc.subarray(damages), (some) => {
        const m = network(...some);
        for (const to of [beside, routed]) {
          const [ok, unsure] = reach(m, both, to);
          const fares = waysBetween(m, both, to).map(
            (w) => (w.both.there.trouble ?? w.both.back?.trouble ?? null) === null,
          );
          if (unsure === null) expect(new Set(fares)).toEqual(new Set([ok]));
          else expect(ok && !fares.includes(false) && !unsure.includes('forwards what is flooded')).toBe(false);
        }
      }),
      { numRuns: 40 },
    );
  });
});
