import { describe, expect, test } from 'vitest';
import type { RouteAnswer } from '../ask/answer.ts';
import { routesOf } from '../ask/routesOf.ts';
import { applyEdits, type Edit } from '../intent/edits/index.ts';
import type { FabricIntent, OutsideNeighbour } from '../intent/intent.ts';
import type { PolicyMatch, PolicySet } from '../intent/policies.ts';
import { policySchema } from '../intent/schemas/policies.ts';
import type { NetworkModel } from '../network/networkModel.ts';
import { judgeFabric } from '../proof/judgeFabric.ts';
import { joinedBorder, putNeighbourOf } from '../testing/joinedBorder.ts';
import { networkOf } from '../testing/networkOf.ts';

const map = (
  name: string,
  ...entries: readonly { match?: PolicyMatch; set?: PolicySet; permit?: boolean }[]
): Edit => ({
  kind: 'putPolicy',
  policy: { is: 'route-map', name, entries: entries.map((e, i) => ({ seq: 10 * (i + 1), permit: true, ...e })) },
});
const list = (name: string, ...prefixes: string[]): Edit => ({
  kind: 'putPolicy',
  policy: {
    is: 'prefix-list',
    name,
    entries: prefixes.map((prefix, i) => ({
      seq: 10 * (i + 1),
      permit: true,
      prefix,
      ...(prefix.endsWith('/32') ? {} : { le: prefix.includes(':') ? 128 : 32 }),
    })),
  },
});
/** Two routers outside at the first half of the border: the one tells a default route, the other a network. */
const FIRST = { address: '192.0.2.0/31', far: '192.0.2.1', asn: 64701 };
const SECOND = { port: 'p45', address: '192.0.2.2/31', far: '192.0.2.3', asn: 64702, takes: ['198.51.100.0/24'] };
function bordered(first: Partial<OutsideNeighbour>, second: Partial<OutsideNeighbour>, ...edits: Edit[]): FabricIntent {
  const made = applyEdits(joinedBorder, [
    { kind: 'joinOutside', link: { rack: 1, side: 'a', port: 'p45', system: 'offing-2', farPort: 'eth1' } },
    ...edits,
    putNeighbourOf({ ...FIRST, ...first }),
    putNeighbourOf({ ...SECOND, ...second }),
  ]);
  expect(made.findings).toEqual([]);
  return made.intent;
}
const BORDER = 'tn-lf-01a';
const at = (network: NetworkModel, host: string, prefix: string, vrf?: string): string => {
  const found = (routesOf(network, host, vrf) as readonly RouteAnswer[]).find((r) => r.prefix === prefix);
  return found
    ? `${found.kind} ${found.ways.map((w) => `${w.over} ${w.to}`).join(', ')}${found.unsure === null ? '' : ` (${found.unsure})`}`
    : 'none';
};
const found = (intent: FabricIntent): string[] => {
  const { values, compiled } = networkOf(intent);
  return judgeFabric({ intent, values, compiled }).findings.flatMap((f) =>
    f.rule === 'map-next-hop' ? f.message : [],
  );
};

const DEFAULT = '0.0.0.0/0';
const OTHER = 'tn-lf-02';
/** What the border half makes of the default that the first router tells, and the other router of what it is told of it. */
const through = (of: Partial<OutsideNeighbour>, second: Partial<OutsideNeighbour>, ...edits: Edit[]) => {
  const intent = bordered(of, second, ...edits);
  const { network } = networkOf(intent);
  return { intent, network, ours: at(network, BORDER, DEFAULT, 'tides'), theirs: at(network, 'offing-2', DEFAULT) };
};
const TELLS_DEFAULT = { tells: ['0.0.0.0/0'] };

describe('next hops in route maps', () => {
  test('a map leads what one router tells over another that is next door, wherever the route is told on', () => {
    const plain = through({}, {});
    expect(plain.ours).toBe('bgp 192.0.2.1 offing-1');
    const aside = map('aside', { set: { nextHop: '192.0.2.3' } });
    const { intent, network, ours } = through({ mapIn: 'aside' }, {}, aside);
    expect(networkOf(intent).frrOf(BORDER)).toContain('route-map aside permit 10\n set ip next-hop 192.0.2.3\nexit');
    expect(ours).toBe('bgp 192.0.2.3 offing-2');
    expect(found(intent)).toEqual([]);
    // EVPN tells it with the VTEP as ever.
    expect(at(network, OTHER, DEFAULT, 'tides')).toBe(at(plain.network, OTHER, DEFAULT, 'tides'));
    expect(at(network, OTHER, DEFAULT, 'tides')).toMatch(/^evpn VNI \d+ to \S+ tn-lf-01a$/);
    // The neighbour himself, and what stays, is what it was.
    for (const nextHop of ['neighbour', 'unchanged'] as const)
      expect(through({ mapIn: 'm' }, {}, map('m', { set: { nextHop } })).ours).toBe(plain.ours);
  });

  test.each([
    ['203.0.113.9', 'lies in no subnet that the switch has in tides'],
    ['192.0.2.0', 'is an address of the switch itself'],
    ['192.0.2.2', 'is an address of the switch itself'],
  ])('what leads to %s is no route, and a rule says why', (nextHop, why) => {
    const { intent, ours } = through({ mapIn: 'stray' }, {}, map('stray', { set: { nextHop } }));
    expect(ours).toBe('none');
    expect(found(intent)).toEqual([
      `stray leads routes to ${nextHop}, which ${why} (rack 1 p46 (a)): it uses none of them.`,
    ]);
  });

  test('an address of the link that nobody has is used, and packets to it are lost', () => {
    const wide = { address: '192.0.2.18/29', far: '192.0.2.17' };
    const { network } = through({ ...wide, mapIn: 'lost' }, {}, map('lost', { set: { nextHop: '192.0.2.20' } }));
    expect(at(network, BORDER, DEFAULT, 'tides')).toBe('bgp 192.0.2.20 null');
  });

  test('what a router is told leads to us, unless a map says an address that it has next door', () => {
    const told = (nextHop: PolicySet['nextHop']) =>
      through({}, { ...TELLS_DEFAULT, mapOut: 'out' }, map('out', { set: { nextHop } }));
    expect(through({}, TELLS_DEFAULT).theirs).toBe('bgp 192.0.2.2 tn-lf-01a');
    expect(told('neighbour').theirs).toBe('bgp 192.0.2.2 tn-lf-01a');
    expect(told('192.0.2.2').theirs).toBe('bgp 192.0.2.2 tn-lf-01a');
    // It has no subnet of the first router, so what stays as it is told leads nowhere, as does its own address.
    expect(told('unchanged').theirs).toBe('none');
    const [own, far] = [told('192.0.2.3'), told('192.0.2.1')];
    expect([own.theirs, far.theirs]).toEqual(['none', 'none']);
    expect([...found(own.intent), ...found(far.intent)]).toEqual([
      'out leads routes to 192.0.2.3, which is an address of 192.0.2.3 itself (rack 1 p45 (a)): it uses none of them.',
      'out leads routes to 192.0.2.1, which lies in no subnet that 192.0.2.3 has in tides (rack 1 p45 (a)): it uses none of them.',
    ]);
    // Said of what is heard, it goes for who is told next as well.
    const stays = through({ mapIn: 'stay' }, TELLS_DEFAULT, map('stay', { set: { nextHop: 'unchanged' } }));
    expect([stays.ours, stays.theirs]).toEqual(['bgp 192.0.2.1 offing-1', 'none']);
    // What another map set before is not told on.
    const aside = map('aside', { set: { nextHop: '192.0.2.3' } });
    expect(through({ mapIn: 'aside' }, TELLS_DEFAULT, aside).theirs).toBe('none');
  });

  test('a map asks where routes lead: what is heard to who tells it, the switch’s own to itself, static routes to their next hops', () => {
    const asks = (prefix: string, ...more: { permit: boolean }[]) => [
      list('hops', prefix),
      map('asks', { match: { nextHops: 'hops' } }, ...more),
    ];
    const heard = (prefix: string) => through({ mapIn: 'asks' }, {}, ...asks(prefix)).ours;
    expect([heard('192.0.2.0/24'), heard('192.0.2.1/32'), heard('192.0.2.3/32'), heard('0.0.0.0/32')]).toEqual([
      'bgp 192.0.2.1 offing-1',
      'bgp 192.0.2.1 offing-1',
      'none',
      'none',
    ]);
    const gauges = (prefix: string): string => {
      const { network } = networkOf(bordered({}, { mapOut: 'asks' }, ...asks(prefix)));
      const all = routesOf(network, 'offing-2', undefined) as readonly RouteAnswer[];
      return all.flatMap((r) => (r.kind === 'bgp' ? r.prefix : [])).join(' ');
    };
    // Subnets of rack 2 came by EVPN from its VTEP; this half has none of its own.
    const vtep = networkOf(bordered({}, {})).network.views.get(OTHER)!.vrfs.get('tides')!.vtep;
    expect(gauges(`${vtep}/32`)).not.toBe('');
    expect([gauges('192.0.2.0/24'), gauges('203.0.113.0/24')]).toEqual(['', '']);
    const statics = (prefix: string): string => {
      const intent = bordered({}, { tells: ['198.18.0.0/15'] }, ...asks(prefix), {
        kind: 'changeVrf',
        name: 'tides',
        vrf: { name: 'tides', transitVlan: 4001, staticMap: 'asks' },
      });
      const put: Edit = {
        kind: 'putRoute',
        route: { vrf: 'tides', prefix: '198.18.0.0/24', via: '192.0.2.1', racks: [1] },
      };
      return at(networkOf(applyEdits(intent, [put]).intent).network, 'offing-2', '198.18.0.0/24');
    };
    expect([statics('192.0.2.1/32'), statics('192.0.2.3/32')]).toEqual(['bgp 192.0.2.2 tn-lf-01a', 'none']);
  });

  test('what a daemon would make nothing of is refused at its field, whichever of a list and a map comes first', () => {
    const at = (edits: readonly Edit[]): string[][] =>
      applyEdits(joinedBorder, edits).findings.map((f) => [f.path!, f.message, f.cure!]);
    const FIELD = '/policy/entries/0/';
    const six = list('six', '2001:db8::/32');
    const asks = map('m', { match: { nextHops: 'six' } });
    const sets = map('m', { match: { prefixes: 'six' }, set: { nextHop: '192.0.2.1' } });
    expect(at([six, asks])).toEqual([
      [`${FIELD}match/nextHops`, 'Next hops are of IPv4, six is of IPv6.', 'Leave it out.'],
    ]);
    expect(at([six, sets])).toEqual([
      [`${FIELD}set/nextHop`, 'Next hops are of IPv4, the routes of six of IPv6.', 'Leave it out.'],
    ]);
    for (const [asking, why] of [
      [asks, 'Next hops are of IPv4, six is of IPv6.'],
      [sets, 'Next hops are of IPv4, the routes of six of IPv6.'],
    ] as const)
      expect(at([list('six', '192.0.2.0/24'), asking, six])).toEqual([
        [`${FIELD}prefix`, `${why} m asks it.`, 'Take that out of m first.'],
      ]);
    expect(at([map('m', { match: { nextHops: 'none' } })])).toEqual([
      [`${FIELD}match/nextHops`, 'There is no prefix list none.', 'Add it first.'],
    ]);
    for (const nextHop of ['127.0.0.1', '224.0.0.5', '0.0.0.0', '255.255.255.255'])
      expect(at([map('m', { set: { nextHop } })])).toEqual([
        [`${FIELD}set/nextHop`, `${nextHop} is nobody’s address.`, 'Write that of a router next door.'],
      ]);
    const said = (nextHop: string) => ({
      is: 'route-map',
      name: 'm',
      entries: [{ seq: 10, permit: true, set: { nextHop } }],
    });
    expect(
      ['gateway', '2001:db8::1', 'neighbour', '192.0.2.1'].map((hop) => policySchema.isValidSync(said(hop))),
    ).toEqual([false, false, true, true]);
  });
});
