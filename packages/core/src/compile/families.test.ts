import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { journeys } from '../ask/journeys.ts';
import { originOf } from '../config/origins.ts';
import { POOLS, skerryIntent } from '../demo/skerry.ts';
import { linux } from '../dialects/linux/linux.ts';
import { applyEdit, applyEdits, describeEdit } from '../intent/edits/index.ts';
import type { FabricIntent, Network } from '../intent/intent.ts';
import { layOut } from '../layout/layout.ts';
import { hostReach } from '../network/multihoming.ts';
import { familyOfText, parseAnyPrefix } from '../numbers/prefix.ts';
import { demandsOf } from '../pools/demands.ts';
import { drawValues, NOTHING_HELD } from '../pools/drawValues.ts';
import { judgeNetwork } from '../proof/judgeNetwork.ts';
import { modelFabric, proveChange } from '../proof/proveChange.ts';
import { configsOf } from '../testing/fabricOf.ts';
import { familyIntents, withFamilies } from '../testing/familiesOf.ts';
import { compileFabric } from './compileFabric.ts';
import { hostsOf } from './servers.ts';

const made = (intent: FabricIntent) => {
  const { layout, drawn } = configsOf(intent);
  const fabric = compileFabric(intent, drawn.values, [...POOLS]);
  const hosts = hostsOf(intent, layout, drawn.values);
  return { fabric, drawn, hosts, network: modelFabric(fabric, null, hosts) };
};
const changed = (more: Partial<Network>, name = 'pilot-desk', intent = skerryIntent()) =>
  applyEdit(intent, {
    kind: 'changeNetwork',
    name,
    network: { ...intent.networks.find((n) => n.name === name)!, ...more },
  });

describe('networks of one family or both', () => {
  const holds = (intent: FabricIntent): number => {
    const { fabric, drawn, hosts, network } = made(intent);
    expect(drawn.findings).toEqual([]);
    for (const s of fabric.switches) {
      expect(s.parsed.unread.filter((u) => u.harmless !== true)).toEqual([]);
      expect(s.parsed.config).toEqual(s.config);
    }
    const errors = judgeNetwork(network).findings.filter((f) => f.severity === 'error');
    expect(errors.filter((f) => !fabric.outside.switches.some((o) => o.host === f.host))).toEqual([]);
    const vrfOf = new Map(intent.networks.map((n) => [n.vlan, n.vrf]));
    const open = hosts.filter((h) => intent.ports.find((p) => p.server === h.host)?.shut !== true).slice(0, 24);
    // Tenants that speak to routers outside may meet there: what tells both a default route forwards from one to the other.
    const outward = new Set(intent.neighbours.map((n) => n.vrf));
    const meet = (a: string | undefined, b: string | undefined): boolean =>
      a !== b && outward.has(a ?? '') && outward.has(b ?? '');
    let pairs = 0;
    for (const a of open)
      for (const b of open) {
        if (a.host === b.host || familyOfText(a.ip) !== familyOfText(b.ip) || a.gateway === '') continue;
        if (meet(vrfOf.get(a.vlan), vrfOf.get(b.vlan))) continue;
        const { ok, unsure } = hostReach(network, a, b);
        expect([a.ip, b.ip, ok, unsure]).toEqual([a.ip, b.ip, vrfOf.get(a.vlan) === vrfOf.get(b.vlan), null]);
        if (familyOfText(a.ip) === 6 && ok) pairs++;
      }
    return pairs;
  };
  test('whatever the fabric: it reads back as it was written, no rule finds anything, and hosts of a tenant reach one another by each family', () => {
    fc.assert(
      fc.property(familyIntents, (intent) => void holds(intent)),
      { numRuns: 40 },
    );
    expect(holds(withFamilies(skerryIntent(), ['both', 'ipv6', undefined]))).toBeGreaterThan(50);
  });

  test('the gateway is the first address of a /64 that was drawn, the same everywhere, and tells hosts of itself', () => {
    const { fabric, drawn, hosts } = made(changed({ families: 'both' }).intent);
    expect(drawn.values.get('network:pilot-desk/subnet6')).toBe('2001:db8:32::/64');
    const leaves = fabric.switches.filter((s) => s.config.svis.some((v) => v.vlan === 215));
    expect(leaves.map((s) => s.seat.host)).toEqual(['sk-lf-01', 'sk-lf-05', 'sk-lf-06']);
    for (const { files } of leaves) {
      expect(files['interfaces']).toMatch(
        /iface vlan215\n(?: .*\n)*? {4}address 10\.32\.\d+\.1\/24\n {4}address 2001:db8:32::1\/64\n/,
      );
      expect(files['frr.conf']).toContain('\ninterface vlan215\n no ipv6 nd suppress-ra\nexit\n');
      expect(files['frr.conf']).toMatch(
        /router bgp \d+ vrf soundings\n(?: .*\n)* address-family ipv6 unicast\n {2}redistribute connected\n/,
      );
      expect(files['frr.conf']!.match(/ {2}advertise ipv6 unicast\n/g)).toHaveLength(1);
    }
    // A leaf on which nobody of the tenant has it says nothing of it.
    const other = fabric.switches.find((s) => s.seat.host === 'sk-lf-02')!;
    expect(other.files['frr.conf']).not.toMatch(/ipv6/);
    expect(
      hosts
        .filter((h) => h.vlan === 215)
        .map((h) => [h.host, h.ip, h.gateway])
        .slice(0, 2),
    ).toEqual([
      ['pilot-103', expect.stringMatching(/^10\.32\.\d+\.10$/), expect.stringMatching(/\.1$/)],
      ['pilot-103', '2001:db8:32::a', '2001:db8:32::1'],
    ]);
  });

  test('whether one reaches another is asked by a family that both have; where they have none, that is said', () => {
    const intent = withFamilies(changed({ families: 'ipv6' }).intent, [undefined]);
    const both = changed({ families: 'both' }, 'echo-store', intent).intent;
    const { network, hosts } = made(both);
    const of = (name: string, six: boolean): string =>
      hosts.find((h) => h.host === name && h.ip.includes(':') === six)!.ip;
    const arrives = (from: string, to: string): unknown => {
      const asked = journeys(network, from, to);
      return typeof asked === 'string' ? asked : asked.ok;
    };
    expect(hosts.filter((h) => h.host === 'pilot-103').map((h) => h.ip.includes(':'))).toEqual([true]);
    expect(arrives('pilot-103', 'echo-301')).toBe(true);
    expect(arrives('echo-301', 'pilot-103')).toBe(true);
    expect(arrives('pilot-103', of('echo-301', true))).toBe(true);
    expect(arrives('echo-301', of('pilot-103', true))).toBe(true);
    expect(arrives('soundings-101', of('echo-301', false))).toBe(true);
    for (const to of ['soundings-101', of('echo-301', false)])
      expect(arrives('pilot-103', to)).toMatch(/^pilot-103 has IPv6 alone and .* IPv4: no address/);
  });

  test('one that has IPv6 alone draws no subnet of IPv4, and loses the one it had', () => {
    const { fabric, drawn } = made(changed({ families: 'ipv6' }).intent);
    expect(drawn.values.has('network:pilot-desk/subnet')).toBe(false);
    const svi = fabric.switches.find((s) => s.seat.host === 'sk-lf-01')!.config.svis.find((v) => v.vlan === 215)!;
    expect([svi.addresses, svi.ipv6Addresses, svi.advertises]).toEqual([[], ['2001:db8:32::1/64'], true]);
  });

  test('a subnet may be chosen; drawn or chosen, its line says where it comes from', () => {
    const intent = changed({ families: 'both', subnet6: 'fd00:32:0:7::/64' }).intent;
    const { layout, drawn } = configsOf(intent);
    const { values, entries } = drawn;
    expect(values.get('network:pilot-desk/subnet6')).toBe('fd00:32:0:7::/64');
    const leaf = compileFabric(intent, values, [...POOLS]).switches.find((s) => s.seat.host === 'sk-lf-01')!;
    const lines = leaf.files['interfaces']!.split('\n');
    const spoken = new Map<number, readonly string[]>();
    linux.parse(leaf.files, (place, file, line) => void (file === 'interfaces' && spoken.set(line, place)));
    const at = lines.indexOf('    address fd00:32:0:7::1/64') + 1;
    const context = { intent, layout, seat: leaf.seat, values, ledger: entries, edits: [] };
    expect(originOf(spoken.get(at) as never, context)).toMatchObject({ subject: 'network:pilot-desk' });
  });

  test('adding it is said from what to what, is proved clean, and touches the leaves that carry it', () => {
    const before = skerryIntent();
    const edit = {
      kind: 'changeNetwork',
      name: 'pilot-desk',
      network: { ...before.networks.find((n) => n.name === 'pilot-desk')!, families: 'both' },
    } as const;
    expect(describeEdit(edit, before)).toBe('Families of network pilot-desk IPv4 → both');
    const { intent } = applyEdits(before, [edit]);
    const { report } = proveChange(
      { intent: before, values: configsOf(before).drawn.values },
      { intent, values: configsOf(intent).drawn.values },
      POOLS,
    );
    expect(report.findings).toEqual([]);
    expect(report.switches.filter((s) => s.fate === 'changed').map((s) => s.host)).toEqual([
      'sk-lf-01',
      'sk-lf-05',
      'sk-lf-06',
    ]);
  });

  test('without a pool it waits, and says where to choose one', () => {
    const { intent } = applyEdits(skerryIntent(), [{ kind: 'choosePools', pools: { subnet6: '' } }]);
    const asked = changed({ families: 'both' }, 'pilot-desk', intent).intent;
    const owner = { fabric: 'skerry', change: null };
    const { findings } = drawValues(demandsOf(asked, layOut(asked)), POOLS, NOTHING_HELD, owner);
    expect(findings.map((f) => [f.message, f.cure])).toEqual([
      ['No pool is chosen for IPv6 subnets; 1 value waits.', 'Choose a pool for IPv6 subnets under Values.'],
    ]);
  });

  test.each([
    [{ families: 'both', subnet6: '10.0.0.0/24' }, '/network/subnet6', /not a prefix of IPv6/],
    [{ families: 'both', subnet6: 'fd00:32:0:7::1/64' }, '/network/subnet6', /has host bits set/],
    [{ families: 'both', subnet6: 'fd00:32:0:7::/80' }, '/network/subnet6', /is no \/64.*RFC 4862/],
    [{ families: 'both', subnet6: 'fe80::/64' }, '/network/subnet6', /lies in fe80::\/10 \(link-local\)/],
    [{ subnet6: 'fd00:32:0:7::/64' }, '/network/subnet6', /IPv4 alone, and a subnet of IPv6/],
    [{ families: 'ipv6', subnet: '10.9.0.0/24' }, '/network/subnet', /IPv6 alone, and a subnet of IPv4/],
    [{ families: 'both', mtu: 1200 }, '/network/mtu', /takes packets of 1280 bytes, and an MTU of 1200/],
    [{ vrf: '', families: 'both' }, '/network/families', /bridged only/],
  ] as const)('%j is refused at its field', (more, path, says) => {
    const { findings } = changed(more as Partial<Network>);
    expect(findings).toContainEqual(
      expect.objectContaining({
        path,
        message: expect.stringMatching(says) as string,
        cure: expect.any(String) as string,
      }),
    );
  });

  test('the MTU of all tenants does not fall below what IPv6 takes, but where networks say their own', () => {
    const set = (tenantMtu: number, intent: FabricIntent) =>
      applyEdit(intent, { kind: 'changeSettings', settings: { tenantMtu } });
    const { mtu: _, ...plain } = skerryIntent().networks.find((n) => n.name === 'pilot-desk')!;
    const both = applyEdit(skerryIntent(), {
      kind: 'changeNetwork',
      name: 'pilot-desk',
      network: { ...plain, families: 'both' },
    }).intent;
    const [found] = set(1200, both).findings;
    expect([found?.path, found?.rule]).toEqual(['/settings/tenantMtu', 'mtu-ipv6']);
    expect(found?.message).toMatch(/^pilot-desk has IPv6/);
    expect(set(1280, both).findings).toEqual([]);
    expect(set(1200, changed({ mtu: 1500 }, 'pilot-desk', both).intent).findings).toEqual([]);
    expect(set(1200, skerryIntent()).findings).toEqual([]);
  });

  test('two subnets of IPv6 that are one are refused where chosen, and found where drawn and chosen meet', () => {
    const first = changed({ families: 'both', subnet6: 'fd00:32:0:7::/64' }).intent;
    expect(
      changed({ families: 'both', subnet6: 'fd00:32:0:7::/64' }, 'echo-store', first).findings[0]!.message,
    ).toMatch(/is pilot-desk's, in the same VRF/);
    // 2001:db8:32::/64 is drawn by the one and chosen by the other: the ledger has one holder only.
    const both = withFamilies(changed({ families: 'both', subnet6: '2001:db8:32::/64' }).intent, ['both']);
    const { drawn } = configsOf(both);
    const subnets = both.networks.map((n) => drawn.values.get(`network:${n.name}/subnet6`));
    expect(new Set(subnets).size).toBe(both.networks.length);
    for (const s of subnets) expect(parseAnyPrefix(s!)?.length).toBe(64);
  });

  test('a gateway of IPv6 that one leaf has otherwise, or not at all, is blamed on that leaf; subnets that overlap on the later VLAN', () => {
    const { fabric } = made(withFamilies(skerryIntent(), ['both']));
    const found = (host: string, from: RegExp, to: string) => {
      const network = modelFabric({
        ...fabric,
        switches: fabric.switches.map((s) => {
          if (s.seat.host !== host) return s;
          const interfaces = s.files['interfaces']!.replace(from, to);
          expect(interfaces).not.toBe(s.files['interfaces']);
          return { ...s, parsed: linux.parse({ ...s.files, interfaces }) };
        }),
      });
      return judgeNetwork(network).findings.map((f) => [f.rule, f.host, f.message]);
    };
    const at = /( {4}address 10\.32\.\d+\.1\/24\n) {4}address (2001:db8:32:?\w*::)1\/64\n/;
    expect(found('sk-lf-02', at, '$1    address $2fe/64\n')).toContainEqual([
      'gateway-equal',
      'sk-lf-02',
      expect.stringMatching(/sk-lf-02 has gateway 2001:.*fe\/64, sk-lf-0\d.* has 2001:.*::1\/64/),
    ]);
    expect(found('sk-lf-02', at, '$1')).toContainEqual([
      'gateway-equal',
      'sk-lf-02',
      expect.stringMatching(/sk-lf-02 has no gateway of IPv6, sk-lf/),
    ]);
    expect(found('sk-lf-05', /2001:db8:32(:\w+)?::1\/64/g, '2001:db8:32::1/60').map(([rule]) => rule)).toContain(
      'subnet-overlap',
    );
  });
});
