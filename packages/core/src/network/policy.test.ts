import { describe, expect, test } from 'vitest';
import { linux } from '../dialects/linux/linux.ts';
import type { Prefix } from '../numbers/ipv4.ts';
import { mapPolicy } from './policy.ts';
import { numbersOf, OWN_ATTRIBUTES, prepended, type Attributes } from './routes.ts';

const PREFIX = { address: 10 * 2 ** 24, length: 32 };
const OWN = OWN_ATTRIBUTES;

describe('route maps', () => {
  const LISTS =
    'ip prefix-list TEN seq 5 permit 10.0.0.0/8 le 32\nbgp community-list standard SEVEN permit 65000:7\nbgp large-community-list standard SEVEN permit 65000:1:7\nbgp extcommunity-list standard SEVEN permit rt 65000:7 soo 65000:8\nbgp as-path access-list TWICE permit _65001_65001_\n';
  const through = (text: string, a: Partial<Attributes> = {}, prefix = PREFIX): Attributes | null => {
    const { config, unread } = linux.parse({ interfaces: '', 'frr.conf': LISTS + text });
    expect(unread).toEqual([]);
    return mapPolicy(config, 'M', '192.0.2.1')({ ...OWN, ...a }, prefix);
  };
  const twice = prepended(65001, prepended(65001, null));
  const elsewhere = { address: 11 * 2 ** 24, length: 32 };
  /** A map that asks an access list, each as it was seen on FRR 8.4.4. */
  const accessRows = (rows: readonly (readonly [string, string, Prefix, boolean])[]) =>
    rows.map(
      ([what, lists, prefix, through_]) =>
        [
          `an access list: ${what}`,
          `${lists}route-map M permit 10\n match ip address A\n`,
          {},
          prefix,
          through_ ? {} : null,
        ] as const,
    );

  const MANY = '65000:1 65000:20 65001:7 no-export';
  /** A list with one expression, asked about many communities as it was on FRR 8.4.4. */
  const patternRows = (rows: readonly (readonly [string, boolean])[]) =>
    rows.map(
      ([pattern, taken]) =>
        [
          `communities by the expression ${pattern}`,
          `bgp community-list expanded E permit ${pattern}\nroute-map M permit 10\n match community E\n`,
          { communities: MANY },
          PREFIX,
          taken ? {} : null,
        ] as const,
    );

  test.each([
    [
      'what no entry permits is denied',
      'route-map M permit 10\n match ip address prefix-list TEN\n',
      {},
      elsewhere,
      null,
    ],
    ['an entry without a match takes all', 'route-map M permit 10\n', {}, elsewhere, {}],
    [
      'the first that matches decides',
      'route-map M deny 5\n match ip address prefix-list TEN\nroute-map M permit 10\n',
      {},
      PREFIX,
      null,
    ],
    ['entries go by their numbers', 'route-map M permit 10\nroute-map M deny 5\n', {}, PREFIX, null],
    ['an undefined list matches nothing', 'route-map M permit 5\n match as-path NONE\n', {}, PREFIX, null],
    ['a map that is not there denies', 'route-map OTHER permit 10\n', {}, PREFIX, null],
    ['all matches must hold', 'route-map M permit 5\n match metric 7\n match tag 3\n', { med: 7 }, PREFIX, null],
    ['… and then they do', 'route-map M permit 5\n match metric 7\n match tag 3\n', { med: 7, tag: 3 }, PREFIX, {}],
    [
      'a community among others',
      'route-map M permit 5\n match community SEVEN\n',
      { communities: '65000:1 65000:7' },
      PREFIX,
      {},
    ],
    [
      'an extended community among others, all of an entry',
      'route-map M permit 5\n match extcommunity SEVEN\n',
      { extended: 'rt:65000:1 rt:65000:7 soo:65000:8' },
      PREFIX,
      {},
    ],
    ['… else not', 'route-map M permit 5\n match extcommunity SEVEN\n', { extended: 'rt:65000:7' }, PREFIX, null],
    [
      'extended communities are beside those it has',
      'route-map M permit 5\n set extcommunity soo 65000:9\n set extcommunity bandwidth 100\n',
      { extended: 'rt:65000:7 soo:65000:8' },
      PREFIX,
      { extended: 'rt:65000:7 soo:65000:8 soo:65000:9' },
    ],
    [
      '… or all are taken away',
      'route-map M permit 5\n set extcommunity none\n',
      { extended: 'rt:65000:7' },
      PREFIX,
      { extended: '' },
    ],
    [
      'who tells it, if that is asked',
      'route-map M deny 5\n match peer 192.0.2.9\nroute-map M permit 10\n match peer 192.0.2.1\n set tag 8\n',
      {},
      PREFIX,
      { tag: 8 },
    ],
    [
      '… also of a map that is called, and the switch itself is nobody who tells',
      'route-map M permit 10\n call N\nroute-map N deny 5\n match peer local\nroute-map N permit 10\n match peer 192.0.2.1\n',
      {},
      PREFIX,
      {},
    ],
    [
      '… exactly',
      'route-map M permit 5\n match community SEVEN exact-match\n',
      { communities: '65000:1 65000:7' },
      PREFIX,
      null,
    ],
    [
      'a large community among others, of a list of that sort',
      'route-map M permit 5\n match large-community SEVEN\n',
      { large: '65000:1:1 65000:1:7' },
      PREFIX,
      {},
    ],
    [
      '… exactly',
      'route-map M permit 5\n match large-community SEVEN exact-match\n',
      { large: '65000:1:1 65000:1:7' },
      PREFIX,
      null,
    ],
    [
      '… put beside, and those of a list taken away',
      'route-map M permit 5\n set large-community 65000:1:7 additive\n on-match next\nroute-map M permit 10\n set large-comm-list SEVEN delete\n',
      { large: '65000:1:1', communities: '65000:1' },
      PREFIX,
      { large: '65000:1:1', communities: '65000:1' },
    ],
    ['a path', 'route-map M permit 5\n match as-path TWICE\n', { path: twice }, PREFIX, {}],
    ['… or none', 'route-map M permit 5\n match as-path TWICE\n', { path: prepended(65001, null) }, PREFIX, null],
    [
      'what is set',
      'route-map M permit 5\n set local-preference 7\n set metric 8\n set weight 9\n set origin igp\n set tag 4\n',
      {},
      PREFIX,
      { localPreference: 7, med: 8, weight: 9, origin: 'igp', tag: 4 },
    ],
    [
      'communities in the place of others',
      'route-map M permit 5\n set community 65000:9 no-export\n',
      { communities: '65000:1' },
      PREFIX,
      { communities: '65000:9 no-export' },
    ],
    [
      '… beside them',
      'route-map M permit 5\n set community 65000:9 additive\n',
      { communities: '65000:1' },
      PREFIX,
      { communities: '65000:1 65000:9' },
    ],
    ['… none', 'route-map M permit 5\n set community none\n', { communities: '65000:1' }, PREFIX, { communities: '' }],
    [
      '… those of a list taken away',
      'route-map M permit 5\n set comm-list SEVEN delete\n',
      { communities: '65000:1 65000:7' },
      PREFIX,
      { communities: '65000:1' },
    ],
    ['a metric more', 'route-map M permit 5\n set metric +5\n', { med: 7 }, PREFIX, { med: 12 }],
    ['… and less, never below nothing', 'route-map M permit 5\n set metric -9\n', { med: 7 }, PREFIX, { med: 0 }],
    [
      'the first number of the path once more',
      'route-map M permit 5\n set as-path prepend last-as 2\n',
      { path: prepended(65001, null) },
      PREFIX,
      { path: prepended(65001, twice) },
    ],
    [
      'it goes on where it says so, with what was set',
      'route-map M permit 5\n set metric 8\n on-match next\nroute-map M permit 10\n match metric 8\n set tag 1\n',
      {},
      PREFIX,
      { med: 8, tag: 1 },
    ],
    ...accessRows([
      ['what is within', 'access-list A permit 10.0.0.0/8\n', PREFIX, true],
      ['not what is around', 'access-list A permit 10.0.0.0/8\n', { address: 10 * 2 ** 24, length: 7 }, false],
      ['itself alone', 'access-list A permit 10.0.0.0/8 exact-match\n', PREFIX, false],
      [
        'itself alone, which it is',
        'access-list A permit 10.0.0.0/8 exact-match\n',
        { address: 10 * 2 ** 24, length: 8 },
        true,
      ],
      ['by number, and all', 'access-list A seq 20 permit any\naccess-list A seq 10 deny 10.0.0.0/8\n', PREFIX, false],
      ['all but that', 'access-list A seq 20 permit any\naccess-list A seq 10 deny 10.0.0.0/8\n', elsewhere, true],
      [
        'an address but for some bits, of any length',
        'access-list A permit 10.0.0.0 0.255.255.255\n',
        { address: 10 * 2 ** 24, length: 7 },
        true,
      ],
      ['an address', 'access-list A permit host 10.0.0.0\n', { address: 10 * 2 ** 24, length: 16 }, true],
      ['nothing, where it is not there', '', PREFIX, false],
    ]),
    // What follows was asked of a running FRR 8.4.4, each.
    [
      '… and where the next one does not match, it is denied after all',
      'route-map M permit 5\n set metric 8\n on-match next\nroute-map M permit 10\n match metric 9\n',
      {},
      PREFIX,
      null,
    ],
    [
      '… so also where that one would deny, or it went on at a number',
      'route-map M permit 5\n continue 10\nroute-map M deny 10\n match metric 9\n',
      {},
      PREFIX,
      null,
    ],
    [
      '… but not where another takes it',
      'route-map M permit 5\n set metric 8\n on-match next\nroute-map M permit 10\n match metric 9\nroute-map M permit 20\n',
      {},
      PREFIX,
      { med: 8 },
    ],
    [
      '… nor where there is no next, or none so far on',
      'route-map M permit 5\n set metric 8\n on-match next\nroute-map M permit 10\n match metric 8\n on-match goto 30\nroute-map M permit 20\n match metric 9\n',
      {},
      PREFIX,
      { med: 8 },
    ],
    [
      '… or at a number',
      'route-map M permit 5\n on-match goto 20\nroute-map M deny 10\nroute-map M permit 20\n set tag 2\n',
      {},
      PREFIX,
      { tag: 2 },
    ],
    ...patternRows([
      ['65000:1', true],
      ['^65000:1$', false],
      ['_65000:1_', true],
      ['65000:1 65000:20', true],
      ['65000:20 65000:1', false],
      ['no-export$', true],
      ['_7_', false],
      ['(65000|65009):1', true],
      ['65000:[13-5]+', true],
    ]),
    [
      'an expression takes also a route without communities, if an empty line is as it says',
      'bgp community-list expanded E permit .*\nroute-map M permit 10\n match community E\n',
      {},
      PREFIX,
      {},
    ],
    [
      '… and of large ones it is their line',
      'bgp large-community-list expanded E permit ^65000:1:7 65000:2:8$\nroute-map M permit 10\n match large-community E exact-match\n',
      { large: '65000:2:8 65000:1:7' },
      PREFIX,
      {},
    ],
    [
      'communities that an expression takes away are tried one by one',
      'bgp community-list expanded E deny 65000:2\nbgp community-list expanded E permit ^65000:\nroute-map M permit 10\n set comm-list E delete\n',
      { communities: MANY },
      PREFIX,
      { communities: '65000:20 65001:7 no-export' },
    ],
    ['a called map that denies, denies', 'route-map M permit 5\n call N\nroute-map N deny 10\n', {}, PREFIX, null],
    [
      'one that permits, changes',
      'route-map M permit 5\n call N\n set metric 3\nroute-map N permit 10\n set tag 6\n',
      {},
      PREFIX,
      { med: 3, tag: 6 },
    ],
    [
      'a map that asks itself comes to an end and lets nothing through',
      'route-map M permit 5\n call M\n',
      {},
      PREFIX,
      null,
    ],
  ] as const)('%s', (_what, text, had, prefix, changed) => {
    const got = through(text, had as Partial<Attributes>, prefix);
    expect(got).toEqual(changed === null ? null : { ...OWN, ...had, ...changed });
  });

  test('numbers are put before the path, the first foremost', () =>
    expect(numbersOf(through('route-map M permit 5\n set as-path prepend 1 2\n', { path: twice })!.path)).toEqual([
      1, 2, 65001, 65001,
    ]));
  test('numbers are taken out of the path wherever they stand; others are put before what is left', () => {
    const path = prepended(65001, prepended(65002, prepended(65001, prepended(65003, null))));
    const text = 'route-map M permit 5\n set as-path exclude 65001 65003\n set as-path prepend 7\n';
    expect(numbersOf(through(text, { path })!.path)).toEqual([7, 65002]);
  });
});
