import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { POOLS, RACK_PATTERNS, skerryIntent } from '../demo/skerry.ts';
import { applyEdit } from '../intent/edits/index.ts';
import { proposeRack } from '../intent/proposals.ts';
import { layOut } from '../layout/layout.ts';
import { intents } from '../testing/fabricOf.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { demandsOf } from './demands.ts';
import { drawValues, holdingsOf, utilisation, type LedgerEntry } from './drawValues.ts';
import { checkPool, valueInterval, type Pool } from './pool.ts';

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
    [pool('ipv4', '127.0.0.0/16'), /loopback/, /RFC 1918/],
    [pool('ipv4', 'ten'), /not an IPv4 prefix/, /10\.255/],
    [pool('asn', '65000-65600'), /holds 65535/, /Split/],
    [pool('asn', '0'), /AS number 0 is reserved/, /64512/],
    [pool('asn', '4294967296'), /outside 1–4294967294/, /64512/],
    [pool('vni', '0-100'), /VNI 0 is outside 1–16777215/, /10000/],
    [pool('vni', '16777216'), /VNI 16777216 is outside/, /10000/],
    [pool('vni', '20-10'), /ends before it begins/, /10-20/],
  ])('%j is refused with its cure', (bad, says, cure) => {
    const [finding] = checkPool(bad, POOLS);
    expect(finding?.message).toMatch(says);
    expect(finding?.cure).toMatch(cure);
    expect(finding?.path).toBe('/ranges/0');
  });

  test('values and intervals agree', () => {
    expect(valueInterval('ipv4', '10.0.0.2/31')).toEqual({ from: 167772162, to: 167772163 });
    expect(valueInterval('asn', '65001')).toEqual({ from: 65001, to: 65001 });
    expect(valueInterval('vni', 'x')).toBeNull();
  });
});
