import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { compileFabric } from './compileFabric.ts';
import { FABRIC_PATTERNS, layEdits, POOLS, skerryIntent } from '../demo/skerry.ts';
import { linux } from '../dialects/linux/linux.ts';
import { hasServers } from '../layout/seats.ts';
import { pathsTo } from '../network/networkModel.ts';
import { hostPart } from '../numbers/ipv4.ts';
import { originOf } from '../config/origins.ts';
import type { Place } from '../config/switchConfig.ts';
import { applyEdit, type Edit } from '../intent/edits/index.ts';
import type { FabricIntent } from '../intent/intent.ts';
import type { RouteAnswer } from '../ask/answer.ts';
import { routesOf } from '../ask/routesOf.ts';
import { ASN_SCHEMES, shapeOf, type AsnScheme, type FabricSettings } from '../patterns/patterns.ts';
import { judgeNetwork } from '../proof/judgeNetwork.ts';
import { modelFabric, proveChange } from '../proof/proveChange.ts';
import { configsOf, intentOf, singleIntents } from '../testing/fabricOf.ts';

const withScheme = (asnScheme: AsnScheme, underlay: 'numbered' | 'unnumbered' = 'numbered') => {
  const intent = skerryIntent();
  return { ...intent, settings: { ...intent.settings, asnScheme, underlay } };
};
const of = (scheme: AsnScheme) => configsOf(withScheme(scheme));
const numbers = (scheme: AsnScheme) => {
  const { layout, configs } = of(scheme);
  const asOf = (servers: boolean) =>
    layout.seats.filter((s) => hasServers(s) === servers).map((s) => configs.get(s.id)!.bgp!.asn);
  return {
    leaves: new Set(asOf(true)).size,
    spines: new Set(asOf(false)).size,
    all: new Set([...asOf(true), ...asOf(false)]).size,
  };
};

describe('AS numbers of a fabric', () => {
  test('who has one of his own, scheme by scheme: ten leaves in eight racks, four spines', () => {
    expect(Object.fromEntries(ASN_SCHEMES.map((s) => [s, numbers(s)]))).toEqual({
      'per-leaf': { leaves: 10, spines: 1, all: 11 },
      'per-rack': { leaves: 8, spines: 1, all: 9 },
      two: { leaves: 1, spines: 1, all: 2 },
      single: { leaves: 1, spines: 1, all: 1 },
    });
  });

  test.each(ASN_SCHEMES)('%s: every leaf has every VTEP over all spines, and no rule finds anything', (scheme) => {
    for (const underlay of ['numbered', 'unnumbered'] as const) {
      const intent = withScheme(scheme, underlay);
      const compiled = compileFabric(intent, configsOf(intent).drawn.values, POOLS);
      const network = modelFabric(compiled);
      const leaves = network.switches.filter((s) => s.config.vxlans.length > 0);
      for (const a of leaves)
        for (const b of leaves)
          if (a !== b) {
            const vtep = b.config.vxlans[0]!.localAddress!;
            expect(pathsTo(network, a.host, b.host, vtep), `${a.host} ${b.host}`).toBe(4);
          }
      expect(judgeNetwork(network).findings).toEqual([]);
    }
  });

  test('leaves that share one let it come back once, and nobody else does', () => {
    const allowed = (scheme: AsnScheme): string[] =>
      [...of(scheme).configs.values()].flatMap((c) =>
        Object.keys(c.bgp!.evpn.ownAsAllowed).length > 0 ? c.hostname : [],
      );
    expect(allowed('per-leaf')).toEqual([]);
    expect(allowed('per-rack')).toEqual(['sk-lf-07a', 'sk-lf-07b', 'sk-lf-08a', 'sk-lf-08b']);
    expect(allowed('two')).toHaveLength(10);
    expect(allowed('single')).toEqual([]);
  });
});

test('one number for leaves that are joined to one another is refused, with the cure; those of the demo are not', () => {
  const refused = (intent: FabricIntent, asnScheme: AsnScheme) =>
    applyEdit(intent, { kind: 'changeSettings', settings: { asnScheme } }).findings.map((f) => [f.path, f.message]);
  const laid = (name: string) => intentOf(...layEdits(FABRIC_PATTERNS.find((p) => p.name === name)!));
  for (const scheme of ['two', 'per-rack'] as const) {
    expect(refused(laid('small-room'), scheme)).toEqual([
      ['/settings/asnScheme', expect.stringMatching(/^Leaves of a collapsed fabric are joined/)],
    ]);
    expect(refused(skerryIntent(), scheme)).toEqual([]);
  }
  expect(refused(laid('small-room'), 'single')).toEqual([]);
  const peers = skerryIntent().rackPatterns.map((p) => (p.name === 'pair-48' ? { ...p, peerPorts: 'p47-p48' } : p));
  expect(refused({ ...skerryIntent(), rackPatterns: peers }, 'two')).toEqual([
    ['/settings/asnScheme', expect.stringMatching(/^The halves of rack 7 \(pair-48\) are joined by peer ports/)],
  ]);
});

describe('a scheme that is changed where switches run', () => {
  const state = (asnScheme: AsnScheme, keepalive = 3, seated = true) => {
    const intent = withScheme(asnScheme);
    const settings = { ...intent.settings, keepalive };
    const made = { ...intent, settings, seating: seated ? intent.seating : {} };
    return { intent: made, values: configsOf(made).drawn.values };
  };
  const warned = (...[from, to]: readonly ReturnType<typeof state>[]): string[] =>
    proveChange(from!, to!, POOLS).report.findings.flatMap((f) => (f.rule === 'both-ends-together' ? f.message : []));
  test('is said to want both ends together, with whom; a change that does not, and a fabric where nobody sits, are not', () => {
    expect(warned(state('per-leaf'), state('single'))).toEqual([
      expect.stringMatching(/^14 switches have to be sent to together: 80 of 80 session ends are down while only one/),
    ]);
    expect(warned(state('single'), state('per-leaf'))).toHaveLength(1);
    // The spines say numbers that the leaves no longer have.
    expect(warned(state('per-leaf'), state('two'))).toHaveLength(1);
    // Of BGP the lower keepalive counts.
    expect(warned(state('per-leaf'), state('per-leaf', 2))).toEqual([]);
    // OSPF compares the MTUs of a link, BGP does not.
    const smaller = (of: ReturnType<typeof state>) => ({
      ...of,
      intent: { ...of.intent, settings: { ...of.intent.settings, linkMtu: 9200 } },
    });
    expect(warned(state('single'), smaller(state('single')))).toHaveLength(1);
    expect(warned(state('per-leaf'), smaller(state('per-leaf')))).toEqual([]);
    expect(warned(state('per-leaf', 3, false), state('single', 3, false))).toEqual([]);
    expect(warned(state('single'), state('single'))).toEqual([]);
  });
});

describe('one AS, led by OSPF', () => {
  test('spines pass on what leaves say; leaves speak to every spine, from loopback to loopback, and to nobody else', () => {
    const { layout, configs } = of('single');
    const loopbackOf = (servers: boolean): string[] =>
      layout.seats
        .filter((s) => hasServers(s) === servers)
        .map((s) => hostPart(configs.get(s.id)!.loopbacks[0]!))
        .sort();
    for (const seat of layout.seats) {
      const { bgp, ospf, ospfPorts, prefixLists, routeMaps } = configs.get(seat.id)!;
      const spoken = bgp!.peers.flatMap((p) => (p.kind === 'address' ? p.name : [])).sort();
      expect(spoken).toEqual(loopbackOf(!hasServers(seat)));
      expect(bgp!.evpn.policies).toEqual(hasServers(seat) ? undefined : [{ peer: 'CLIENTS', reflectorClient: true }]);
      expect(bgp!.ipv4).toEqual({ active: [], ownAsAllowed: {} });
      expect([prefixLists, routeMaps]).toEqual([[], []]);
      expect(ospf).toEqual({ routerId: bgp!.routerId, networks: [] });
      expect(
        ospfPorts!.every(
          (p) =>
            p.area === '0.0.0.0' && (p.name === 'lo' || (p.pointToPoint && p.hello === 3 && p.dead === 9 && p.bfd)),
        ),
      ).toBe(true);
      expect(ospfPorts).toHaveLength(1 + (layout.linksOf.get(seat.id)?.length ?? 0));
    }
  });

  test('a change that makes it so is what its lines come of; one of timers is what theirs come of', () => {
    const intent = withScheme('single');
    const { layout, drawn } = configsOf(intent);
    const seat = layout.seats.find(hasServers)!;
    const edit = (place: Place, settings: Partial<FabricSettings>) => {
      const edits: Edit[] = [{ kind: 'changeSettings', settings }];
      return originOf(place, { intent, layout, seat, values: drawn.values, ledger: [], edits }).edit?.sentence;
    };
    const lines: readonly Place[] = [
      ['ospf', 'routerId'],
      ['ospfPorts', 'lo', 'area'],
      ['ospfPorts', 'p49', 'area'],
      ['ospfPorts', 'p49', 'hello'],
      ['ospfPorts', 'p49', 'bfd'],
      ['bgp', 'peers', '10.255.0.0', 'group'],
      ['bgp', 'evpn', 'active'],
    ];
    for (const place of lines) expect(edit(place, { asnScheme: 'single' }), place.join()).toMatch(/^Set AS numbers/);
    const timed = lines.filter((place) => edit(place, { keepalive: 5 }) !== undefined);
    expect(timed).toEqual([['ospfPorts', 'p49', 'hello']]);
  });

  test('links without addresses borrow that of the loopback; with them each has its own', () => {
    const { layout, configs } = configsOf(withScheme('single', 'unnumbered'));
    const leaf = configs.get(layout.seats.find(hasServers)!.id)!;
    const up = leaf.ports.filter((p) => p.bridging === undefined && leaf.ospfPorts!.some((o) => o.name === p.name));
    expect(new Set(up.flatMap((p) => p.addresses))).toEqual(new Set([leaf.loopbacks[0]]));
    const apart = [...of('single').configs.values()].flatMap((c) => c.ports.flatMap((p) => p.addresses));
    expect(new Set(apart).size).toBe(apart.length);
  });

  test('which of several VTEPs a switch sends to is certain where all are equally far, and not where one is next door', () => {
    const unsure = (of: typeof singleIntents, seed: number): Set<boolean> => {
      const found = new Set<boolean>();
      for (const intent of fc.sample(of, { numRuns: 30, seed })) {
        const { drawn } = configsOf(intent);
        const network = modelFabric(compileFabric(intent, drawn.values, POOLS));
        for (const { host, config } of network.switches)
          for (const { name } of config.vrfs)
            for (const r of routesOf(network, host, name) as readonly RouteAnswer[])
              if (r.kind === 'evpn' && r.ways.length > 1) found.add(r.unsure !== null);
      }
      return found;
    };
    expect(
      unsure(
        singleIntents.filter((i) => shapeOf(i) === 'three-stages'),
        1,
      ),
    ).toEqual(new Set([false]));
    expect(
      unsure(
        singleIntents.filter((i) => shapeOf(i) === 'collapsed'),
        1,
      ),
    ).toEqual(new Set([true]));
  });

  test('over three floors each reflects to the one below, and in a collapsed fabric all speak to all', () => {
    fc.assert(
      fc.property(singleIntents, (intent) => {
        const { layout, configs } = configsOf(intent);
        const single = new Set([...configs.values()].map((c) => c.bgp!.asn));
        expect(single.size).toBeLessThan(2);
        for (const seat of layout.seats) {
          const { bgp } = configs.get(seat.id)!;
          const reflects = (bgp!.evpn.policies ?? []).some((p) => p.reflectorClient);
          const below = layout.links.some(
            (l) => l.kind === 'fabric' && l.b.seat === seat.id && layout.seatById.get(l.a.seat)!.tier !== seat.tier,
          );
          expect(reflects).toBe(below);
          expect(linux.parse(linux.render(configs.get(seat.id)!).files)).toMatchObject({
            config: configs.get(seat.id),
            unread: [],
          });
        }
      }),
      { numRuns: 40 },
    );
  });
});
