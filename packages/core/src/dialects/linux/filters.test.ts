import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { FilterRule } from '../../config/filters.ts';
import { blankConfig } from '../../config/sections.ts';
import { placeKey } from '../../config/switchConfig.ts';
import { configsOf, intents } from '../../testing/fabricOf.ts';
import { filtersOf } from '../../testing/filtersOf.ts';
import { hostsOf } from '../../compile/servers.ts';
import { filtered } from '../../network/filters.ts';
import { linux } from './linux.ts';

const read = (text: string) => linux.parse({ interfaces: '', 'frr.conf': '', 'nftables.conf': text });
/** One rule within a chain that is asked of what goes through. */
const within = (rule: string, layer = 'inet', before = ''): string =>
  [
    `${before}table ${layer} an_t {`,
    ' set an_a { type ipv4_addr; flags interval; elements = { 10.1.0.0/24, 10.2.0.1 } }',
    ' set an_p { type inet_service; elements = { 80, 90-95 } }',
    ' set an_more { type ipv4_addr; flags dynamic; }',
    ' chain an_b {',
    ' }',
    ' chain an_c {',
    '  type filter hook forward priority 0; policy accept;',
    `  ${rule}`,
    ' }',
    '}',
    '',
  ].join('\n');
const rulesOf = (text: string): readonly FilterRule[] =>
  read(text).config.filters![0]!.chains.find((c) => c.name === 'an_c')!.rules;
const one = (from: number, to = from) => ({ from, to });
const TCP = { field: 'protocol', ranges: [one(6)] };

describe('filters of nftables.conf', () => {
  test('what is written reads back as the same, whatever the filters of random switches', () => {
    fc.assert(
      fc.property(
        intents.filter((i) => i.ports.length > 0),
        fc.nat(),
        (intent, seed) => {
          const { configs, layout, drawn } = configsOf(intent);
          const hosts = hostsOf(intent, layout, drawn.values);
          fc.pre(hosts.length > 0);
          const all = [...configs.values()];
          const config = all[seed % all.length]!;
          const [filters] = fc.sample(filtersOf(config, hosts), { numRuns: 1, seed });
          const back = linux.parse(linux.render({ ...config, filters: filters! }).files);
          expect(back.unread).toEqual([]);
          expect(back.config).toEqual({ ...config, filters });
        },
      ),
      { numRuns: 60 },
    );
  });

  test.each([
    [
      'tcp dport { 22, 8000-8010, https } accept',
      [TCP, { field: 'targetPort', ranges: [one(22), one(8000, 8010), one(443)] }],
    ],
    ['ip saddr 10.1.1.9/24 drop', [{ field: 'source', ranges: [one(0x0a010100, 0x0a0101ff)] }]],
    [
      'ip daddr != { 10.1.1.1 - 10.1.1.9, 10.2.0.0/16 } drop',
      [{ field: 'target', not: true, ranges: [one(0x0a010101, 0x0a010109), one(0x0a020000, 0x0a02ffff)] }],
    ],
    [
      'ip saddr @an_a tcp sport @an_p drop',
      [{ field: 'source', set: 'an_a' }, TCP, { field: 'sourcePort', set: 'an_p' }],
    ],
    [
      'udp dport < 1024 drop',
      [
        { field: 'protocol', ranges: [one(17)] },
        { field: 'targetPort', ranges: [one(0, 1023)] },
      ],
    ],
    [
      'ct state established,related counter packets 3 bytes 4 accept comment "known"',
      [{ field: 'state', words: ['established', 'related'] }],
    ],
    [
      'iifname "vlan*" oifname { "vlan10", vlan20 } log prefix "x: " accept',
      [
        { field: 'in', words: ['vlan*'] },
        { field: 'out', words: ['vlan10', 'vlan20'] },
      ],
    ],
    [
      'meta sdifname "vlan10" ip protocol icmp icmp type echo-request accept',
      [
        { field: 'inMember', words: ['vlan10'] },
        { field: 'family', words: ['ip'] },
        { field: 'protocol', ranges: [one(1)] },
        { field: 'icmpType', ranges: [one(8)] },
      ],
    ],
    ['iif lo accept', [{ field: 'in', words: ['lo'] }]],
  ])('%s', (line, matches) => {
    expect(read(within(line)).unread).toEqual([]);
    expect(rulesOf(within(line))[0]!.matches).toEqual(matches);
  });

  test('a map of verdicts is a rule for each of its values, a define its value', () => {
    const text = within('tcp dport vmap { 22 : accept, 80-90:jump an_b, $web : drop }', 'inet', 'define web = 443\n');
    expect(rulesOf(text).map((r) => [r.number, r.matches.at(-1)!.ranges, r.verdict])).toEqual([
      [1, [one(22)], { does: 'accept' }],
      [2, [one(80, 90)], { does: 'jump', chain: 'an_b' }],
      [3, [one(443)], { does: 'drop' }],
    ]);
  });

  // Each was loaded into nft 1.0.6, which refuses it; the twin beside it is taken.
  test.each([
    ['jump an_x', 'jump an_b', /an_x, which is no chain/],
    ['ip saddr @an_x drop', 'ip saddr @an_a drop', /no set an_x/],
    ['ip saddr @an_p drop', 'tcp dport @an_p drop', /does not hold/],
    ['ip saddr $x drop', 'ip saddr 10.0.0.1 drop', /\$x is not defined/],
    ['accept drop', 'accept', /after what decides/],
    ['policy drop', 'drop', /one policy/],
    ['tcp dport { 22 } }', 'tcp dport { 22 }', /end before a block/],
    ['tcp dport 22 udp dport 53 drop', 'tcp dport 22 meta l4proto udp drop', /another protocol/],
    ['meta l4proto { tcp, udp } tcp dport 22 drop', 'meta l4proto { tcp, udp } th dport 22 drop', /another protocol/],
    ['meta nfproto ipv6 ip saddr 10.0.0.1 drop', 'meta protocol ip6 ip saddr 10.0.0.1 drop', /another family/],
  ])('%s is refused whole, and nothing of the file counts; %s is not', (wrong, right, why) => {
    const { config, unread } = read(within(wrong));
    expect(config.filters).toBeUndefined();
    expect(unread).toHaveLength(1);
    expect(unread[0]!.why).toMatch(why);
    expect(unread[0]!.doubts).toBeUndefined();
    expect(read(within(right)).config.filters).toHaveLength(1);
  });
  test('chains that lead in a circle are refused where a packet may come there', () => {
    const circle = (hook: string): string =>
      `table inet an_t {\n chain an_a {\n${hook}  jump an_b\n }\n chain an_b {\n  jump an_a\n }\n}\n`;
    expect(read(circle('  type filter hook forward priority 0\n')).unread[0]!.why).toMatch(/leads back to itself/);
    expect(read(circle('')).unread).toEqual([]);
  });

  test('fifteen chains may lead on from one another, sixteen are refused; however they meet, each is looked at once', () => {
    const chain = (n: number, of: number): string =>
      ` chain an_${n} {\n${n < of ? `  jump an_${n + 1}\n`.repeat(9) : '  drop\n'} }\n`;
    const deep = (of: number): string =>
      `table inet an_t {\n${Array.from({ length: of }, (_, i) => chain(of - i, of)).join('')} chain an_base {\n  type filter hook forward priority 0\n  jump an_1\n }\n}\n`;
    expect(read(deep(15)).unread).toEqual([]);
    expect(read(deep(16)).unread[0]!.why).toMatch(/more than 15 chains lead on/);
    const { config } = read(deep(15));
    const at = { host: 'x', layer: 'routed', hook: 'forward', out: null } as const;
    const { trouble, unsure } = filtered({ host: 'x', config, unread: [] }, { family: 'ip', states: ['new'] }, at);
    expect([trouble?.words, unsure]).toEqual(['a filter of x stops it: rule 1 of chain an_15 in inet an_t', null]);
  });

  test('what is not understood doubts its rule, its table or all; what stands before it in the rule still counts', () => {
    const text = within('ip saddr 10.9.0.0/16 limit rate 5/second drop');
    const { unread } = read(text);
    expect(unread.map((u) => [u.line, placeKey(u.doubts!)])).toEqual([
      [9, 'filters\ninet an_t\nchains\nan_c\nrules\n1'],
    ]);
    expect(rulesOf(text)[0]).toMatchObject({ matches: [{ field: 'source' }], verdict: { does: 'drop' } });
    const doubts = (other: string) => read(other).unread.map((u) => u.doubts);
    expect(doubts('include "/etc/more.nft"\n')).toEqual([['filters']]);
    expect(doubts('table netdev an_x {\n}\n')).toEqual([['filters']]);
    expect(doubts('table ip an_n {\n chain an_n {\n  type nat hook postrouting priority srcnat\n }\n}\n')).toEqual([
      ['filters', 'ip an_n'],
    ]);
    // Members of this set come and go.
    expect(doubts(within('ip saddr @an_more drop'))).toHaveLength(1);
    expect(doubts(within('ct state established accept', 'bridge'))).toHaveLength(1);
    // What is loaded on an empty switch takes nothing away.
    expect(doubts('#!/usr/sbin/nft -f\nflush ruleset\ntable inet an_t {\n}\n')).toEqual([]);
  });

  test('nothing that is cut out of a text, or put into it, ends the reader', () => {
    const text = within('tcp dport { 22, 80 } ip saddr @an_a log prefix "a b" accept');
    fc.assert(
      fc.property(
        fc.nat(text.length),
        fc.nat(30),
        fc.string({ maxLength: 6, unit: fc.constantFrom(...'{};"\\$@,-! \n0a.') }),
        (at, cut, put) => {
          const { config, unread } = read(text.slice(0, at) + put + text.slice(at + cut));
          expect(config.hostname).toBe(blankConfig('').hostname);
          for (const u of unread) expect(u.line).toBeGreaterThan(0);
        },
      ),
      { numRuns: 300 },
    );
  });
});
