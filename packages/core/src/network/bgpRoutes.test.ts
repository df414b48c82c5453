import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { networkFromTexts, skerryTexts } from '../testing/skerryFolder.ts';
import { parseIpv4 } from '../numbers/ipv4.ts';
import { settlePrefix } from './families.ts';
import { routedFamily } from './routedFamily.ts';
import type { BgpRouter } from './bestRoute.ts';
import { PLAIN_EDGE, settleRoutes, type BgpEdge } from './bgpRoutes.ts';
import { pathsTo, vtepsHeard } from './networkModel.ts';
import { settlePaths } from './pathVector.ts';
import { OWN_ATTRIBUTES } from './routes.ts';
import { pathsDoubt, vtepsDoubt } from './uncertain.ts';

const PREFIX = { address: 10 * 2 ** 24, length: 32 };
const OWN = OWN_ATTRIBUTES;
const router = (asn: number, routerId: number, more: Partial<BgpRouter> = {}): BgpRouter => ({
  asn,
  routerId,
  maximumPaths: 64,
  maximumPathsInternal: 64,
  multipathRelax: true,
  asPathIgnored: false,
  medAlways: false,
  localPreference: 100,
  gracefulShutdown: false,
  ...more,
});
/** Both directions of sessions between routers, by index. */
function edgesOf(
  routers: readonly BgpRouter[],
  pairs: readonly (readonly [number, number])[],
  more: Partial<BgpEdge> = {},
): BgpEdge[] {
  return pairs.flatMap(([a, b], i) =>
    [
      [a, b, 2 * i + 1],
      [b, a, 2 * i],
    ].map(([from, to, back]) => ({
      ...PLAIN_EDGE,
      from: from!,
      to: to!,
      back: back!,
      internal: routers[from!]!.asn === routers[to!]!.asn,
      sentAs: [routers[from!]!.asn],
      ...more,
    })),
  );
}
const widths = (routers: readonly BgpRouter[], edges: readonly BgpEdge[], origin: number): number[] =>
  settleRoutes(routers, edges, PREFIX, new Map([[origin, OWN]])).held.map((h) => h.length);

describe('route selection', () => {
  test('without policies it says what shortest paths say, over all kinds of fabrics of eBGP', () => {
    const fabrics = fc.integer({ min: 2, max: 9 }).chain((n) =>
      fc.record({
        asns: fc.array(fc.integer({ min: 1, max: 6 }), { minLength: n, maxLength: n }),
        widths: fc.array(fc.integer({ min: 1, max: 4 }), { minLength: n, maxLength: n }),
        ids: fc.shuffledSubarray(
          Array.from({ length: n }, (_, i) => i),
          { minLength: n, maxLength: n },
        ),
        pairs: fc.array(fc.tuple(fc.nat(n - 1), fc.nat(n - 1)), { maxLength: 3 * n }),
        allowed: fc.nat(2),
        relax: fc.boolean(),
      }),
    );
    fc.assert(
      fc.property(fabrics, ({ asns, widths: most, ids, pairs, allowed, relax }) => {
        const routers = asns.map((asn, i) => router(asn, ids[i]!, { maximumPaths: most[i]!, multipathRelax: relax }));
        const outside = pairs.filter(([a, b]) => asns[a] !== asns[b]);
        const edges = edgesOf(routers, outside, { ownAsAllowed: allowed });
        const { counts } = settlePaths(routers, edges);
        routers.forEach((_, o) =>
          expect(widths(routers, edges, o)).toEqual([...counts.subarray(o * routers.length, (o + 1) * routers.length)]),
        );
      }),
      { numRuns: 400 },
    );
  });

  test('iBGP passes on what came from outside, and nothing that came by iBGP, but for clients of a reflector (RFC 4456)', () => {
    const routers = [1, 2, 2, 2].map((asn, i) => router(asn, i));
    const pairs = [
      [0, 1],
      [1, 2],
      [2, 3],
    ] as const;
    expect(widths(routers, edgesOf(routers, pairs), 0)).toEqual([1, 1, 1, 0]);
    // 2 reflects: 3 is its client.
    const edges = edgesOf(routers, pairs).map((e) => ({
      ...e,
      toClient: e.from === 2 && e.to === 3,
      fromClient: e.to === 2 && e.from === 3,
    }));
    const { held } = settleRoutes(routers, edges, PREFIX, new Map([[0, OWN]]));
    expect(held.map((h) => h.length)).toEqual([1, 1, 1, 1]);
    expect(held[2]![0]!.handedOn).toBe(true);
  });

  test('what iBGP tells on keeps its next hop, which need not be next door, and so it is with all told further; unless one puts himself there', () => {
    // 0 is outside; 1 has it; 2 reflects; 3 hears; 4 is outside behind 3.
    const routers = [7, 8, 8, 8, 9].map((asn, i) => router(asn, i));
    const pairs = [
      [0, 1],
      [1, 2],
      [2, 3],
      [3, 4],
    ] as const;
    const far = (origin: number, self: Partial<Record<number, BgpEdge['nextHopSelf']>>) => {
      const edges = edgesOf(routers, pairs).map((e) => ({
        ...e,
        toClient: e.from === 2,
        fromClient: e.to === 2,
        nextHopSelf: self[e.from] ?? null,
      }));
      const { held } = settleRoutes(routers, edges, PREFIX, new Map([[origin, OWN]]));
      return held.map(([h]) => h!.handedOn);
    };
    expect(far(0, {})).toEqual([false, false, true, true, true]);
    expect(far(0, { 1: 'outside' })).toEqual([false, false, false, true, true]);
    // Without “force” a reflector leaves what is from within as it is (seen on FRR 8.4.4).
    expect(far(0, { 1: 'outside', 2: 'outside' })).toEqual([false, false, false, true, true]);
    expect(far(0, { 1: 'outside', 2: 'all' })).toEqual([false, false, false, false, false]);
    expect(far(0, { 2: 'all' })).toEqual([false, false, true, true, true]);
    expect(far(1, {})).toEqual([false, false, false, true, true]);
    expect(far(1, { 2: 'all' })).toEqual([false, false, false, false, false]);
  });

  test('two that each prefer what the other tells never agree: that is said', () => {
    const routers = [1, 2, 3].map((asn, i) => router(asn, i));
    const edges = edgesOf(routers, [
      [0, 1],
      [0, 2],
      [1, 2],
    ]).map((e) => ({ ...e, weight: e.from !== 0 && e.to !== 0 ? 10 : 0 }));
    expect(settleRoutes(routers, edges, PREFIX, new Map([[0, OWN]])).rests).toBe(false);
  });
});

describe('policies in a fabric', () => {
  const after = (text: string, anchor: RegExp, lines: string): string => {
    const out = text.replace(anchor, (m) => `${m}${lines}`);
    if (out === text) throw new Error(`no place for ${lines}`);
    return out;
  };
  const PEER = / neighbor p49 interface peer-group FABRIC\n/;
  const IPV4 = /address-family ipv4 unicast\n(?: {2}redistribute.*\n)? {2}neighbor FABRIC activate\n/;
  /** Paths of sk-lf-01 and sk-lf-02 to the VTEP of the other, with lines in sk-lf-01’s IPv4 family. */
  const paths = (inFamily: string, top = '', anchor = IPV4) => {
    const texts = skerryTexts();
    const leaf = texts['sk-lf-01']!;
    leaf['frr.conf'] = after(leaf['frr.conf'], anchor, inFamily).replace(/^bfd\n/m, `${top}bfd\n`);
    const network = networkFromTexts(texts);
    expect(network.switches.flatMap((s) => s.unread.filter((u) => !u.harmless))).toEqual([]);
    const [here, there] = ['10.255.0.4', '10.255.0.5'];
    return {
      network,
      to: pathsTo(network, 'sk-lf-01', 'sk-lf-02', there),
      from: pathsTo(network, 'sk-lf-02', 'sk-lf-01', here),
      unsure: pathsDoubt(network, 'sk-lf-01', 'sk-lf-02', there),
    };
  };

  test.each([
    ['nothing', '  maximum-paths 64\n', '', 4, 4],
    ['a weight', '  neighbor p49 weight 9\n', '', 1, 4],
    [
      'a local preference',
      '  neighbor p49 route-map M in\n',
      'route-map M permit 10\n set local-preference 90\nexit\n',
      3,
      4,
    ],
    [
      'a longer path told',
      '  neighbor p49 route-map M out\n',
      'route-map M permit 10\n set as-path prepend 65009\nexit\n',
      4,
      3,
    ],
    ['a map that is not there, in', '  neighbor p49 route-map M in\n', '', 3, 4],
    ['a map that is not there, out', '  neighbor p49 route-map M out\n', '', 4, 3],
    [
      'a list of prefixes',
      '  neighbor FABRIC prefix-list L in\n',
      'ip prefix-list L seq 5 deny 10.255.0.5/32\nip prefix-list L seq 10 permit any\n',
      0,
      4,
    ],
    ['a list of paths', '  neighbor FABRIC filter-list P in\n', 'bgp as-path access-list P permit ^65000$\n', 0, 4],
    [
      'a community that keeps it within',
      '  neighbor FABRIC route-map M out\n',
      'route-map M permit 10\n set community no-export\nexit\n',
      4,
      0,
    ],
    ['an aggregate that hides its parts', '  aggregate-address 10.255.0.0/16 summary-only\n', '', 4, 0],
    ['nothing told', '  no redistribute connected\n', '', 4, 0],
    [
      'a list of communities that nothing has',
      '  neighbor FABRIC route-map M out\n',
      'bgp community-list standard K permit 65000:1\nroute-map M permit 10\n set community no-export\n on-match next\nexit\nroute-map M permit 20\n set comm-list K delete\nexit\n',
      4,
      0,
    ],
    ['one path', '  maximum-paths 1\n', '', 1, 4],
  ])('%s', (_what, inFamily, top, to, from) => {
    const family =
      inFamily.includes('redistribute') || inFamily.includes('maximum-paths') ? /maximum-paths 64\n(?= exit)/ : IPV4;
    expect(paths(inFamily, top, family)).toMatchObject({ to, from, unsure: null });
  });

  test('a switch that is taken out of service gently has the same routes, and spines that are, are gone round (RFC 8326)', () => {
    const texts = skerryTexts();
    texts['sk-sp-01']!['frr.conf'] = after(
      texts['sk-sp-01']!['frr.conf'],
      /^router bgp \d+\n/m,
      ' bgp graceful-shutdown\n',
    );
    const network = networkFromTexts(texts);
    expect(pathsTo(network, 'sk-lf-01', 'sk-lf-02', '10.255.0.5')).toBe(3);
    expect(pathsTo(network, 'sk-sp-01', 'sk-lf-02', '10.255.0.5')).toBe(1);
  });

  test.each([
    ['passive at one end', ' neighbor p49 passive\n', '', null],
    ['passive at both', ' neighbor p49 passive\n', ' neighbor p1 passive\n', /both ends wait/],
    [
      'TTL security at one end',
      ' neighbor p49 ttl-security hops 1\n',
      '',
      /asks for 255 or more, sk-sp-01 sends with 1/,
    ],
    ['TTL security at both', ' neighbor p49 ttl-security hops 1\n', ' neighbor p1 ttl-security hops 1\n', null],
    ['more hops than an interface has', ' neighbor p49 ttl-security hops 2\n', '', null],
    [
      'another number shown than is said',
      ' neighbor p49 local-as 65999\n',
      ' neighbor p1 remote-as 65004\n',
      /says AS|AS 65004 is said/,
    ],
    ['any number shown, where any is taken', ' neighbor p49 local-as 65999\n', '', null],
  ])('a session with %s', (_what, here, there, why) => {
    const texts = skerryTexts();
    texts['sk-lf-01']!['frr.conf'] = after(texts['sk-lf-01']!['frr.conf'], PEER, here);
    if (there !== '')
      texts['sk-sp-01']!['frr.conf'] = there.includes('remote-as')
        ? texts['sk-sp-01']!['frr.conf'].replace(
            'neighbor p1 interface remote-as external',
            'neighbor p1 interface remote-as 65004',
          )
        : after(texts['sk-sp-01']!['frr.conf'], / neighbor p1 interface peer-group FABRIC\n/, there);
    const network = networkFromTexts(texts);
    const session = network.sessions.find((s) => s.host === 'sk-lf-01' && s.peer === 'p49')!;
    if (why === null) expect(session).toMatchObject({ up: true, reason: null });
    else expect(session.reason).toMatch(why);
  });

  test('more prefixes than a neighbour may tell may end the session: that is uncertain, unless there are not so many', () => {
    const doubt = (most: number) => paths(`  neighbor p49 maximum-prefix ${most}\n`).unsure;
    expect(doubt(5000)).toBeNull();
    expect(doubt(3)).toBe('sk-lf-01: more than 3 prefixes from p49 end the session');
  });

  test('where only an aggregate leads to a VTEP, who is heard is not certain; where nothing does, it is', () => {
    const hidden = paths('  aggregate-address 10.255.0.0/16 summary-only\n').network;
    expect(vtepsDoubt(hidden, 'sk-lf-02', 10006)).toMatch(/^only 10\.255\.0\.0\/16 of sk-lf-01, which is wider/);
    const gone = paths('  no redistribute connected\n', '', /maximum-paths 64\n(?= exit)/).network;
    expect(vtepsDoubt(gone, 'sk-lf-02', 10006)).toBeNull();
    expect(vtepsHeard(gone, 'sk-lf-02', 10006)).not.toContain('10.255.1.4');
  });

  test('addresses that no policy can tell apart are settled once: as if each were settled by itself', () => {
    const lines = fc.constantFrom(
      '  neighbor p49 route-map M in\n',
      '  neighbor FABRIC route-map M out\n',
      '  neighbor p50 prefix-list L out\n',
      '  neighbor p51 weight 5\n',
      '  aggregate-address 10.255.1.0/24 summary-only\n',
    );
    const top =
      'ip prefix-list L seq 5 permit 10.255.0.0/24 le 32\nroute-map M permit 10\n match ip address prefix-list L\n set local-preference 90\n set as-path prepend 65009\nexit\nroute-map M permit 20\nexit\n';
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom('sk-lf-01', 'sk-lf-02', 'sk-lf-07a'), lines), { minLength: 1, maxLength: 4 }),
        (said) => {
          const texts = skerryTexts();
          for (const [host, line] of said) {
            const text = after(texts[host]!['frr.conf'], IPV4, line);
            texts[host]!['frr.conf'] = text.includes('route-map M permit')
              ? text
              : text.replace(/^bfd\n/m, `${top}bfd\n`);
          }
          const network = networkFromTexts(texts);
          const family = routedFamily(network.sessions, network, 'ipv4');
          for (const [owner, view] of network.views)
            for (const address of view.announced) {
              const prefix = { address: parseIpv4(address)!, length: 32 };
              const { held } = settlePrefix(network, family, prefix, owner);
              expect(network.switches.map((s) => pathsTo(network, s.host, owner, address))).toEqual(
                held.map((h) => h.length),
              );
            }
        },
      ),
      { numRuns: 25 },
    );
  });

  test('EVPN told over loopbacks: up where both call from them and know the way', () => {
    const texts = skerryTexts();
    const own = { 'sk-lf-01': '10.255.0.4', 'sk-lf-02': '10.255.0.5' };
    const asOf = (host: string): string => /^router bgp (\d+)$/m.exec(texts[host]!['frr.conf'])![1]!;
    for (const [host, other] of [
      ['sk-lf-01', 'sk-lf-02'],
      ['sk-lf-02', 'sk-lf-01'],
    ] as const) {
      const far = own[other];
      const n = `neighbor ${far}`;
      texts[host]!['frr.conf'] = after(
        after(
          texts[host]!['frr.conf'],
          PEER,
          ` ${n} remote-as ${asOf(other)}\n ${n} ebgp-multihop 3\n ${n} update-source lo\n`,
        ),
        /address-family l2vpn evpn\n {2}neighbor FABRIC activate\n/,
        `  ${n} activate\n`,
      );
    }
    const over = (t: typeof texts) =>
      networkFromTexts(t).sessions.find((s) => s.host === 'sk-lf-01' && s.peer === '10.255.0.5')!;
    expect(over(texts)).toMatchObject({ up: true, evpn: true, ipv4: false, farHost: 'sk-lf-02' });
    const cut = structuredClone(texts);
    cut['sk-lf-02']!['frr.conf'] = cut['sk-lf-02']!['frr.conf'].replace(
      '  redistribute connected route-map CONNECTED\n',
      '',
    );
    expect(over(cut).reason).toBe('no route to 10.255.0.5 of sk-lf-02');
    const near = structuredClone(texts);
    near['sk-lf-02']!['frr.conf'] = near['sk-lf-02']!['frr.conf'].replace(/ neighbor \S+ ebgp-multihop 3\n/, '');
    expect(over(near).reason).toMatch(/needs ebgp-multihop at both ends/);
  });
});
