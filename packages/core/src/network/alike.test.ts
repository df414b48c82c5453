import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { PeerPolicy } from '../config/bgp.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import { cablesOf } from '../layout/links.ts';
import { configsOf, intents, singleIntents } from '../testing/fabricOf.ts';
import { ospfChoices, withOspf } from '../testing/ospfOf.ts';
import { skerryIntent } from '../demo/skerry.ts';
import { applyEdits, type Edit } from '../intent/edits/index.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { groupBy } from '../numbers/order.ts';
import type { RackPattern } from '../patterns/patterns.ts';
import { picks } from '../testing/drainedOf.ts';
import { dualIntents } from '../testing/familiesOf.ts';
import { alikeOutside } from './alikeOutside.ts';
import { byTables, underlay6Of } from './underlay6.ts';
import { alikeWithin } from './alikeWithin.ts';
import { pathsIn, settleAsAsked, unsureIn } from './families.ts';
import { modelNetwork } from './modelNetwork.ts';
import { vniEnd, whyUnheard, type NetworkModel } from './networkModel.ts';
import { routedFamily } from './routedFamily.ts';

/** Something of one switch that makes it unlike the others, or takes it apart. */
const damages = fc.record({ at: fc.nat(), what: fc.nat(10), which: fc.nat(), cost: fc.constantFrom(1, 10, 20) });
type Damage = typeof damages extends fc.Arbitrary<infer D> ? D : never;
function damaged(all: readonly SwitchConfig[], { at, what, which, cost }: Damage): SwitchConfig[] {
  const i = at % all.length;
  const c = all[i]!;
  const put = (config: SwitchConfig): SwitchConfig[] => all.map((x, n) => (n === i ? config : x));
  const { bgp, ospfPorts = [] } = c;
  const port = ospfPorts.length === 0 ? -1 : which % ospfPorts.length;
  const withPolicy = (more: Partial<PeerPolicy>): SwitchConfig[] => {
    if (!bgp) return [...all];
    const [first] = bgp.peers;
    if (!first) return [...all];
    const others = (bgp.evpn.policies ?? []).filter((p) => p.peer !== first.name);
    const own = (bgp.evpn.policies ?? []).find((p) => p.peer === first.name);
    return put({
      ...c,
      bgp: { ...bgp, evpn: { ...bgp.evpn, policies: [...others, { peer: first.name, ...own, ...more }] } },
    });
  };
  switch (what) {
    case 0:
      return put({ ...c, ospfPorts: ospfPorts.map((p, n) => (n === port ? { ...p, cost } : p)) });
    case 1:
      return put({ ...c, ospfPorts: ospfPorts.filter((_, n) => n !== port) });
    case 2:
      return bgp
        ? put({ ...c, bgp: { ...bgp, routerId: all[which % all.length]!.bgp?.routerId ?? '10.0.0.1' } })
        : [...all];
    case 3:
      return bgp
        ? put({
            ...c,
            bgp: { ...bgp, peers: bgp.peers.filter((p, n) => p.kind === 'group' || n !== which % bgp.peers.length) },
          })
        : [...all];
    case 4:
      return withPolicy({ reflectorClient: which % 2 === 0 });
    case 5:
      return withPolicy({ weight: cost });
    case 6:
      return c.ospf ? put({ ...c, ospf: { ...c.ospf, maximumPaths: 1 + (which % 3) } }) : [...all];
    case 7: {
      const { localAddress } = all[which % all.length]!.vxlans[0] ?? {};
      const vxlans = c.vxlans.map((v) => (localAddress === undefined ? v : { ...v, localAddress }));
      return put({ ...c, vxlans });
    }
    case 8:
      return put({ ...c, loopbacks: c.loopbacks.slice(0, -1) });
    case 9:
      return bgp ? put({ ...c, bgp: { ...bgp, ipv4: { ...bgp.ipv4, maximumPathsInternal: 1 } } }) : [...all];
    default:
      return bgp ? put({ ...c, bgp: { ...bgp, localPreference: 100 + (which % 2) } }) : [...all];
  }
}

const asking = (c: SwitchConfig): SwitchConfig => (c.bgp ? { ...c, bgp: { ...c.bgp, gracefulShutdown: true } } : c);

/** Whatever is settled once for several is what it is for each, one by one. */
function mustBeAsEachAlone(model: NetworkModel): void {
  const one = settleAsAsked(model, model.sessions, new Set());
  const hosts = model.switches.map((s) => s.host);
  for (const [o, owner] of hosts.entries()) {
    const alone = one(o);
    for (const address of [undefined, ...model.views.get(owner)!.announced])
      for (const [r, host] of hosts.entries()) {
        const at = `${owner} ${address ?? ''} at ${host}`;
        if (address === undefined || model.holders.get(address)!.length === 1) {
          expect([at, pathsIn(model.underlay, o, r, address)]).toEqual([at, alone.paths('underlay', r, address)]);
          expect([at, unsureIn(model.underlay, o, r, address)]).toEqual([at, alone.unsure('underlay', r, address)]);
        }
        expect([at, pathsIn(model.evpn, o, r)]).toEqual([at, alone.paths('evpn', r)]);
        expect([at, unsureIn(model.evpn, o, r)]).toEqual([at, alone.unsure('evpn', r)]);
      }
  }
  const unheard = [...model.carriers].flatMap(([vni, carriers]) =>
    carriers.flatMap((s) =>
      carriers.flatMap((l) => {
        const end = (host: string) => vniEnd(host, vni, model.views.get(host)!.l2Vnis.get(vni)!);
        return l !== s && whyUnheard(model, end(l), end(s)) !== null ? [`${vni} ${s} ${l}`] : [];
      }),
    ),
  );
  expect(model.unheard.map((u) => `${u.vni} ${u.speaker} ${u.listener}`).sort()).toEqual(unheard.sort());
}
const modelOf = (configs: readonly SwitchConfig[], cables: ReturnType<typeof cablesOf>): NetworkModel =>
  modelNetwork(
    configs.map((config) => ({ host: config.hostname, config, unread: [] })),
    cables,
  );

describe('switches that are alike', () => {
  test('of one AS led by OSPF all leaves are, and the reflectors', () => {
    const [intent] = fc.sample(
      singleIntents.filter((i) => i.spines.count > 1 && i.racks.length > 3 && i.shape === undefined),
      { numRuns: 1, seed: 7 },
    );
    const { layout, configs } = configsOf(intent!);
    const model = modelOf([...configs.values()], cablesOf(layout));
    const { routers, edges } = routedFamily(model.sessions, model, 'evpn');
    for (const classes of [alikeWithin(routers, edges), model.ospf!.alike()]) {
      expect(new Set(classes).size).toBeLessThan(model.switches.length / 2);
      expect([...classes].filter((c) => c >= 0).length).toBeGreaterThan(model.switches.length / 2);
    }
  });

  test('a VTEP that another switch has is heard of nobody, though all lead there', () => {
    const [intent] = fc.sample(
      singleIntents.filter((i) => i.spines.count > 1 && i.networks.some((n) => n.racks.length > 2)),
      { numRuns: 1, seed: 7 },
    );
    const { layout, configs } = configsOf(intent!);
    const [one, other] = [...configs.values()].filter((c) => c.vxlans.length > 0);
    const { localAddress } = other!.vxlans[0]!;
    const wrong = { ...one!, vxlans: one!.vxlans.map((v) => ({ ...v, localAddress: localAddress! })) };
    const model = modelOf(
      [...configs.values()].map((c) => (c === one ? wrong : c)),
      cablesOf(layout),
    );
    expect(new Set(model.unheard.map((u) => u.speaker))).toEqual(new Set([one!.hostname]));
    mustBeAsEachAlone(model);
  });

  test('settle as each by itself, also where one is otherwise', () => {
    fc.assert(
      fc.property(singleIntents, fc.array(damages, { maxLength: 3 }), (intent, some) => {
        const { layout, configs } = configsOf(intent);
        const all = some.reduce(damaged, [...configs.values()]);
        mustBeAsEachAlone(modelOf(all, cablesOf(layout)));
      }),
      { numRuns: 150 },
    );
  });

  test('with eBGP leaves of the same spines are, alone or with who shares their AS number; who asks to be gone round is not', () => {
    const sizes = (asnScheme: FabricIntent['settings']['asnScheme'], kind: RackPattern['kind']): number[] => {
      const one = skerryIntent();
      const racks = one.racks.filter((r) => one.rackPatterns.find((p) => p.name === r.pattern)!.kind === kind);
      const gone = one.racks
        .filter((r) => !racks.includes(r))
        .map((r): Edit => ({ kind: 'removeRack', number: r.number }));
      const { intent } = applyEdits(one, [...gone, { kind: 'changeSettings', settings: { asnScheme } }]);
      const { layout, configs } = configsOf(intent);
      const model = modelOf(
        [...configs.values()].map((c, i) => (i === 0 ? asking(c) : c)),
        cablesOf(layout),
      );
      const { routers, edges } = routedFamily(model.sessions, model, 'ipv4');
      const { classes } = alikeOutside(routers, edges);
      return [
        ...groupBy(
          [...classes].filter((c) => c >= 0),
          (c) => c,
        ).values(),
      ].map((all) => all.length);
    };
    // Three spines are left, and all leaves.
    expect(sizes('per-leaf', 'single')).toEqual([3, 6]);
    expect(sizes('per-rack', 'esi-pair')).toEqual([3, 4]);
    expect(sizes('two', 'esi-pair')).toEqual([3, 4]);
  });

  test('settle as each by itself where some ask to be gone round, also where one is otherwise; in both families', () => {
    fc.assert(
      fc.property(
        fc.oneof(intents, dualIntents),
        picks,
        fc.array(damages, { maxLength: 2 }),
        (intent, picked, some) => {
          const { layout, configs } = configsOf(intent);
          const asked = [...configs.values()].map((c, i, { length }) =>
            picked.some((n) => n % length === i) ? asking(c) : c,
          );
          const model = modelOf(some.reduce(damaged, asked), cablesOf(layout));
          mustBeAsEachAlone(model);
          const [rows, byEach] = [underlay6Of(model), byTables(model)];
          for (const o of model.switches.keys()) {
            const [row, each] = [rows(o), byEach(o)];
            const others = [...model.switches.keys()].filter((r) => row && r !== o);
            expect(others.map((r) => [o, r, row![r]])).toEqual(others.map((r) => [o, r, each[r]]));
          }
        },
      ),
      { numRuns: 100 },
    );
  });

  test('and so beside BGP that leads as well, with areas and costs', () => {
    fc.assert(
      fc.property(intents, ospfChoices, fc.array(damages, { maxLength: 2 }), (intent, choices, some) => {
        const { layout, configs } = configsOf(intent);
        const led = withOspf([...configs.values()], cablesOf(layout), choices);
        mustBeAsEachAlone(modelOf(some.reduce(damaged, led), cablesOf(layout)));
      }),
      { numRuns: 40 },
    );
  });
});
