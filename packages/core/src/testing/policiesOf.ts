import fc from 'fast-check';
import { applyEdits, type Edit } from '../intent/edits/index.ts';
import type { FabricIntent, OutsideNeighbour } from '../intent/intent.ts';
import { parseIpv4 } from '../numbers/ipv4.ts';
import { familyWith } from '../intent/neighbourPlace.ts';
import type { PolicyMatch, PolicySet, RouteMapEntrySaid, RoutePolicy } from '../intent/policies.ts';
import { borderIntents } from './fabricOf.ts';

/** Stands for the address under which the first router outside is spoken to. */
const FIRST_NEIGHBOUR = 'first';
/** In no subnet of any switch. */
const NOBODY = '203.0.113.99';

/** The lists that maps here ask, of both families. */
const LISTS: readonly RoutePolicy[] = [
  {
    is: 'prefix-list',
    name: 'far',
    entries: [
      { seq: 5, permit: false, prefix: '198.51.100.128/25', le: 32 },
      { seq: 10, permit: true, prefix: '198.51.100.0/24', le: 32 },
      { seq: 20, permit: true, prefix: '0.0.0.0/0' },
    ],
  },
  {
    is: 'prefix-list',
    name: 'far6',
    entries: [
      { seq: 10, permit: true, prefix: '2001:db8:198::/48', le: 128 },
      { seq: 20, permit: true, prefix: '::/0' },
    ],
  },
  {
    is: 'prefix-list',
    name: 'hops',
    entries: [
      { seq: 10, permit: true, prefix: '0.0.0.0/1', ge: 32, le: 32 },
      { seq: 20, permit: true, prefix: '192.0.2.0/24', ge: 32, le: 32 },
    ],
  },
  { is: 'prefix-list', name: 'itself', entries: [{ seq: 10, permit: true, prefix: '0.0.0.0/32' }] },
  { is: 'prefix-list', name: 'own', entries: [{ seq: 10, permit: true, prefix: '10.0.0.0/8', ge: 9, le: 31 }] },
  {
    is: 'community-list',
    name: 'marked',
    entries: [
      { permit: false, communities: ['64701:9', 'no-export'] },
      { permit: true, communities: ['64701:7'] },
    ],
  },
  {
    is: 'community-list',
    name: 'marked-large',
    entries: [
      { permit: false, communities: ['64701:9:9'] },
      { permit: true, communities: ['64701:7:1', '64701:10:1'] },
    ],
  },
  {
    is: 'community-list',
    name: 'sites',
    entries: [
      { permit: false, communities: ['soo:64701:9'] },
      { permit: true, communities: ['soo:64701:7', 'soo:64701:8'] },
    ],
  },
  {
    is: 'community-list',
    name: 'shaped',
    entries: [
      { permit: false, expression: '64701:9' },
      { permit: true, expression: '_64701:[7-9]( |$)' },
    ],
  },
  {
    is: 'community-list',
    name: 'shaped-large',
    entries: [{ permit: true, expression: '^64701:7:1( 64701:10:1)?$', large: true }],
  },
  { is: 'path-list', name: 'offing', entries: [{ permit: true, pattern: '^6470[12]$' }] },
];

const sets: fc.Arbitrary<PolicySet | undefined> = fc.constantFrom<(PolicySet | undefined)[]>(
  undefined,
  { localPreference: 200, communities: ['no-export', '64701:7'] },
  { metric: 30, communities: ['64701:9'], additive: true },
  { metricBy: 5, prepend: [64799, 64798] },
  { origin: 'incomplete', prependFirst: 2 },
  { communities: [] },
  { communities: ['64701:7', '64701:10:1', '64701:7:1'], additive: true },
  { communities: ['64701:9:9'], metric: 30 },
  { withoutCommunities: 'marked-large' },
  { withoutCommunities: 'marked', weight: 7 },
  { metricBy: -1, origin: 'egp' },
  { communities: ['soo:64701:7', 'soo:64701:8'], bandwidth: 400 },
  { communities: ['64701:7', 'soo:64701:9'] },
  { exclude: [64701, 64799] },
  { withoutCommunities: 'shaped' },
  { nextHop: 'neighbour' },
  { nextHop: 'unchanged', metric: 30 },
  { nextHop: FIRST_NEIGHBOUR as '192.0.2.1' },
  { nextHop: NOBODY },
);
const matches: fc.Arbitrary<PolicyMatch | undefined> = fc.constantFrom<(PolicyMatch | undefined)[]>(
  undefined,
  { prefixes: 'far' },
  { prefixes: 'far6' },
  { prefixes: 'own' },
  { communities: 'marked' },
  { communities: 'marked', exactly: true },
  { communities: 'marked-large' },
  { communities: 'marked-large', exactly: true },
  { path: 'offing', origin: 'igp' },
  { metric: 30 },
  { localPreference: 200 },
  { tag: 40 },
  { communities: 'sites' },
  { communities: 'sites' },
  { communities: 'shaped' },
  { communities: 'shaped-large' },
  { peer: FIRST_NEIGHBOUR },
  { nextHops: 'hops' },
  { nextHops: 'itself' },
);
const entry = fc.record({
  permit: fc.constantFrom(true, true, true, false),
  match: matches,
  set: sets,
  goes: fc.constantFrom('', '', 'next', 'goTo'),
});
/** Three maps, of which the first may ask the second and the second the third; each lets all through at its end, or not. */
const maps: fc.Arbitrary<RoutePolicy[]> = fc
  .array(
    fc.record({
      entries: fc.array(entry, { minLength: 1, maxLength: 3 }),
      calls: fc.boolean(),
      rest: fc.constantFrom(true, true, false),
    }),
    { minLength: 3, maxLength: 3 },
  )
  .map((all) =>
    all.map(({ entries, calls, rest }, m): RoutePolicy => ({
      is: 'route-map',
      name: `map-${m}`,
      entries: [
        ...entries.map(({ permit, match, set, goes }, i): RouteMapEntrySaid => ({
          seq: 10 * (i + 1),
          permit,
          ...(match ? { match } : {}),
          // Next hops are of IPv4.
          ...(set && permit && !(set.nextHop !== undefined && match?.prefixes === 'far6') ? { set } : {}),
          ...(permit && calls && i === 0 && m < 2 ? { call: `map-${m + 1}` } : {}),
          ...(permit && goes === 'next' ? { next: true as const } : {}),
          ...(permit && goes === 'goTo' ? { goTo: 10 * (i + 3) } : {}),
        })),
        ...(rest ? [{ seq: 100, permit: true }] : []),
      ],
    })),
  );

/** What a session may say beside. */
const sessionWords: fc.Arbitrary<
  Omit<Partial<OutsideNeighbour>, 'aggregates'> & { readonly sums: boolean; readonly behind?: number }
> = fc
  .record({
    hold: fc.constantFrom(undefined, undefined, 12),
    ttlSecurity: fc.constantFrom(undefined, true as const),
    localAs: fc.constantFrom(undefined, undefined, 64790),
    ownAs: fc.constantFrom(undefined, 2),
    originate: fc.constantFrom(undefined, true as const),
    asOverride: fc.constantFrom(undefined, true as const),
    behind: fc.constantFrom(undefined, undefined, 2, 7),
    sums: fc.boolean(),
  })
  .map(({ sums, ...words }) => ({
    sums,
    ...(Object.fromEntries(Object.entries(words).filter(([, v]) => v !== undefined)) as object),
  }));

/** An address of its own behind its link; two hops are said by themselves. */
const spokenBehind = (n: OutsideNeighbour, i: number, hops: number): Pick<OutsideNeighbour, 'loopback' | 'hops'> => ({
  loopback: familyWith(n) === 4 ? `203.0.113.${i + 1}` : `2001:db8:fffe::${i + 1}`,
  ...(hops === 2 ? {} : { hops }),
});

/** An entry that asks about a neighbour, with his address; where there is none it asks nothing. */
function aboutNeighbour(e: RouteMapEntrySaid, address: string | undefined): RouteMapEntrySaid {
  const { match, set, ...rest } = e;
  const known = address !== undefined;
  const asks = match?.peer === undefined ? match : known ? { peer: address } : undefined;
  const four = known && parseIpv4(address) !== null;
  const leads =
    (set?.nextHop as string | undefined) !== FIRST_NEIGHBOUR ? set : four ? { nextHop: address } : undefined;
  return { ...rest, ...(asks ? { match: asks } : {}), ...(leads ? { set: leads } : {}) };
}

/** Fabrics whose tenants speak to routers outside in all ways, through route maps of the fabric one way, both or neither. */
export const policyIntents: fc.Arbitrary<FabricIntent> = fc
  .tuple(
    borderIntents,
    maps,
    fc.array(fc.tuple(fc.constantFrom(undefined, 0, 1, 2), fc.constantFrom(undefined, 0, 1, 2), sessionWords), {
      minLength: 3,
      maxLength: 3,
    }),
    fc.tuple(...[0, 1].map(() => fc.constantFrom(undefined, undefined, 0, 1, 2))),
    fc.constantFrom(undefined, 0, 40),
  )
  .map(([intent, made, through, [connected, statics], tag]) => {
    const spoken = (n: OutsideNeighbour, i: number): string => {
      const { behind } = through[i % through.length]![2];
      return behind === undefined ? n.far : spokenBehind(n, i, behind).loopback!;
    };
    const [asked] = intent.neighbours.map(spoken);
    const maps = made.map((map) =>
      map.is === 'route-map' ? { ...map, entries: map.entries.map((e) => aboutNeighbour(e, asked)) } : map,
    );
    const edits: Edit[] = [...LISTS, ...maps.toReversed()].map((policy) => ({ kind: 'putPolicy', policy }));
    intent.neighbours.forEach((neighbour, i) => {
      const [into, out, { sums, behind, ttlSecurity, ...words }] = through[i % through.length]!;
      edits.push({
        kind: 'putNeighbour',
        neighbour: {
          ...neighbour,
          ...words,
          ...(behind === undefined ? (ttlSecurity ? { ttlSecurity } : {}) : spokenBehind(neighbour, i, behind)),
          ...(sums ? { aggregates: [familyWith(neighbour) === 4 ? '10.0.0.0/8' : '2001:db8::/36'] } : {}),
          ...(into === undefined ? {} : { mapIn: `map-${into}` }),
          ...(out === undefined ? {} : { mapOut: `map-${out}` }),
        },
      });
    });
    // Behind a router outside there is more than it tells.
    const [first] = intent.neighbours;
    if (first && tag !== undefined)
      edits.push({
        kind: 'putRoute',
        route: {
          vrf: first.vrf,
          prefix: familyWith(first) === 4 ? '198.18.0.0/24' : '2001:db8:18::/48',
          via: first.far,
          racks: [first.rack],
          ...(tag === 0 ? {} : { tag }),
        },
      });
    // What tenants tell of their own goes through maps, or does not.
    for (const vrf of intent.vrfs)
      edits.push({
        kind: 'changeVrf',
        name: vrf.name,
        vrf: {
          ...vrf,
          ...(connected === undefined ? {} : { connectedMap: `map-${connected}` }),
          ...(statics === undefined ? {} : { staticMap: `map-${statics}` }),
        },
      });
    const done = applyEdits(intent, edits);
    if (done.findings.length > 0) throw new Error(done.findings[0]!.message);
    return done.intent;
  });
