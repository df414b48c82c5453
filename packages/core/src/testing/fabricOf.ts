import fc from 'fast-check';
import { deriveConfigs } from '../config/deriveConfigs.ts';
import { applyEdits } from '../intent/edits/index.ts';
import { layEdits, MODELS, POOLS, RACK_PATTERNS, SKERRY_POOLS, tenantEdits } from '../demo/skerry.ts';
import type { Edit } from '../intent/edits/index.ts';
import { emptyIntent, type FabricIntent } from '../intent/intent.ts';
import { layOut } from '../layout/layout.ts';
import { isRouted, type FabricPattern, type RackPattern } from '../patterns/patterns.ts';
import { demandsOf } from '../pools/demands.ts';
import { drawValues, NOTHING_HELD } from '../pools/drawValues.ts';

/** An intent with everything computed up to SwitchConfig; throws where a step has findings. */
export function configsOf(intent: FabricIntent, pools = POOLS) {
  const layout = layOut(intent);
  const drawn = drawValues(demandsOf(intent, layout), pools, NOTHING_HELD, { fabric: intent.name, change: null });
  if (drawn.findings.length > 0) throw new Error(drawn.findings[0]!.message);
  return { layout, drawn, configs: deriveConfigs(intent, layout, drawn.values, pools) };
}

/** Applies edits to an empty fabric `tarn`; throws on the first that is refused. */
export function intentOf(...edits: Edit[]): FabricIntent {
  const made = applyEdits(emptyIntent('tarn', 'tn'), edits);
  if (made.findings.length > 0) throw new Error(`edit ${made.failedAt}: ${made.findings[0]!.message}`);
  return made.intent;
}

/** Lays racks under two spines. */
export const layRacks = (racks: FabricPattern['racks'], settings: FabricPattern['settings'] = {}) =>
  ({
    kind: 'layFabric',
    pattern: { name: 'any', description: '', spines: { count: 2, model: 'TV-S32C' }, parallel: 1, racks, settings },
    models: MODELS,
    rackPatterns: RACK_PATTERNS,
  }) satisfies Edit;
/** Lays a border pair and a rack of one leaf. */
export const LAY_BORDER = layRacks([
  { pattern: 'border-pair', count: 1 },
  { pattern: 'single-48', count: 1 },
]);

/** Fabric patterns of all settings the linux dialect can express, small enough to test with. */
export const patterns: fc.Arbitrary<FabricPattern> = fc
  .record({
    spines: fc.integer({ min: 1, max: 4 }),
    parallel: fc.integer({ min: 1, max: 2 }),
    singles: fc.integer({ min: 0, max: 3 }),
    pairs: fc.integer({ min: 0, max: 2 }),
    settings: fc.record({
      asnScheme: fc.constantFrom('per-leaf' as const, 'per-rack' as const, 'two' as const),
      underlay: fc.constantFrom('numbered' as const, 'unnumbered' as const),
      bfd: fc.boolean(),
      vniRule: fc.constantFrom('drawn' as const, 'base' as const),
      linkMtu: fc.constantFrom(9216, 9100),
    }),
  })
  .map((p) => ({
    name: 'any',
    description: '',
    spines: { count: p.spines, model: 'TV-S32C' },
    parallel: p.parallel,
    racks: [
      { pattern: 'single-48', count: p.singles },
      { pattern: 'pair-48', count: p.pairs },
    ],
    settings: p.settings,
  }));

/** The same settings on fabrics of five stages and on collapsed ones. */
export const otherShapes: fc.Arbitrary<FabricPattern> = fc.oneof(
  fc
    .tuple(
      patterns,
      fc.record({
        pods: fc.integer({ min: 1, max: 3 }),
        supers: fc.integer({ min: 1, max: 2 }),
        planes: fc.integer({ min: 1, max: 2 }),
      }),
    )
    .map(([p, { pods, supers, planes }]): FabricPattern => ({
      ...p,
      shape: 'five-stages',
      pods,
      superSpines: { count: supers, model: 'TV-S32C' },
      spines: { ...p.spines, count: planes },
      racks: p.racks.map((r) => ({ ...r, count: Math.min(r.count, 2) })),
    })),
  patterns.map((p): FabricPattern => ({
    ...p,
    shape: 'collapsed',
    spines: { count: 0, model: '' },
    racks: [
      { pattern: 'single-48', count: Math.max(p.racks[0]!.count, 1) },
      { pattern: 'pair-48', count: Math.min(p.racks[1]!.count, 1) || 1 },
    ],
    parallel: 1,
    settings: { ...p.settings, asnScheme: 'per-leaf' },
  })),
);

/** Parts that say more than the demo's: split ports on both floors. */
const SPLIT: RackPattern = {
  name: 'split-25',
  kind: 'single',
  leafModel: 'TV-L48F',
  serverPorts: 'p1-p40,p49s1-p52s4',
  uplinkPorts: 'p41-p48',
  breakouts: [{ ports: 'p49-p52', into: 4 }],
};
const ALL_RACKS = [...RACK_PATTERNS, SPLIT];
const racksOf = (pattern: FabricPattern): RackPattern[] =>
  ALL_RACKS.filter((r) => pattern.racks.some((e) => e.pattern === r.name) || /^(pair|single)-48$/.test(r.name));

/** Fabrics of every shape with what else can be said of one: peers, duties, unlike models, split ports, names, management. */
const widePatterns: fc.Arbitrary<FabricPattern> = fc
  .tuple(
    fc.oneof(patterns, otherShapes),
    fc.constantFrom('border', 'split', 'switched'),
    fc.record({
      names: fc.boolean(),
      unlike: fc.boolean(),
      management: fc.boolean(),
    }),
  )
  .map(([p, kind, { names, unlike, management }]): FabricPattern => {
    const renamed: readonly (readonly [string, string])[] =
      kind === 'border'
        ? [['pair-48', 'border-pair']]
        : [
            ['single-48', 'split-25'],
            ['pair-48', 'split-25'],
          ];
    const racks = p.racks.map((r) => ({ ...r, pattern: renamed.find(([n]) => n === r.pattern)?.[1] ?? r.pattern }));
    const split = kind === 'border' ? {} : { breakouts: [{ ports: 'p1-p32', into: 4 }] };
    const others = unlike && p.spines.count > 0 ? { others: [{ number: 1, model: 'BW-L32D' }] } : {};
    const tier = { ...split, ...others };
    const base: FabricPattern = {
      ...p,
      // A border of the demo has six uplinks.
      parallel: kind === 'border' ? 1 : p.parallel,
      racks: kind === 'switched' && racks[0]!.count === 0 ? [{ ...racks[0]!, count: 1 }] : racks,
      spines: { ...p.spines, ...(p.spines.count > 0 ? tier : {}) },
      ...(p.superSpines ? { superSpines: { ...p.superSpines, ...tier } } : {}),
      ...(management ? { management: { port: 'eth0', ports: 'p1-p4' } } : {}),
      settings: {
        ...p.settings,
        ...(kind === 'border' ? { asnScheme: 'per-leaf' as const } : {}),
        ...(names
          ? {
              leafName: '{prefix}-rack{rack:3}{side}',
              spineName: 'top-{pod}-{number:1}',
              superSpineName: 'core{plane}-{number}-{prefix}',
            }
          : {}),
      },
    };
    if (kind !== 'switched') return base;
    const { pods: _, superSpines: __, ...flat } = base;
    return {
      ...flat,
      shape: 'switched',
      spines: flat.spines.count > 0 ? flat.spines : { count: 2, model: 'TV-S32C', ...tier },
    };
  });

/** Fabrics of every shape that is routed, of one AS, led by OSPF. */
const singlePatterns: fc.Arbitrary<FabricPattern> = fc
  .oneof(patterns, otherShapes)
  .map((p) => ({ ...p, settings: { ...p.settings, asnScheme: 'single' } }));

/** Intents with tenants: VRFs, networks on some of the racks, servers on their ports. */
const intentsOf = (of: fc.Arbitrary<FabricPattern>, bridged = false): fc.Arbitrary<FabricIntent> =>
  fc
    .record({
      pattern: of,
      vrfs: fc.integer({ min: 0, max: 3 }),
      networks: fc.array(
        fc.record({
          vrf: fc.nat(2),
          racks: fc.array(fc.integer({ min: 1, max: 5 }), { maxLength: 4 }),
          mtu: fc.option(fc.constantFrom(1500, 9000), { nil: undefined }),
          servers: fc.nat(2),
        }),
        { maxLength: 5 },
      ),
    })
    .map(({ pattern, vrfs, networks }) => {
      const laid = intentOf({ kind: 'layFabric', pattern, models: MODELS, rackPatterns: ALL_RACKS }).racks;
      const rackCount = laid.length;
      const isPair = new Set(laid.filter((r) => r.pattern.includes('pair')).map((r) => r.number));
      const routed = isRouted(pattern);
      const usual = (n: number): string => `p${1 + (n % 48)}`;
      // Of split ports the first ones, then whole ones.
      const portOf = (n: number): string =>
        pattern.racks.some((r) => r.pattern === SPLIT.name)
          ? n < 16
            ? `p${49 + (n >> 2)}s${1 + (n & 3)}`
            : `p${n - 15}`
          : usual(n);
      const edits: Edit[] = [
        { kind: 'layFabric', pattern, models: MODELS, rackPatterns: racksOf(pattern) },
        { kind: 'choosePools', pools: SKERRY_POOLS },
      ];
      for (let v = 0; v < vrfs && routed; v++)
        edits.push({ kind: 'addVrf', vrf: { name: `vrf${v}`, transitVlan: 4001 + v } });
      let port = 0;
      networks.forEach((n, i) => {
        if (vrfs === 0 && !bridged) return;
        const vrf = !routed || vrfs === 0 || (bridged && i % 3 === 0) ? '' : `vrf${n.vrf % vrfs}`;
        const racks = [...new Set(n.racks.filter((r) => r <= rackCount))];
        const mtu = n.mtu === undefined ? {} : { mtu: n.mtu };
        edits.push({
          kind: 'addNetwork',
          network: { name: `net${i}`, vrf, vlan: 100 + i, subnetLength: 24, racks, ...mtu },
        });
        for (let s = 0; s < n.servers; s++)
          for (const rack of racks)
            edits.push({
              kind: 'connectServer',
              port: {
                rack,
                side: isPair.has(rack) ? (s % 2 === 0 ? 'both' : 'b') : 'a',
                port: portOf(port++),
                server: `srv${i}-${s}`,
                untagged: `net${i}`,
                tagged: [],
                ...(s === 1 ? { shut: true } : {}),
              },
            });
      });
      return intentOf(...edits);
    });

export const intents = intentsOf(patterns);
export const otherIntents = intentsOf(otherShapes);
export const singleIntents = intentsOf(singlePatterns);
/** Everything a shape can have, with networks that are bridged only and cables to the outside. */
export const wideIntents: fc.Arbitrary<FabricIntent> = intentsOf(widePatterns, true).map((intent) =>
  intent.racks
    .filter((r) => r.pattern === 'border-pair')
    .reduce((now, rack) => {
      const link = {
        rack: rack.number,
        side: 'b',
        port: 'p46',
        system: 'offing-1',
        farPort: `eth${rack.number}`,
      } as const;
      return applyEdits(now, [{ kind: 'joinOutside', link }]).intent;
    }, intent),
);

/** What is said of IPv6 where that is said of IPv4. */
const OF_IPV6: ReadonlyMap<string, string> = new Map([
  ['0.0.0.0/0', '::/0'],
  ['198.51.100.0/24', '2001:db8:198::/48'],
  ['203.0.113.0/24', '2001:db8:203::/48'],
  ['10.0.0.0/8', '2001:db8::/36'],
]);

/** The same with tenants that speak to routers outside over those cables or VLANs of them, in either family or both, and to one router over two. */
export const borderIntents: fc.Arbitrary<FabricIntent> = fc
  .tuple(
    intentsOf(
      fc.oneof(patterns, otherShapes).map((p) => ({
        ...p,
        parallel: 1,
        racks: p.racks.map((r) =>
          r.pattern === 'pair-48' ? { pattern: 'border-pair', count: Math.max(r.count, 1) } : r,
        ),
        settings: { ...p.settings, asnScheme: 'per-leaf' as const },
      })),
    ),
    fc.array(
      fc.record({
        side: fc.constantFrom('a' as const, 'b' as const),
        system: fc.constantFrom('offing-1', 'offing-2'),
        vrf: fc.nat(2),
        vlan: fc.option(fc.constantFrom(100, 4094), { nil: undefined }),
        families: fc.constantFrom([4], [4, 6], [6]),
        length: fc.constantFrom(30, 31),
        takes: fc.constantFrom([], ['198.51.100.0/24'], ['0.0.0.0/0', '203.0.113.0/24']),
        tells: fc.constantFrom([], ['10.0.0.0/8']),
        limit: fc.option(fc.constant(500), { nil: undefined }),
        bfd: fc.boolean(),
      }),
      { minLength: 1, maxLength: 3 },
    ),
  )
  .map(([intent, all]) => {
    const racks = intent.racks.filter((r) => r.pattern === 'border-pair');
    if (intent.vrfs.length === 0 || racks.length === 0) return intent;
    return all.reduce((now, { side, system, vrf, vlan, families, length, limit, bfd, ...told }, i) => {
      const at = { rack: racks[i % racks.length]!.number, side, port: `p${44 + i}` };
      const done = applyEdits(now, [
        { kind: 'joinOutside', link: { ...at, system, farPort: `eth${i}` } },
        ...families.map((family): Edit => {
          const [first, second] = length === 30 ? [1, 2] : [0, 1];
          const six = family === 6;
          return {
            kind: 'putNeighbour',
            neighbour: {
              ...at,
              ...(vlan === undefined ? {} : { vlan }),
              vrf: intent.vrfs[vrf % intent.vrfs.length]!.name,
              address: six
                ? `2001:db8:ffff:${i + 1}::${first || ''}/${length + 96}`
                : `192.0.2.${8 * i + first}/${length}`,
              far: six ? `2001:db8:ffff:${i + 1}::${second}` : `192.0.2.${8 * i + second}`,
              asn: system === 'offing-1' ? 64701 : 64702,
              takes: six ? told.takes.map((p) => OF_IPV6.get(p)!) : told.takes,
              tells: six ? told.tells.map((p) => OF_IPV6.get(p)!) : told.tells,
              ...(limit === undefined ? {} : { limit }),
              ...(bfd ? { bfd } : {}),
            },
          };
        }),
      ]);
      if (done.findings.length > 0) throw new Error(done.findings[0]!.message);
      return done.intent;
    }, intent);
  });

export const tenants = tenantEdits;
export { layEdits };
