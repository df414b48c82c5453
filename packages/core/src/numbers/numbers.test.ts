import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { isPrivateAsn, refusedAsn } from './asn.ts';
import { sameContent } from './content.ts';
import {
  contains,
  formatIpv4,
  formatPrefix,
  overlaps,
  parseCidr,
  parseIpv4,
  parsePrefix,
  prefixOf,
  prefixSize,
  refusedPrefix,
  span,
} from './ipv4.ts';
import { gatewayMac, isMac, localMac, pairSystemMac, refusedGatewayMac } from './mac.ts';
import { groupBy, naturally } from './order.ts';
import { expandPorts } from './ports.ts';
import { isVlan, isVni } from './vni.ts';

const addresses = fc.integer({ min: 0, max: 0xffffffff });
const prefixes = fc
  .tuple(addresses, fc.integer({ min: 0, max: 32 }))
  .map(([address, length]) => prefixOf({ address, length }));

test('names are ordered as the language orders them with numbers in them', () => {
  const collator = new Intl.Collator('en', { numeric: true });
  const piece = fc.constantFrom(
    'p',
    'vni',
    'A',
    'a',
    'é',
    '-',
    '.',
    '/',
    ':',
    ' ',
    '0',
    '00',
    '1',
    '7',
    '10',
    '49',
    '100',
    '٣',
    '½',
  );
  const name = fc.array(piece, { maxLength: 6 }).map((p) => p.join(''));
  fc.assert(
    fc.property(name, name, (a, b) => {
      expect([a, b, Math.sign(naturally(a, b))]).toEqual([a, b, Math.sign(collator.compare(a, b))]);
    }),
    { numRuns: 5000 },
  );
});

describe('IPv4', () => {
  test('addresses and prefixes read back as they were written', () => {
    fc.assert(
      fc.property(addresses, (a) => {
        expect(parseIpv4(formatIpv4(a))).toBe(a);
      }),
    );
    fc.assert(
      fc.property(prefixes, (p) => {
        expect(parsePrefix(formatPrefix(p))).toEqual(p);
      }),
    );
  });
  test.each(['', '1.2.3', '1.2.3.4.5', '256.0.0.1', '01.2.3.4', '1.2.3.x', ' 1.2.3.4', '1.2.3.-4'])(
    '“%s” is no address',
    (text) => expect(parseIpv4(text)).toBeNull(),
  );
  test.each(['10.0.0.0', '10.0.0.0/33', '10.0.0.0/', '10.0.0.0/a', '10.0.0/8'])('“%s” is no prefix', (text) =>
    expect(parseCidr(text)).toBeNull(),
  );
  test('host bits make no network prefix', () => {
    expect(parsePrefix('10.0.0.1/24')).toBeNull();
    expect(parseCidr('10.0.0.1/24')).toEqual({ address: 167772161, length: 24 });
  });
  test('overlap is what the spans say, and is mutual; containment is overlap the other way round', () => {
    fc.assert(
      fc.property(prefixes, prefixes, (a, b) => {
        const [a0, a1] = span(a);
        const [b0, b1] = span(b);
        expect(overlaps(a, b)).toBe(a0 <= b1 && b0 <= a1);
        expect(overlaps(a, b)).toBe(overlaps(b, a));
        expect(contains(a, b)).toBe(a0 <= b0 && b1 <= a1);
        // CIDR blocks nest or are apart, never half.
        if (overlaps(a, b)) expect(contains(a, b) || contains(b, a)).toBe(true);
      }),
    );
  });
  test('sizes', () => {
    expect([32, 31, 24, 0].map(prefixSize)).toEqual([1, 2, 256, 4294967296]);
  });
  test.each([
    ['0.0.0.0/8', true],
    ['10.0.0.0/8', false],
    ['126.0.0.0/7', true],
    ['169.254.10.0/24', true],
    ['192.168.0.0/16', false],
    ['223.255.255.0/24', false],
    ['224.0.0.0/24', true],
    ['255.255.255.255/32', true],
  ])('%s refused as a pool: %s', (text, refused) => expect(refusedPrefix(parsePrefix(text)!) !== null).toBe(refused));
});

describe('AS numbers, VNIs, VLANs', () => {
  test.each([
    [0, false, false],
    [1, true, false],
    [23456, false, false],
    [64495, true, false],
    [64496, true, true],
    [64512, true, true],
    [65534, true, true],
    [65535, false, false],
    [65536, true, true],
    [65552, true, false],
    [4199999999, true, false],
    [4200000000, true, true],
    [4294967294, true, true],
    [4294967295, false, false],
    [4294967296, false, false],
    [1.5, false, false],
  ])('AS %d usable: %s, private: %s', (asn, usable, own) => {
    expect(refusedAsn(asn) === null).toBe(usable);
    expect(isPrivateAsn(asn)).toBe(own);
  });
  test('ranges hold at both ends', () => {
    expect([0, 1, 16777215, 16777216, 1.5].map(isVni)).toEqual([false, true, true, false, false]);
    expect([0, 1, 4094, 4095].map(isVlan)).toEqual([false, true, true, false]);
  });
});

describe('MAC addresses', () => {
  test('those we make are unicast, locally administered, and differ where they must', () => {
    fc.assert(
      fc.property(
        addresses,
        fc.integer({ min: 1, max: 4094 }),
        fc.integer({ min: 1, max: 65535 }),
        fc.integer({ min: 1, max: 9999 }),
        (id, vlan, fabric, rack) => {
          for (const mac of [localMac(id), gatewayMac(vlan), pairSystemMac(fabric, rack)]) {
            expect(isMac(mac)).toBe(true);
            expect(parseInt(mac.slice(0, 2), 16) & 3).toBe(2);
            expect(refusedGatewayMac(mac)).toBeNull();
          }
        },
      ),
    );
    expect(new Set([1, 2, 255, 256, 4094].map(gatewayMac)).size).toBe(5);
    expect(gatewayMac(214)).toBe('02:00:5e:00:00:d6');
    expect(localMac(parseIpv4('10.255.0.11')!)).toBe('02:00:0a:ff:00:0b');
  });
  test.each(['00:00:5e:00:01:07', '00:00:5e:00:02:07', '01:00:5e:00:00:01', 'nonsense'])(
    '%s is refused as a gateway’s',
    (mac) => expect(refusedGatewayMac(mac)).not.toBeNull(),
  );
});

describe('order and content', () => {
  test('names are read as engineers read them', () => {
    expect(['p10', 'p2', 'p1s1', 'p1'].sort(naturally)).toEqual(['p1', 'p1s1', 'p2', 'p10']);
  });
  test.each<[string, string[] | null]>([
    ['p1', ['p1']],
    ['p1-p3', ['p1', 'p2', 'p3']],
    ['p1-3,p9', ['p1', 'p2', 'p3', 'p9']],
    ['p3-p1', null],
    ['p1-q3', null],
    ['1-3', ['1', '2', '3']],
    ['p1-p9999', null],
  ])('ports %s', (text, ports) => expect(expandPorts(text)).toEqual(ports));
  test('groups keep the order in which they were met', () => {
    expect([...groupBy(['b1', 'a1', 'b2'], (x) => x[0])]).toEqual([
      ['b', ['b1', 'b2']],
      ['a', ['a1']],
    ]);
  });
  test('same content is what JSON says it is', () => {
    fc.assert(
      fc.property(fc.jsonValue({ maxDepth: 3 }), (a) => {
        expect(sameContent(a, structuredClone(a))).toBe(true);
      }),
    );
    const records = fc.dictionary(fc.constantFrom('a', 'b', 'c'), fc.nat(2));
    fc.assert(
      fc.property(records, records, (a, b) => {
        const sorted = (x: object) => JSON.stringify(Object.entries(x).sort());
        expect(sameContent(a, b)).toBe(sorted(a) === sorted(b));
      }),
    );
    expect(sameContent({ a: undefined }, {})).toBe(false);
    expect(sameContent([1, 2], { 0: 1, 1: 2 })).toBe(false);
  });
});
