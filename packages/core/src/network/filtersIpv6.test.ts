import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { linux } from '../dialects/linux/linux.ts';
import { dualSkerry } from '../testing/dualSkerry.ts';
import { filtersOf } from '../testing/filtersOf.ts';
import type { Ipv6Choices } from '../testing/ipv6Of.ts';
import { PING, type Traffic } from './traffic.ts';
import type { Reach } from './hostReach.ts';
import { sessionDoubt } from './modelDoubts.ts';
import { hostReach } from './multihoming.ts';
import type { HostPort, NetworkModel } from './networkModel.ts';
import { ospf6Of } from './ospf6.ts';

const WEB: Traffic = { protocol: 'tcp', port: 443 };
const OK = [true, null];
const whole = dualSkerry();
const six = (name: string): HostPort => whole.hosts.find((h) => h.host === name && h.ip.includes(':'))!;
const near = six('soundings-101');
const same = whole.hosts.find((h) => h.ip.includes(':') && h.vlan === near.vlan && h.switch !== near.switch)!;
const routed = six('echo-301');
const twin = (h: HostPort): HostPort => whole.hosts.find((o) => o.host === h.host && !o.ip.includes(':'))!;

const chain = (rules: string, policy = 'accept', layer = 'inet', hook = 'forward'): string =>
  `table ${layer} an_t {\n chain an_c {\n  type filter hook ${hook} priority 0; policy ${policy};\n${rules
    .split('\n')
    .map((r) => `  ${r}\n`)
    .join('')} }\n}\n`;
const reach = (filters: Readonly<Record<string, string>>, to = routed, traffic = WEB, from = near): Reach =>
  hostReach(dualSkerry({}, {}, filters), from, to, traffic);
const passes = ({ ok, unsure }: Reach): [boolean, string | null] => [ok, unsure];

describe('filters of IPv6', () => {
  test('addresses, subnets, ranges, ports and pings are told apart, and those of IPv4 do not count', () => {
    const through = (rule: string, traffic = WEB) =>
      passes(reach({ [near.switch]: chain(`${rule} drop`) }, routed, traffic));
    expect(through(`ip6 saddr ${near.ip} tcp dport 443`)).toEqual([false, null]);
    expect(through(`ip6 saddr ${near.ip} tcp dport 444`)).toEqual(OK);
    expect(through(`ip6 saddr ${near.ip}-${near.ip}`)).toEqual([false, null]);
    expect(through(`ip6 daddr 2001:db8::/32`)).toEqual([false, null]);
    expect(through(`ip6 daddr != 2001:db8::/32`)).toEqual(OK);
    expect(through(`ip6 daddr 2001:db9::/32`)).toEqual(OK);
    expect(through(`ip saddr 0.0.0.0/0`)).toEqual(OK);
    expect(through('icmpv6 type echo-request', PING)).toEqual([false, null]);
    expect(through('icmpv6 type echo-request')).toEqual(OK);
    expect(through('icmp type echo-request', PING)).toEqual(OK);
    expect(passes(reach({ [near.switch]: chain('tcp dport 443 drop', 'accept', 'ip') }))).toEqual(OK);
    expect(passes(reach({ [near.switch]: chain('tcp dport 443 drop', 'accept', 'ip6') }))).toEqual([false, null]);
    expect(reach({ [near.switch]: chain('icmpv6 type echo-reply drop') }, routed, PING).how).toMatch(
      /^the answer stops: a filter of sk-lf-\d+ stops it: rule 1 of chain an_c in inet an_t$/,
    );
  });

  test('a rule with an address that is none is not understood', () => {
    expect(reach({ [near.switch]: chain('ip6 saddr 2001:db8::zz drop') }).unsure).toMatch(
      /2001:db8::zz drop”, is not understood/,
    );
  });

  test('who has an address must be asked and answered: by packets as others are, not by frames of their own', () => {
    const own = 'tcp dport 179 accept\ntcp sport 179 accept\nudp dport 4789 accept\n';
    const input = (rules: string, traffic = WEB) =>
      reach({ [near.switch]: chain(own + rules, 'drop', 'inet', 'input') }, routed, traffic);
    const asked = (types: string) => input(`icmpv6 type { nd-router-advert, ${types} } accept`);
    expect(passes(asked('nd-neighbor-solicit, nd-neighbor-advert'))).toEqual(OK);
    // Sessions of the fabric hang on it as well.
    expect(asked('nd-neighbor-advert').ok).toBe(false);
    const vlan = (type: string) =>
      reach({
        [near.switch]: chain(`meta sdifname "vlan${near.vlan}" icmpv6 type ${type} drop`, 'accept', 'inet', 'input'),
      });
    expect(passes(vlan('nd-neighbor-solicit'))).toEqual([false, null]);
    // It was heard when it asked: what it answers is not needed, for a time.
    expect(vlan('nd-neighbor-advert').unsure).toMatch(/but its end may be known already$/);
    const bridged = (type: string, to = same) =>
      passes(reach({ [near.switch]: chain(`icmpv6 type ${type} drop`, 'accept', 'bridge') }, to));
    expect(bridged('nd-neighbor-solicit')).toEqual([false, null]);
    expect(bridged('nd-neighbor-solicit', routed)).toEqual(OK);
    expect(passes(reach({ [near.switch]: chain('ether type arp drop', 'accept', 'bridge') }, same))).toEqual(OK);
    expect(passes(reach({ [near.switch]: chain('ether type ip6 drop', 'accept', 'bridge') }, same))).toEqual([
      false,
      null,
    ]);
  });

  test('sessions between addresses of IPv6 need no advertisement of a router, and both to find each other', () => {
    const choices = { links: 'addressed', sessions: 'own' } satisfies Partial<Ipv6Choices>;
    const state = (rules: string) => {
      const m = dualSkerry(choices, {}, { [near.switch]: chain(rules, 'drop', 'inet', 'input') });
      const own = m.sessions.filter((s) => s.host === near.switch && s.peer.includes(':'));
      expect(own.length).toBeGreaterThan(0);
      return own.map((s) => (sessionDoubt(m, s) !== null ? 'uncertain' : s.up ? 'up' : 'down'));
    };
    const find = 'icmpv6 type { nd-neighbor-solicit, nd-neighbor-advert } accept';
    expect(new Set(state(`tcp dport 179 accept\n${find}`))).toEqual(new Set(['up']));
    expect(new Set(state('tcp dport 179 accept'))).toEqual(new Set(['down']));
    expect(new Set(state(`ip6 saddr 2001:db8::/16 tcp dport 179 accept\n${find}`))).toEqual(new Set(['up']));
    expect(new Set(state(`ip6 saddr fe80::/10 tcp dport 179 accept\n${find}`))).toEqual(new Set(['down']));
  });

  test('neighbours by OSPFv3 hear one another where their protocol is let in', () => {
    const near3 = (rules: string): (string | null)[] => {
      const m: NetworkModel = dualSkerry({ led: 'ospf' }, {}, { [near.switch]: chain(rules, 'drop', 'inet', 'input') });
      return ospf6Of(m)!.adjacencies.flatMap((a) => (a.host === near.switch ? [a.reason] : []));
    };
    expect(new Set(near3('meta l4proto { 58, 89 } accept\ntcp dport 179 accept'))).toEqual(new Set([null]));
    expect(near3('tcp dport 179 accept').every((r) => r?.startsWith(`a filter of ${near.switch} stops it`))).toBe(true);
  });

  test('what does not speak of a family does to IPv6 what it does to IPv4', () => {
    const of = (host: string) => whole.views.get(host)!.config;
    const NEUTRAL = new Set(['protocol', 'sourcePort', 'targetPort', 'in', 'inMember', 'out', 'state']);
    const tables = fc
      .constantFrom(near.switch, routed.switch, 'sk-sp-01')
      .chain((at) => filtersOf(of(at), [near, twin(near), routed, twin(routed)]).map((all) => ({ at, all })))
      .map(({ at, all }) => ({
        at,
        all: all
          .filter((t) => t.layer === 'inet' && t.name === 'an_fabric')
          .map((t) => ({
            ...t,
            chains: t.chains.map((c) => ({
              ...c,
              rules: c.rules.filter((r) => r.matches.every((m) => NEUTRAL.has(m.field) && m.set === undefined)),
            })),
          })),
      }))
      .filter(({ all }) => all.length > 0);
    let stopped = 0;
    fc.assert(
      fc.property(tables, ({ at, all }) => {
        const text = linux.render({ ...of(at), filters: all }).files['nftables.conf']!;
        const m = dualSkerry({}, {}, { [at]: text });
        for (const [a, b] of [
          [near, routed],
          [routed, near],
          [near, same],
        ] as const)
          for (const traffic of [WEB, { protocol: 'udp', port: 53 }] as const) {
            const [first, second] = [hostReach(m, a, b, traffic), hostReach(m, twin(a), twin(b), traffic)];
            if (!first.ok) stopped++;
            expect([first.ok, first.unsure === null], `${a.host} ${b.host} ${text}`).toEqual([
              second.ok,
              second.unsure === null,
            ]);
          }
      }),
      { numRuns: 40, seed: 7 },
    );
    expect(stopped).toBeGreaterThan(0);
  });
});
