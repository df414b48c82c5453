import fc, { type Arbitrary } from 'fast-check';
import { expect, test } from 'vitest';
import type { BgpConfig, BgpVrf, PeerPolicy } from '../../config/bgp.ts';
import type { AccessListEntry, RouteMapEntry, RouteMatch, RouteSet } from '../../config/policy.ts';
import { staticKey, type StaticRoute } from '../../config/static.ts';
import type { SwitchConfig } from '../../config/switchConfig.ts';
import { skerryIntent } from '../../demo/skerry.ts';
import { naturally } from '../../numbers/order.ts';
import { configsOf } from '../../testing/fabricOf.ts';
import { linux } from './linux.ts';

const leaf = configsOf(skerryIntent()).configs.get('leaf-7a')!;

const names = fc.constantFrom('M', 'N', 'EAST', '12');
const numbers = fc.integer({ min: 1, max: 4294967295 });
const prefixes = fc.tuple(fc.nat(255), fc.nat(255)).map(([a, b]) => `10.${a}.${b}.0/24`);
const communities = fc.constantFrom('65000:1', '65000:2', 'no-export', 'graceful-shutdown');
/** Extended ones in the order of their codes, and such that a route may be given. */
const extendeds = ['rt:64700:10', 'rt:192.0.2.1:7', 'rt:4200000001:7', 'soo:64700:4000000000', 'soo:192.0.2.1:9'];
const EXTENDED_ORDER = [0, 3, 1, 4, 2].map((i) => extendeds[i]!);
const sites = ['soo:64700:7', 'soo:192.0.2.1:9', 'soo:4200000001:7'];
const larges = fc.tuple(numbers, fc.nat(9), numbers).map((parts) => parts.join(':'));
const origins = fc.constantFrom('igp', 'egp', 'incomplete');
/** Some of the fields, at least one. */
const some = <T extends object>(fields: { [K in keyof T]-?: Arbitrary<NonNullable<T[K]>> }): Arbitrary<T> =>
  fc
    .record(fields as never, { requiredKeys: [] })
    .filter((made: object) => Object.keys(made).length > 0) as Arbitrary<T>;
/** Lists by name, each name once. */
const lists = <E>(entries: Arbitrary<E>) =>
  fc.uniqueArray(fc.record({ name: names, entries: fc.array(entries, { minLength: 1, maxLength: 3 }) }), {
    minLength: 1,
    maxLength: 3,
    selector: (l) => l.name,
  });

/** Lists of communities, or of expressions over them: one name is of one kind. */
const eitherLists = (named: Arbitrary<string>, patterns: readonly string[]) =>
  fc.oneof(
    lists(fc.record({ permit: fc.boolean(), communities: fc.uniqueArray(named, { minLength: 1, maxLength: 3 }) })),
    lists(fc.record({ permit: fc.boolean(), pattern: fc.constantFrom(...patterns) })),
  );

const accessLists = (of: Arbitrary<Omit<AccessListEntry, 'seq' | 'permit'>>) =>
  lists(fc.tuple(fc.boolean(), of)).map((all) =>
    all.map(({ name, entries }) => ({
      name,
      entries: entries.map(([permit, said], i): AccessListEntry => ({ seq: 5 * i + 5, permit, ...said })),
    })),
  );

const matches = some<RouteMatch>({
  community: fc.record({ list: names, exact: fc.boolean() }),
  largeCommunity: fc.record({ list: names, exact: fc.boolean() }),
  asPath: names,
  metric: numbers,
  localPreference: numbers,
  tag: numbers,
  origin: origins,
  interface: fc.constantFrom('p1', 'lo'),
  extendedCommunity: names,
  peer: fc.constantFrom('local', '192.0.2.1', '2001:db8::1'),
  nextHops: fc.oneof(
    fc.record({ list: names }),
    fc.record({ access: names }),
    fc.record({ address: fc.constant('192.0.2.1') }),
  ),
});
const sets = some<Omit<RouteSet, 'additive' | 'largeAdditive'>>({
  localPreference: numbers,
  metric: numbers,
  metricBy: fc.oneof(
    numbers,
    numbers.map((n) => -n),
  ),
  weight: numbers,
  tag: numbers,
  origin: origins,
  prepend: fc.array(numbers, { minLength: 1, maxLength: 3 }),
  prependFirst: fc.integer({ min: 1, max: 10 }),
  communities: fc.uniqueArray(communities, { maxLength: 3 }),
  withoutCommunities: names,
  largeCommunities: fc.uniqueArray(larges, { maxLength: 3 }),
  withoutLarge: names,
  exclude: fc.array(fc.integer({ min: 1, max: 99 }), { minLength: 1, maxLength: 3 }),
  extendedCommunities: fc.subarray(sites),
  bandwidth: fc.integer({ min: 1, max: 25600 }),
  nextHop: fc.constantFrom('192.0.2.1', 'peer-address', 'unchanged'),
})
  .chain((set) =>
    fc.boolean().map((more): RouteSet => {
      // Of words that speak of the same thing a daemon keeps one, or goes by their order.
      const { metricBy, prependFirst, withoutCommunities, withoutLarge, exclude, bandwidth, ...rest } = set;
      const path = set.prepend === undefined && prependFirst ? { prependFirst } : {};
      return {
        ...rest,
        ...path,
        ...(exclude && !path.prependFirst && !set.prepend?.some((n) => exclude.includes(n)) ? { exclude } : {}),
        ...(bandwidth && set.extendedCommunities?.length !== 0 ? { bandwidth } : {}),
        ...(set.metric === undefined && metricBy ? { metricBy } : {}),
        ...(set.communities === undefined && withoutCommunities ? { withoutCommunities } : {}),
        ...(set.largeCommunities === undefined && withoutLarge ? { withoutLarge } : {}),
        ...(more && (set.largeCommunities ?? []).length > 0 ? { largeAdditive: true } : {}),
        ...(more && (set.communities ?? []).length > 0 ? { additive: true } : {}),
      };
    }),
  )
  .filter((set) => Object.keys(set).length > 0);
const mapEntries: Arbitrary<RouteMapEntry[]> = fc
  .uniqueArray(
    fc.record(
      {
        seq: fc.integer({ min: 1, max: 60000 }),
        permit: fc.boolean(),
        matchPrefixList: names,
        matchAccessList: names,
        matchIpv6AccessList: names,
        match: matches,
        set: sets,
        call: names,
        onMatch: fc.constantFrom('next' as const, 65535),
      },
      { requiredKeys: ['seq', 'permit'] },
    ),
    { minLength: 1, maxLength: 4, selector: (e) => e.seq },
  )
  .map((entries) => entries.sort((a, b) => a.seq - b.seq));
const maps = fc.uniqueArray(fc.record({ name: names, entries: mapEntries }), { maxLength: 3, selector: (m) => m.name });

const words = some<Omit<PeerPolicy, 'peer'>>({
  mapIn: names,
  mapOut: names,
  prefixListIn: names,
  prefixListOut: names,
  accessListIn: names,
  accessListOut: names,
  asPathIn: names,
  asPathOut: names,
  defaultOriginate: fc.constant(true),
  reflectorClient: fc.constant(true),
  asOverride: fc.constant(true),
  nextHopSelf: fc.constantFrom('outside' as const, 'all' as const),
  weight: fc.integer({ min: 1, max: 65535 }),
  maximumPrefix: numbers,
}).map(({ accessListIn, accessListOut, ...said }) => ({
  ...said,
  // Of a list of prefixes and an access list a daemon keeps the first.
  ...(said.prefixListIn === undefined && accessListIn !== undefined ? { accessListIn } : {}),
  ...(said.prefixListOut === undefined && accessListOut !== undefined ? { accessListOut } : {}),
}));
/** Of EVPN’s words there are fewer. */
const evpnWords = some<Omit<PeerPolicy, 'peer'>>({
  mapIn: names,
  mapOut: names,
  reflectorClient: fc.constant(true),
} as never);
const policies = (of: Arbitrary<Omit<PeerPolicy, 'peer'>>) =>
  fc
    .uniqueArray(fc.record({ peer: fc.constantFrom('FABRIC', 'p49', 'p50'), said: of }), {
      minLength: 1,
      selector: (p) => p.peer,
    })
    .map((all) => all.map(({ peer, said }) => ({ peer, ...said })).sort((a, b) => naturally(a.peer, b.peer)));

const routes: Arbitrary<StaticRoute[]> = fc
  .uniqueArray(
    fc.record(
      {
        prefix: prefixes,
        via: fc.constantFrom('10.0.0.1', 'p1'),
        distance: fc.integer({ min: 1, max: 255 }),
        tag: numbers,
        vrf: fc.constantFrom(...leaf.vrfs.map((v) => v.name)),
      },
      { requiredKeys: ['prefix'] },
    ),
    { minLength: 1, maxLength: 4, selector: staticKey },
  )
  .map((all) => all.sort((a, b) => naturally(staticKey(a), staticKey(b))));

const redistributions = fc.record({ routeMap: names, metric: numbers }, { requiredKeys: [] });
const routers = some<Pick<BgpConfig, 'asPathIgnored' | 'medAlways' | 'gracefulShutdown' | 'localPreference'>>({
  asPathIgnored: fc.constant(true),
  medAlways: fc.constant(true),
  gracefulShutdown: fc.constant(true),
  localPreference: numbers,
});
const families = fc.record(
  {
    policies: policies(words),
    connected: redistributions,
    static: redistributions,
    networks: fc.uniqueArray(prefixes, { minLength: 1, maxLength: 3 }).map((all) => all.sort(naturally)),
    aggregates: fc
      .uniqueArray(
        fc.record({ prefix: prefixes, summaryOnly: fc.constant(true as const) }, { requiredKeys: ['prefix'] }),
        { minLength: 1, maxLength: 3, selector: (a) => a.prefix },
      )
      .map((all) => all.sort((a, b) => naturally(a.prefix, b.prefix))),
    maximumPaths: fc.integer({ min: 1, max: 256 }),
    maximumPathsInternal: fc.integer({ min: 1, max: 256 }),
  },
  { requiredKeys: [] },
);
const peers = some<Pick<BgpConfig['peers'][number], 'passive' | 'ttlSecurity' | 'localAs' | 'updateSource'>>({
  passive: fc.constant(true),
  ttlSecurity: fc.constant(1),
  localAs: fc.integer({ min: 1, max: 60000 }),
  updateSource: fc.constantFrom('lo', '10.255.0.1'),
});

/** The router of a tenant: what that of the switch says, and more. */
const tenants = fc
  .record(
    {
      router: routers,
      ipv4: families,
      peer: peers,
      defaultIpv4: fc.boolean(),
      policyRequired: fc.boolean(),
      multipathRelax: fc.boolean(),
      defaultRoute: fc.constant(true),
      advertiseIpv4: fc.boolean(),
      inactive: fc.constant(true),
    },
    { requiredKeys: ['ipv4', 'peer', 'defaultIpv4', 'policyRequired', 'multipathRelax', 'advertiseIpv4'] },
  )
  .map(({ router, ipv4, peer, inactive, ...said }): Partial<BgpVrf> => {
    const members = [
      { name: 'FABRIC', kind: 'group' as const },
      { name: '192.0.2.1', kind: 'address' as const, remoteAs: 64700, group: 'FABRIC', ...peer },
      { name: 'p49', kind: 'interface' as const, remoteAs: 'external' as const },
      { name: 'p50', kind: 'interface' as const, remoteAs: 'external' as const },
    ];
    const ownAsAllowed: Record<string, number> = peer.passive ? { p50: 2 } : {};
    const closed = inactive ? { inactive: ['p50'] } : {};
    return { ...router, ...said, peers: members, ipv4: { active: ['FABRIC'], ownAsAllowed, ...closed, ...ipv4 } };
  });

test('policies, lists, static routes and words of sessions read back as they were written', () => {
  const configs = fc
    .record(
      {
        communityLists: eitherLists(communities, ['^65000:1_', '65000:(1|2)$', '_no-export_']),
        largeCommunityLists: eitherLists(larges, ['^65000:1:[0-9]+', '65000:2:.$']),
        extendedCommunityLists: lists(
          fc.record({ permit: fc.boolean(), communities: fc.subarray(EXTENDED_ORDER, { minLength: 1 }) }),
        ),
        asPathLists: lists(
          fc.record({ permit: fc.boolean(), pattern: fc.constantFrom('^$', '_65001_', '^65000 .*', '[0-9]+$') }),
        ),
        accessLists: accessLists(
          fc.oneof(
            prefixes.map((prefix) => ({ prefix })),
            prefixes.map((prefix) => ({ prefix, exact: true as const })),
            fc.constant({ prefix: '0.0.0.0/0' }),
            fc.constant({ prefix: '10.1.0.0', wildcard: '0.0.3.255' }),
            fc.constant({ prefix: '10.2.0.0', wildcard: '0.0.0.0' }),
          ),
        ),
        ipv6AccessLists: accessLists(
          fc.constantFrom(
            { prefix: '::/0' },
            { prefix: '2001:db8::/32' },
            { prefix: '2001:db8::/32', exact: true as const },
          ),
        ),
        staticRoutes: routes,
        outsideL3Vni: fc.integer({ min: 90000, max: 99999 }),
      },
      { requiredKeys: [] },
    )
    .chain((more) =>
      fc
        .record({
          maps,
          router: fc.option(routers),
          ipv4: families,
          evpn: fc.option(policies(evpnWords)),
          peer: peers,
          tenant: fc.option(tenants),
        })
        .map(({ maps: routeMaps, router, ipv4, evpn, peer, tenant }): SwitchConfig => {
          const bgp = leaf.bgp!;
          const { connected: _, maximumPaths: __, ...family } = bgp.ipv4;
          return {
            ...leaf,
            ...more,
            routeMaps,
            bgp: {
              ...bgp,
              ...router,
              peers: bgp.peers.map((p) => (p.name === 'p49' ? { ...p, ...peer } : p)),
              ipv4: { ...family, ...ipv4 },
              evpn: { ...bgp.evpn, ...(evpn ? { policies: evpn } : {}) },
              vrfs: bgp.vrfs.map((v, i) => (i === 0 ? { ...v, ...tenant } : v)),
            },
          };
        }),
    );
  fc.assert(
    fc.property(configs, (config) => {
      const back = linux.parse(linux.render(config).files);
      // A VNI outside of its block is said whoever wrote it.
      expect(back.unread.filter((u) => !u.text.startsWith('vni '))).toEqual([]);
      expect(back.config).toEqual(config);
    }),
    { numRuns: 200 },
  );
});
