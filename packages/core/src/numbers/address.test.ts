import fc from 'fast-check';
import { isIP } from 'node:net';
import { describe, expect, test } from 'vitest';
import {
  bitsOf,
  formatAddress,
  formatNetwork,
  isNeat6,
  holds,
  linkEnds,
  networkOfPrefix,
  overlap,
  parseAddress,
  parseInterfaceAddress,
  parseNetwork,
  refusedNetwork,
  type IpFamily,
  type IpPrefix,
} from './address.ts';
import { contains, parseIpv4, refusedPrefix } from './ipv4.ts';

const families = fc.constantFrom<IpFamily>(4, 6);
const addresses = families.chain((family) =>
  fc.bigInt({ min: 0n, max: (1n << BigInt(bitsOf(family))) - 1n }).map((value) => ({ family, value })),
);
/** Near to one another, so that some hold others. */
const prefixes: fc.Arbitrary<IpPrefix> = families.chain((family) =>
  fc
    .record({
      address: fc.bigInt({ min: 0n, max: 255n }).map((n) => n << BigInt(bitsOf(family) - 8)),
      length: fc.integer({ min: 0, max: 12 }),
    })
    .map((p) => networkOfPrefix({ family, ...p })),
);

describe('addresses of both families', () => {
  test('read back as they were written', () => {
    fc.assert(fc.property(addresses, (a) => void expect(parseAddress(formatAddress(a))).toEqual(a)));
    fc.assert(fc.property(prefixes, (p) => void expect(parseNetwork(formatNetwork(p))).toEqual(p)));
  });

  test('IPv6 is written as the platform writes it, and read from whatever it takes', () => {
    // The URL standard writes hosts in the form of RFC 5952.
    const platform = (text: string): string => new URL(`http://[${text}]`).hostname.slice(1, -1);
    // Mostly zeros, in all places; with a row left out, with zeros in front, in capitals, with a tail of IPv4.
    const groups = fc.array(fc.oneof({ weight: 3, arbitrary: fc.constant(0) }, fc.nat(0xffff)), {
      minLength: 8,
      maxLength: 8,
    });
    fc.assert(
      fc.property(groups, fc.boolean(), (said, capital) => {
        const value = said.reduce((all, g) => (all << 16n) | BigInt(g), 0n);
        const long = said.map((g) => (capital ? g.toString(16).toUpperCase().padStart(4, '0') : g.toString(16)));
        const tail = said.slice(6).flatMap((g) => [g >> 8, g & 255]);
        const short = platform(long.join(':'));
        expect(formatAddress({ family: 6, value })).toBe(short);
        for (const text of [short, long.join(':'), `${long.slice(0, 6).join(':')}:${tail.join('.')}`])
          expect(parseAddress(text)).toEqual({ family: 6, value });
      }),
      { numRuns: 500 },
    );
  });

  test('what is seen at once to be written as it is here, is', () => {
    const group = fc.oneof(
      { weight: 4, arbitrary: fc.nat(0xffff).map((n) => n.toString(16)) },
      fc.constantFrom('0', '00a', 'DB8', ''),
    );
    const side = fc.array(group, { maxLength: 4 }).map((g) => g.join(':'));
    let neat = 0;
    fc.assert(
      fc.property(
        side,
        fc.constantFrom('::', '::', ':', ':::'),
        side,
        fc.integer({ min: -1, max: 140 }),
        (a, gap, b, n) => {
          const text = `${a}${gap}${b}/${n}`;
          if (!isNeat6(text)) return;
          neat++;
          expect(formatNetwork(parseInterfaceAddress(text)!)).toBe(text);
        },
      ),
      { numRuns: 2000 },
    );
    expect(neat).toBeGreaterThan(100);
    expect(['2001:db8:fe::5/127', '2001:db8::1/0', '2001:db8:0:1::5/64', '::1/128'].map(isNeat6)).toEqual([
      true,
      true,
      false,
      false,
    ]);
  });

  test('what the platform takes for an address is one, and nothing else, but for zones', () => {
    const pieces = fc.constantFrom(
      '::',
      ':',
      '0',
      '1',
      'ff',
      'fe80',
      'abcd',
      '12345',
      '10.0.0.1',
      '.',
      '%eth0',
      'g',
      '01',
      '',
    );
    const texts = fc.array(pieces, { maxLength: 9 }).map((p) => p.join(''));
    fc.assert(
      fc.property(fc.oneof(texts, fc.ipV6(), fc.ipV4()), (text) => {
        fc.pre(!text.includes('%'));
        expect([text, parseAddress(text)?.family ?? 0]).toEqual([text, isIP(text)]);
      }),
      { numRuns: 2000 },
    );
    expect([parseAddress('fe80::1%eth0'), parseAddress('[::1]'), parseAddress('1')]).toEqual([null, null, null]);
  });

  test.each([
    ['2001:DB8:0:0:1:0:0:1', '2001:db8::1:0:0:1'],
    ['2001:db8:0:1:1:1:1:1', '2001:db8:0:1:1:1:1:1'],
    ['2001:0db8::0001', '2001:db8::1'],
    ['0:0:0:0:0:0:0:0', '::'],
  ])('%s is written %s (RFC 5952 §4)', (text, written) => expect(formatAddress(parseAddress(text)!)).toBe(written));

  test('one holds another where all addresses of it are in the other; families never mix', () => {
    const last = (p: IpPrefix): bigint => p.address + (1n << BigInt(bitsOf(p.family) - p.length)) - 1n;
    fc.assert(
      fc.property(prefixes, prefixes, (a, b) => {
        const same = a.family === b.family;
        expect(holds(a, b)).toBe(same && a.address <= b.address && last(b) <= last(a));
        expect(overlap(a, b)).toBe(same && a.address <= last(b) && b.address <= last(a));
      }),
      { numRuns: 1000 },
    );
  });

  test('IPv4 says here what it says by itself', () => {
    const four = prefixes.filter((p) => p.family === 4);
    const plain = (p: IpPrefix) => ({ address: Number(p.address), length: p.length });
    fc.assert(
      fc.property(four, four, (a, b) => {
        expect(holds(a, b)).toBe(contains(plain(a), plain(b)));
        expect(refusedNetwork(a)).toBe(refusedPrefix(plain(a)));
      }),
    );
    expect(Number(parseAddress('10.1.2.3')!.value)).toBe(parseIpv4('10.1.2.3'));
  });

  test('links have two ends, in either family; other lengths have none', () => {
    expect(linkEnds(parseNetwork('10.1.1.0/31')!)).toEqual(['10.1.1.0/31', '10.1.1.1/31']);
    expect(linkEnds(parseInterfaceAddress('2001:db8::5/127')!)).toEqual(['2001:db8::4/127', '2001:db8::5/127']);
    expect([linkEnds(parseNetwork('10.1.1.0/30')!), linkEnds(parseNetwork('2001:db8::/64')!)]).toEqual([null, null]);
  });

  test('what cannot be a fabric’s is refused with its name', () => {
    expect(
      ['::1/128', 'fe80::/64', 'ff02::/16', '::ffff:10.0.0.0/104', '::/0'].map((t) => refusedNetwork(parseNetwork(t)!)),
    ).toEqual([
      '::/127 (unspecified and loopback)',
      'fe80::/10 (link-local)',
      'ff00::/8 (multicast)',
      '::ffff:0:0/96 (IPv4-mapped)',
      '::/127 (unspecified and loopback)',
    ]);
    expect([refusedNetwork(parseNetwork('2001:db8::/32')!), refusedNetwork(parseNetwork('fd00::/8')!)]).toEqual([
      null,
      null,
    ]);
  });

  test.each(['2001:db8::1', '2001:db8::/129', '10.0.0.0/33', '2001:db8::/', '2001:db8::/064', '/64'])(
    '%s is no prefix',
    (text) => expect(parseInterfaceAddress(text)).toBeNull(),
  );
});
