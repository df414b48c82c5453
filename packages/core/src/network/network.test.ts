import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { networkFromTexts, skerryCables, skerryHosts, skerryTexts } from '../testing/skerryFolder.ts';
import { compileFabric } from '../compile/compileFabric.ts';
import { POOLS } from '../demo/skerry.ts';
import { configsOf, intentOf, intents, layEdits, wideIntents } from '../testing/fabricOf.ts';
import { judgeNetwork } from '../proof/judgeNetwork.ts';
import { modelFabric } from '../proof/proveChange.ts';
import { hostReach } from './multihoming.ts';
import { pathsTo, vtepsHeard } from './networkModel.ts';
import { l3ImportsOf } from './targets.ts';
import { settlePaths } from './pathVector.ts';

const reach = (model: ReturnType<typeof networkFromTexts>, a: string, b: string) =>
  hostReach(
    model,
    skerryHosts.find((h) => h.host === a)!,
    skerryHosts.find((h) => h.host === b)!,
  );
const replace = (text: string, from: string | RegExp, to: string): string => {
  const out = text.replace(from, to);
  if (out === text) throw new Error('nothing replaced');
  return out;
};

describe('network model', () => {
  test('what any pattern derives comes up whole: no finding, all paths, all VTEPs', () => {
    fc.assert(
      fc.property(fc.oneof(intents, wideIntents), (intent) => {
        const { drawn } = configsOf(intent);
        const network = modelFabric(compileFabric(intent, drawn.values, POOLS));
        // A pair that shares its AS number and one spine alone are fine; nothing else may be said.
        expect(judgeNetwork(network).findings).toEqual([]);
        expect(network.sessions.every((s) => s.up)).toBe(true);
        expect(network.unheard).toEqual([]);
      }),
      { numRuns: 40 },
    );
  });

  test('a leaf reaches another over every spine; a pulled cable costs one path and only that', () => {
    const whole = networkFromTexts(skerryTexts());
    expect(pathsTo(whole, 'sk-lf-01', 'sk-lf-02', '10.255.0.5')).toBe(4);
    expect(pathsTo(whole, 'sk-lf-01', 'sk-sp-01', '10.255.0.0')).toBe(1);
    expect(pathsTo(whole, 'sk-sp-01', 'sk-sp-02', '10.255.0.1')).toBe(0);
    const cut = networkFromTexts(
      skerryTexts(),
      skerryCables.filter((c) => !(c.a.host === 'sk-lf-01' && c.a.port === 'p50')),
    );
    expect(pathsTo(cut, 'sk-lf-01', 'sk-lf-02', '10.255.0.5')).toBe(3);
    expect(pathsTo(cut, 'sk-lf-02', 'sk-lf-01', '10.255.0.4')).toBe(3);
    expect(cut.sessions.filter((s) => !s.up).map((s) => `${s.host} ${s.reason}`)).toEqual([
      'sk-sp-02 no cable on p1',
      'sk-lf-01 no cable on p50',
    ]);
  });

  test('a pair that shares its AS number needs the own number allowed in', () => {
    const routers = [65100, 65107, 65107].map((asn, i) => ({
      asn,
      routerId: i,
      maximumPaths: 64,
      multipathRelax: true,
    }));
    const edges = (ownAsAllowed: number) => [
      { from: 1, to: 0, ownAsAllowed: 0 },
      { from: 2, to: 0, ownAsAllowed: 0 },
      { from: 0, to: 1, ownAsAllowed },
      { from: 0, to: 2, ownAsAllowed },
    ];
    expect(settlePaths(routers, edges(0)).counts[1 * 3 + 2]).toBe(0);
    expect(settlePaths(routers, edges(1)).counts[1 * 3 + 2]).toBe(1);
  });

  test('a router that wants a policy and has none neither sends nor takes, though its neighbours want none (RFC 8212)', () => {
    const texts = skerryTexts();
    texts['sk-lf-01']!['frr.conf'] = replace(
      texts['sk-lf-01']!['frr.conf'],
      'defaults datacenter',
      'defaults traditional',
    );
    const network = networkFromTexts(texts);
    expect(network.sessions.every((s) => s.up)).toBe(true);
    expect(pathsTo(network, 'sk-lf-01', 'sk-lf-02', '10.255.0.5')).toBe(0);
    expect(pathsTo(network, 'sk-lf-02', 'sk-lf-01', '10.255.0.4')).toBe(0);
    expect(pathsTo(network, 'sk-lf-02', 'sk-lf-03', '10.255.0.6')).toBe(4);
  });

  test('the own AS number is allowed in family by family: without it in EVPN a pair has routes and hears nothing', () => {
    const pair = {
      name: 'pair',
      description: '',
      spines: { count: 2, model: 'TV-S32C' },
      parallel: 1,
      racks: [{ pattern: 'pair-48', count: 1 }],
      settings: { asnScheme: 'per-rack' as const },
    };
    const intent = intentOf(...layEdits(pair), {
      kind: 'addNetwork',
      network: { name: 'gauges', vrf: '', vlan: 20, subnetLength: 24, racks: [1] },
    });
    const compiled = compileFabric(intent, configsOf(intent).drawn.values, POOLS);
    const without = (family: 'ipv4' | 'evpn') =>
      modelFabric({
        ...compiled,
        switches: compiled.switches.map((s) => {
          const bgp = s.config.bgp!;
          const config = { ...s.config, bgp: { ...bgp, [family]: { ...bgp[family], ownAsAllowed: {} } } };
          return { ...s, config, parsed: { config, unread: [] } };
        }),
      });
    const [one, other] = compiled.switches.filter((s) => s.seat.rack === 1).map((s) => s.seat.host);
    const vtepOf = (host: string): string =>
      compiled.switches.find((s) => s.seat.host === host)!.config.vxlans[0]!.localAddress!;
    const heard = (family: 'ipv4' | 'evpn') => {
      const network = without(family);
      return [pathsTo(network, one!, other!, vtepOf(other!)), network.unheard[0]?.reason];
    };
    expect(heard('evpn')).toEqual([2, `no EVPN route of ${one} arrives at ${other}`]);
    expect(heard('ipv4')).toEqual([0, `${other} has no route to VTEP ${vtepOf(one!)} of ${one}`]);
  });

  test('a longer way is no second path, however freely paths share load', () => {
    const routers = [1, 2, 3].map((n) => ({ asn: 65000 + n, routerId: n, maximumPaths: 64, multipathRelax: true }));
    const triangle = [
      [0, 1],
      [1, 2],
      [2, 0],
    ].flatMap(([a, b]) => [
      { from: a!, to: b!, ownAsAllowed: 0 },
      { from: b!, to: a!, ownAsAllowed: 0 },
    ]);
    expect([...settlePaths(routers, triangle).counts]).toEqual(Array.from({ length: 9 }, () => 1));
  });

  test('without multipath relax, paths through different AS numbers do not share load', () => {
    const make = (relax: boolean) => {
      const routers = [1, 2, 3, 4].map((asn) => ({
        asn: 65000 + asn,
        routerId: asn,
        maximumPaths: 64,
        multipathRelax: relax,
      }));
      const both = (a: number, b: number) => [
        { from: a, to: b, ownAsAllowed: 0 },
        { from: b, to: a, ownAsAllowed: 0 },
      ];
      return settlePaths(routers, [...both(0, 1), ...both(0, 2), ...both(1, 3), ...both(2, 3)]).counts[0 * 4 + 3];
    };
    expect(make(true)).toBe(2);
    expect(make(false)).toBe(1);
  });

  test('VTEP lists and L3 imports follow route targets, loopback routes and the VTEP that is announced', () => {
    const texts = skerryTexts();
    const vni = 10006;
    expect(vtepsHeard(networkFromTexts(texts), 'sk-lf-01', vni)).toEqual(['10.255.1.1', '10.255.1.6', '10.255.1.7']);
    texts['sk-lf-02']!['frr.conf'] = replace(
      texts['sk-lf-02']!['frr.conf'],
      /(route-target export 65000:)10006/,
      '$119006',
    );
    expect(vtepsHeard(networkFromTexts(texts), 'sk-lf-01', vni)).toEqual(['10.255.1.6', '10.255.1.7']);
    texts['sk-lf-07a']!['frr.conf'] = replace(
      texts['sk-lf-07a']!['frr.conf'],
      'seq 20 permit 10.255.1.0/24',
      'seq 20 deny 10.255.1.0/24',
    );
    expect(vtepsHeard(networkFromTexts(texts), 'sk-lf-01', vni)).toEqual(['10.255.1.7']);
    expect(l3ImportsOf(networkFromTexts(texts), 'sk-lf-01', 'soundings')).not.toContain('sk-lf-07a');
    expect(l3ImportsOf(networkFromTexts(texts), 'sk-lf-01', 'soundings')).toContain('sk-lf-07b');
  });

  test('automatic route targets meet across AS numbers; what is said must be equal whole (as FRR has it)', () => {
    const texts = skerryTexts();
    const vni = 10006;
    const targets = new RegExp(`(  vni ${vni}\\n   rd .*\\n)(?:   route-target .*\\n)+`);
    const automatic = (host: string): void => {
      texts[host]!['frr.conf'] = replace(texts[host]!['frr.conf'], targets, '$1');
    };
    const all = ['10.255.1.1', '10.255.1.6', '10.255.1.7'];
    const heard = () => vtepsHeard(networkFromTexts(texts), 'sk-lf-01', vni);
    // It looks at the VNI alone, so it hears those who say 65000:10006; they look at all of it, and do not hear it.
    automatic('sk-lf-01');
    expect(heard()).toEqual(all);
    expect(vtepsHeard(networkFromTexts(texts), 'sk-lf-02', vni)).toEqual(['10.255.1.6', '10.255.1.7']);
    for (const host of ['sk-lf-02', 'sk-lf-07a', 'sk-lf-07b']) automatic(host);
    expect(heard()).toEqual(all);
    expect(networkFromTexts(texts).unheard).toEqual([]);
    // Another VNI is not taken, nor one that follows an address.
    texts['sk-lf-02']!['frr.conf'] = replace(
      texts['sk-lf-02']!['frr.conf'],
      `  vni ${vni}\n`,
      `  vni ${vni}\n   route-target export 65000:1${vni}\n   route-target export 10.0.0.1:${vni}\n`,
    );
    expect(heard()).toEqual(['10.255.1.6', '10.255.1.7']);
  });

  test('two switches with one VTEP: they do not hear each other, and what is sent to it may arrive at the other', () => {
    const texts = skerryTexts();
    for (const from of ['    address 10.255.1.1/32', 'tunnelip 10.255.1.1'])
      texts['sk-lf-02']!.interfaces = texts['sk-lf-02']!.interfaces.replaceAll(
        new RegExp(`${from.replaceAll('.', '\\.')}(?!\\d)`, 'g'),
        from.replace('10.255.1.1', '10.255.1.6'),
      );
    const model = networkFromTexts(texts);
    expect(vtepsHeard(model, 'sk-lf-01', 10006)).toEqual(['10.255.1.6', '10.255.1.7']);
    expect(vtepsHeard(model, 'sk-lf-02', 10006)).toEqual(['10.255.1.0', '10.255.1.7']);
    expect(reach(model, 'soundings-101', 'soundings-201')).toMatchObject({
      unsure: '10.255.1.6 of sk-lf-02 is sk-lf-07a’s too: what is sent there arrives at either',
    });
    expect(reach(model, 'soundings-101', 'echo-301')).toMatchObject({ ok: true, unsure: null });
  });

  test('hosts reach each other bridged and routed, not across VRFs, and a refusal says where it stops', () => {
    const model = networkFromTexts(skerryTexts());
    expect(reach(model, 'soundings-101', 'soundings-201')).toMatchObject({ ok: true, how: 'bridged' });
    expect(reach(model, 'soundings-101', 'echo-301')).toMatchObject({ ok: true, how: 'routed' });
    expect(reach(model, 'soundings-101', 'tide-503').ok).toBe(false);
    const texts = skerryTexts();
    texts['sk-lf-03']!.interfaces = replace(
      texts['sk-lf-03']!.interfaces,
      /(iface p1\n(?:.*\n)*?) {4}bridge-access 212/,
      '$1    bridge-access 213',
    );
    expect(reach(networkFromTexts(texts), 'soundings-101', 'echo-301').how).toBe(
      'port p1 of sk-lf-03 does not carry VLAN 212',
    );
    // Another switch that has the subnet takes it, and bridges it on (2,070 pings on FRR 8.4.4 agreed).
    const wrongVrf = skerryTexts();
    const exportsOther = (host: string): void => {
      const files = wrongVrf[host]!;
      files['frr.conf'] = replace(
        files['frr.conf'],
        'route-target export 65000:10000',
        'route-target export 65000:10009',
      );
    };
    exportsOther('sk-lf-03');
    expect(reach(networkFromTexts(wrongVrf), 'soundings-101', 'echo-301')).toMatchObject({ ok: true, how: 'routed' });
    for (const [host, { 'frr.conf': text }] of Object.entries(wrongVrf))
      if (host !== 'sk-lf-01' && text.includes('route-target export 65000:10000')) exportsOther(host);
    expect(reach(networkFromTexts(wrongVrf), 'soundings-101', 'echo-301').how).toMatch(/route targets do not meet/);
    expect(reach(networkFromTexts(wrongVrf), 'soundings-101', 'soundings-201').ok).toBe(true);
  });
});
