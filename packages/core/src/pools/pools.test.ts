import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { POOLS, RACK_PATTERNS, skerryIntent } from '../demo/skerry.ts';
import { applyEdit } from '../intent/edits/index.ts';
import { proposeRack } from '../intent/proposals.ts';
import { layOut } from '../layout/layout.ts';
import { intents } from '../testing/fabricOf.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { holdsAny, parseAnyPrefix } from '../numbers/prefix.ts';
import { demandsOf, rolesDrawn, suitsRole } from './demands.ts';
import { drawValues, holdingsOf, NOTHING_HELD, utilisation, type LedgerEntry } from './drawValues.ts';
import { checkPool, formatValue, valueInterval, type Pool } from './pool.ts';

const draw = (
  intent: FabricIntent,
  ledger: readonly LedgerEntry[],
  change: string | null = null,
  pools: readonly Pool[] = POOLS,
) => {
  const owner = { fabric: intent.name, change };
  return drawValues(demandsOf(intent, layOut(intent)), pools, holdingsOf(ledger, owner), owner);
};

describe('drawing from pools', () => {
  test('is stable: adding and removing racks moves no value that is held, and nothing is drawn twice', () => {
    fc.assert(
      fc.property(intents, fc.array(fc.boolean(), { maxLength: 6 }), (start, steps) => {
        let intent = start;
        let ledger: LedgerEntry[] = [...draw(intent, []).entries];
        for (const add of steps) {
          const victim = intent.racks[1];
          const edit =
            add || !victim
              ? ({
                  kind: 'addRack',
                  rack: proposeRack(intent, RACK_PATTERNS[1]!),
                  rackPattern: RACK_PATTERNS[1]!,
                } as const)
              : ({ kind: 'removeRack', number: victim.number } as const);
          intent = applyEdit(intent, edit).intent;
          const before = new Map(ledger.map((e) => [e.key, e.value]));
          const drawn = draw(intent, ledger);
          for (const [key, value] of drawn.values) if (before.has(key)) expect(value).toBe(before.get(key));
          ledger = [...ledger, ...drawn.entries];
        }
        const taken = new Set<string>();
        for (const e of ledger) {
          expect(taken).not.toContain(`${e.kind} ${e.value}`);
          taken.add(`${e.kind} ${e.value}`);
        }
        expect(draw(intent, ledger).entries).toEqual([]);
      }),
      { numRuns: 40 },
    );
  });

  test('two open changes never draw the same value; a withdrawn one gives its values back', () => {
    const base = skerryIntent();
    const live = draw(base, []).entries;
    const grow = (name: string) =>
      applyEdit(base, {
        kind: 'addNetwork',
        network: { name, vrf: 'tides', vlan: name === 'one' ? 900 : 901, subnetLength: 24, racks: [1] },
      }).intent;
    const first = draw(grow('one'), live, 'change-1');
    const second = draw(grow('two'), [...live, ...first.entries], 'change-2');
    const values = (d: typeof first) => d.entries.map((e) => e.value);
    expect(values(first)).toEqual(['10010', '10.32.8.0/24']);
    expect(values(second)).toEqual(['10011', '10.32.9.0/24']);
    const again = draw(grow('two'), live, 'change-2');
    expect(values(again)).toEqual(['10010', '10.32.8.0/24']);
  });

  test('a wish is claimed, and refused by name when somebody holds it', () => {
    const base = skerryIntent();
    const live = draw(base, []).entries;
    const wish = (vni: number) =>
      applyEdit(base, {
        kind: 'addNetwork',
        network: { name: 'wish', vrf: 'tides', vlan: 900, vni, subnetLength: 24, racks: [] },
      }).intent;
    expect(draw(wish(10400), live).values.get('network:wish/vni')).toBe('10400');
    expect(draw(wish(10006), live).findings[0]?.message).toBe(
      '10006 of pool overlay is held by network:soundings-in/vni of skerry.',
    );
    expect(draw(wish(777), live).entries.find((e) => e.key === 'network:wish/vni')).toMatchObject({
      pool: '',
      value: '777',
    });
  });

  test('a pool too small, of the wrong kind, or not chosen is said with its cure', () => {
    const small = POOLS.map((p) => (p.name === 'leaf-as' ? { ...p, ranges: ['65110-65114'] } : p));
    expect(draw(skerryIntent(), [], null, small).findings).toMatchObject([
      {
        message: 'Pool leaf-as is too small: 5 more AS numbers of leaves are needed than it has free.',
        path: '/pools/leafAsn',
      },
    ]);
    const unset = { ...skerryIntent(), pools: { ...skerryIntent().pools, vni: '', loopback: 'overlay' } };
    expect(draw(unset, []).findings.map((f) => f.message)).toEqual(
      expect.arrayContaining(['No pool is chosen for VNIs; 10 values wait.', 'Pool overlay does not hold loopbacks.']),
    );
  });

  test('utilisation counts addresses held', () => {
    const live = draw(skerryIntent(), []).entries;
    const of = (name: string) =>
      utilisation(
        POOLS.find((p) => p.name === name)!,
        live,
      );
    expect(of('loopbacks')).toEqual({ size: 256, held: 14 });
    expect(of('skerry-tenants')).toEqual({ size: 65536, held: 8 * 256 });
  });
});

describe('pools', () => {
  const pool = (kind: Pool['kind'], ...ranges: string[]): Pool => ({ name: 'mine', kind, ranges });
  test.each([
    [pool('ipv4', '10.255.0.5/24'), /host bits set/, /10\.255\.0\.0\/24/],
    [pool('ipv4', '10.255.0.128/25'), /overlaps 10\.255\.0\.0\/24 of pool loopbacks/, /clear of loopbacks/],
    // One number in common is enough.
    [pool('ipv4', '10.255.0.255/32'), /overlaps 10\.255\.0\.0\/24 of pool loopbacks/, /clear of loopbacks/],
    [pool('ipv6', '2001:db8:32:ffff::/64'), /overlaps 2001:db8:32::\/48/, /clear of/],
    [pool('ipv4', '127.0.0.0/16'), /loopback/, /RFC 1918/],
    [pool('asn', 'ten'), /not a range of AS numbers/, /65101-65199/],
    [pool('vni', 'ten'), /not a range of VNIs/, /10000-10999/],
    [pool('ipv4', 'ten'), /not an IPv4 prefix/, /10\.255/],
    [pool('asn', '65000-65600'), /holds 65535/, /Split/],
    [pool('asn', '0'), /AS number 0 is reserved/, /64512/],
    [pool('asn', '4294967296'), /outside 1–4294967294/, /64512/],
    [pool('vni', '0-100'), /VNI 0 is outside 1–16777215/, /10000/],
    [pool('vni', '16777216'), /VNI 16777216 is outside/, /10000/],
    [pool('vni', '20-10'), /ends before it begins/, /10-20/],
    [pool('ipv6', '10.0.0.0/8'), /not an IPv6 prefix/, /fd00:32::\/48/],
    [pool('ipv6', 'fd00:32::1/48'), /host bits set/, /The prefix is fd00:32::\/48/],
    [pool('ipv6', 'fd00:32::/65'), /holds no \/64/, /\/64 or larger for subnets, a \/76 or smaller for addresses/],
    [pool('ipv6', '2001:db8:7::/128'), /holds no address of a switch’s own/, /as fd00:31::\/112 has/],
    [pool('ipv6', '2001:db8:7:0:ffff:ffff:ffff:ff80/121'), /are anycast/, /between them/],
    [pool('ipv6', '2001:db8:32:7::/112'), /overlaps 2001:db8:32::\/48 of pool skerry-tenants-6/, /clear of/],
    [pool('ipv6', '2001:db8::/32'), /overlaps 2001:db8:ff::\/112 of pool loopbacks-6/, /clear of/],
    [pool('ipv6', 'fe80::/48'), /link-local/, /fd00::\/8/],
    [pool('ipv6', 'fc00::/7'), /larger than can be counted/, /\/12 or smaller/],
    [pool('ipv6', '2001:db8:32:40::/58'), /overlaps 2001:db8:32::\/48 of pool skerry-tenants-6/, /clear of/],
  ])('%j is refused with its cure', (bad, says, cure) => {
    const [finding] = checkPool(bad, POOLS);
    expect(finding?.message).toMatch(says);
    expect(finding?.cure).toMatch(cure);
    expect(finding?.path).toBe('/ranges/0');
  });

  test('a fabric draws AS numbers for spines only where it has some, and nothing where nothing is routed', () => {
    expect(rolesDrawn({ shape: 'three-stages' })).toContain('spineAsn');
    expect(rolesDrawn({ shape: 'collapsed' })).not.toContain('spineAsn');
    expect(rolesDrawn({ shape: 'collapsed' })).toContain('subnet6');
    expect(rolesDrawn({ shape: 'switched' })).toEqual([]);
  });

  test('values and intervals agree', () => {
    expect(valueInterval('ipv4', '10.0.0.2/31')).toEqual({ from: 167772162, to: 167772163 });
    expect(valueInterval('asn', '65001')).toEqual({ from: 65001, to: 65001 });
    expect(valueInterval('vni', 'x')).toBeNull();
    expect(valueInterval('ipv6', 'fd00:32:0:7::/64')).toEqual({
      from: 0x32_0000_0007,
      to: 0x32_0000_0007,
      unit: 64,
      top: 0x7e8n,
    });
    expect(valueInterval('ipv6', '10.0.0.0/8')).toBeNull();
  });

  test('two ranges of IPv6 that are the same but for their first bits belong into pools of their own', () => {
    const [one, ...more] = checkPool(pool('ipv6', '2001:db8:7::/48', '2401:db8:7::/48'), []);
    expect(more).toEqual([]);
    expect(one).toMatchObject({ path: '/ranges/1', message: expect.stringMatching(/first 11 bits alone/) as string });
    expect(checkPool(pool('ipv6', '2401:db8:32::/48'), POOLS)).toEqual([]);
    expect(checkPool(pool('ipv6', '2001:db8:7::/112', '2001:db8:8::/112'), [])).toMatchObject([
      { path: '/ranges/1', message: expect.stringMatching(/first 75 bits alone/) as string },
    ]);
  });

  test('addresses that are not one switch’s alone are not handed out', () => {
    const demands = (wanted: number) =>
      Array.from({ length: wanted }, (_, i) => ({
        key: `s${i}/loopback6`,
        kind: 'ipv6' as const,
        role: 'loopback6' as const,
        pool: 'mine',
        length: 128,
      }));
    const drawn = (range: string, wanted: number) => {
      const { values, findings } = drawValues(demands(wanted), [pool('ipv6', range)], NOTHING_HELD, {
        fabric: 'x',
        change: null,
      });
      return [[...values.values()], findings.length];
    };
    expect(drawn('2001:db8:7::/126', 4)).toEqual([['2001:db8:7::1/128', '2001:db8:7::2/128', '2001:db8:7::3/128'], 1]);
    expect(drawn('2001:db8:7::4/126', 1)).toEqual([['2001:db8:7::4/128'], 0]);
    expect(drawn('2001:db8:7:0:ffff:ffff:ffff:ff80/121', 1)).toEqual([[], 1]);
    expect(drawn('2001:db8:7:0:ffff:ffff:ffff:ff00/120', 1)).toEqual([['2001:db8:7:0:ffff:ffff:ffff:ff00/128'], 0]);
  });

  test('a pool hands out subnets or single addresses, not both', () => {
    expect(checkPool(pool('ipv6', '2001:db8:7::/48', '2001:db8:8::/112'), [])).toMatchObject([
      { path: '/ranges/1', message: expect.stringMatching(/^A pool hands out \/64s or single addresses/) as string },
    ]);
    for (const [range, addresses] of [
      ['2001:db8:7::/112', true],
      ['2001:db8:7::/64', false],
    ] as const)
      expect([suitsRole(pool('ipv6', range), 'loopback6'), suitsRole(pool('ipv6', range), 'subnet6')]).toEqual([
        addresses,
        !addresses,
      ]);
  });

  test('of any range of IPv6 the subnets that are drawn lie in it, each of its length, none twice, and read back as what they are', () => {
    const prefix = fc.tuple(
      fc.constantFrom(0x2001, 0xfd00, 0xfdff, 0x3fff),
      fc.integer({ min: 0, max: 0xffff }),
      fc.integer({ min: 56, max: 64 }),
      fc.constantFrom(64, 127, 128),
    );
    fc.assert(
      fc.property(prefix, fc.integer({ min: 1, max: 300 }), ([first, second, bits, each], wanted) => {
        const length = each === 64 ? bits : bits + 64;
        const range = `${first.toString(16)}:${second.toString(16)}:7::/${length}`;
        const demands = Array.from({ length: wanted }, (_, i) => ({
          key: `x${i}/y`,
          kind: 'ipv6' as const,
          role: each === 64 ? ('subnet6' as const) : ('link6' as const),
          pool: 'mine',
          length: each,
        }));
        const owner = { fabric: 'x', change: null };
        const { values, findings, entries } = drawValues(demands, [pool('ipv6', range)], holdingsOf([], owner), owner);
        // Of addresses the first of the range is nobody's alone.
        const room = each === 64 ? 2 ** (64 - length) : Math.max(0, 2 ** (each - length) - 1);
        expect([values.size, findings.length]).toEqual([Math.min(wanted, room), wanted > room ? 1 : 0]);
        expect(new Set(values.values()).size).toBe(values.size);
        const within = parseAnyPrefix(range)!;
        for (const value of values.values()) {
          const subnet = parseAnyPrefix(value)!;
          expect([subnet.length, holdsAny(within, subnet)]).toEqual([each, true]);
          const block = valueInterval('ipv6', value)!;
          expect(formatValue('ipv6', block.from, each, block)).toBe(value);
        }
        // Held, they are kept; none of them is drawn for another.
        const again = drawValues(demands, [pool('ipv6', range)], holdingsOf(entries, owner), owner);
        expect([again.entries, [...again.values]]).toEqual([[], [...values]]);
        const [all, one] = [each === 64 ? 64 - length : 128 - length, each === 127 ? 2 : 1];
        expect(utilisation(pool('ipv6', range), entries)).toEqual({
          size: 2 ** all - (each === 64 ? 0 : 1),
          held: one * values.size,
        });
      }),
      { numRuns: 60 },
    );
  });
});
