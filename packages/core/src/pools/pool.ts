import { problem, type Finding } from '../finding.ts';
import type { PoolRole } from '../intent/intent.ts';
import { refusedAsn } from '../numbers/asn.ts';
import { formatNetwork, parseInterfaceAddress, networkOfPrefix, refusedNetwork } from '../numbers/address.ts';
import { formatPrefix, networkOf, parseCidr, parseIpv4, refusedPrefix, span, formatIpv4 } from '../numbers/ipv4.ts';
import { VNI_MAX, VNI_MIN } from '../numbers/vni.ts';

export const POOL_KINDS = ['asn', 'ipv4', 'ipv6', 'vni'] as const;
export type PoolKind = (typeof POOL_KINDS)[number];

/** Ranges values are drawn from. Number pools take `65101-65199` or `65100`; address pools take prefixes. */
export interface Pool {
  readonly name: string;
  readonly kind: PoolKind;
  readonly ranges: readonly string[];
  readonly note?: string;
  /** What it is for; absent = nobody said. It is proposed for nothing else. */
  readonly serves?: readonly PoolRole[];
}

/**
 * Inclusive interval of numbers. Addresses of IPv4 are unsigned numbers of 32 bits; of IPv6 each /64 is one, or each address,
 * numbered by the last 53 of its bits, as many as a number holds.
 */
export interface Interval {
  readonly from: number;
  readonly to: number;
  /** Of IPv6: what is counted. */
  readonly unit?: Ipv6Unit;
  /** Of IPv6: the bits before those that are counted. */
  readonly top?: bigint;
}

/** What is handed out of a range of IPv6: /64s (RFC 4291 §2.5.1), or single addresses, each as the length of its prefix. */
type Ipv6Unit = 64 | 128;
const COUNTED_BITS = 53;
/** A range is of /64s, or where it is longer than one, of addresses. */
const unitOf = (length: number): Ipv6Unit => (length <= 64 ? 64 : 128);
/** So long is a range of IPv6 at least, so that all of it is counted. */
const leastLength = (unit: Ipv6Unit): number => unit - COUNTED_BITS + 1;

function ipv6Interval(address: bigint, length: number): Interval {
  const unit = unitOf(length);
  const units = address >> BigInt(128 - unit);
  const from = Number(BigInt.asUintN(COUNTED_BITS, units));
  return { from, to: from + 2 ** (unit - length) - 1, unit, top: units >> BigInt(COUNTED_BITS) };
}
/** An interval of IPv6 as its first address and the one behind its last. */
function addressesOf({ from, to, unit = 128, top = 0n }: Interval): readonly [bigint, bigint] {
  const at = (n: bigint): bigint => ((top << BigInt(COUNTED_BITS)) + n) << BigInt(128 - unit);
  return [at(BigInt(from)), at(BigInt(to) + 1n)];
}
/** Have two intervals a number in common that means the same? */
function meet(a: Interval, b: Interval): boolean {
  if (a.unit === b.unit) return a.top === b.top && a.from <= b.to && b.from <= a.to;
  const [[fromA, toA], [fromB, toB]] = [addressesOf(a), addressesOf(b)];
  return fromA < toB && fromB < toA;
}
/** Does a part of a range lie in it? */
export const liesIn = (part: Interval, range: Interval): boolean =>
  part.unit === range.unit && part.top === range.top && range.from <= part.from && part.to <= range.to;
/** Is what is handed out of a range of that length: a /64, or a larger prefix, of one; an address of another? */
export const handsOut = (range: Interval, length: number): boolean =>
  range.unit === undefined || range.unit === unitOf(length);
/** Has a pool values of that length to hand out, free or not? */
export const holdsLength = (pool: Pool, length: number): boolean => intervalsOf(pool).some((r) => handsOut(r, length));

const NUMBER_RANGE = /^(\d+)(?:\s*-\s*(\d+))?$/;

/** One range of a pool as an interval, or the finding that says why not. */
export function parseRange(kind: PoolKind, text: string, path: string): Interval | Finding {
  const trimmed = text.trim();
  if (kind === 'ipv4') {
    const cidr = parseCidr(trimmed);
    if (!cidr) return problem('pool-range', path, `“${trimmed}” is not an IPv4 prefix.`, 'Write it as 10.255.0.0/24.');
    const network = networkOf(cidr.address, cidr.length);
    if (network !== cidr.address)
      return problem(
        'pool-range',
        path,
        `${trimmed} has host bits set.`,
        `The prefix is ${formatPrefix({ address: network, length: cidr.length })}.`,
      );
    const refused = refusedPrefix(cidr);
    if (refused)
      return problem('pool-range', path, `${trimmed} lies in ${refused}.`, 'Use a private prefix (RFC 1918).');
    const [from, to] = span(cidr);
    return { from, to };
  }
  if (kind === 'ipv6') return parseIpv6Range(trimmed, path);
  const m = NUMBER_RANGE.exec(trimmed);
  const what = kind === 'asn' ? 'AS numbers' : 'VNIs';
  const example = kind === 'asn' ? '65101-65199' : '10000-10999';
  if (!m) return problem('pool-range', path, `“${trimmed}” is not a range of ${what}.`, `Write it as ${example}.`);
  const from = Number(m[1]);
  const to = Number(m[2] ?? m[1]);
  if (to < from) return problem('pool-range', path, `${trimmed} ends before it begins.`, `Write it as ${to}-${from}.`);
  if (kind === 'asn') {
    for (const end of [from, to]) {
      const why = refusedAsn(end);
      if (why)
        return problem(
          'asn-range',
          path,
          `AS number ${end} is ${why}.`,
          'Use 64512–65534 or 4200000000–4294967294 (RFC 6996).',
        );
    }
    for (const reserved of [23456, 65535])
      if (from < reserved && reserved < to)
        return problem(
          'asn-range',
          path,
          `${trimmed} holds ${reserved}, which is ${refusedAsn(reserved)}.`,
          `Split it around ${reserved}.`,
        );
  } else if (from < VNI_MIN || to > VNI_MAX)
    return problem(
      'vni-range',
      path,
      `VNI ${from < VNI_MIN ? from : to} is outside ${VNI_MIN}–${VNI_MAX}.`,
      `Write it as ${example}.`,
    );
  return { from, to };
}

function parseIpv6Range(text: string, path: string): Interval | Finding {
  const said = parseInterfaceAddress(text);
  if (said?.family !== 6)
    return problem('pool-range', path, `“${text}” is not an IPv6 prefix.`, 'Write it as fd00:32::/48.');
  const { length } = said;
  const { address } = networkOfPrefix(said);
  if (address !== said.address)
    return problem(
      'pool-range',
      path,
      `${text} has host bits set.`,
      `The prefix is ${formatNetwork({ family: 6, address, length })}.`,
    );
  const refused = refusedNetwork(said);
  if (refused)
    return problem(
      'pool-range',
      path,
      `${text} lies in ${refused}.`,
      'Use prefixes of fd00::/8 (RFC 4193), or your own.',
    );
  const least = leastLength(unitOf(length));
  if (length < least)
    return problem(
      'pool-range',
      path,
      least > 64
        ? `${text} is neither for subnets nor for single addresses: it holds no /64, and more addresses than can be counted.`
        : `${text} is larger than can be counted.`,
      least > 64
        ? `Use a /64 or larger for subnets, a /${least} or smaller for addresses.`
        : `Use a /${least} or smaller.`,
    );
  const range = ipv6Interval(address, length);
  const { from, to } = withoutAnycast(range);
  if (from > to)
    return problem(
      'pool-range',
      path,
      `${text} holds no address of a switch’s own: the first and the last ${ANYCAST} of a /64 are anycast (RFC 6164 §5.2).`,
      'Choose addresses between them, as fd00:31::/112 has.',
    );
  return range;
}

/** So many addresses at the end of a /64 are kept for anycast (RFC 2526), and the first of it is (RFC 4291 §2.6.1). */
const ANYCAST = 128;
const LOW_64 = 2n ** 64n;
/** Of single addresses, those that are nobody's alone are not handed out (RFC 6164 §5.2). */
function withoutAnycast(range: Interval): Interval {
  if (range.unit !== 128) return range;
  const [first, behind] = addressesOf(range);
  const isEnd = behind % LOW_64 === 0n;
  return { ...range, from: range.from + (first % LOW_64 === 0n ? 1 : 0), to: range.to - (isEnd ? ANYCAST : 0) };
}

/** The intervals a pool hands out, in the order written; broken ranges are left out (see checkPool). */
export function intervalsOf(pool: Pool): Interval[] {
  return pool.ranges
    .map((r) => parseRange(pool.kind, r, ''))
    .flatMap((r) => ('from' in r ? withoutAnycast(r) : []))
    .filter((r) => r.from <= r.to);
}

/** Checks a pool by itself and against the others: form of each range, no overlap. */
export function checkPool(pool: Pool, others: readonly Pool[]): Finding[] {
  const findings: Finding[] = [];
  if (pool.ranges.length === 0)
    findings.push(problem('pool-range', '/ranges', 'The pool has no range.', 'Give it at least one.'));
  const mine: Interval[] = [];
  pool.ranges.forEach((text, i) => {
    const range = parseRange(pool.kind, text, `/ranges/${i}`);
    if (!('from' in range)) {
      findings.push(range);
      return;
    }
    if (mine.some((r) => r.unit !== range.unit)) {
      findings.push(
        problem(
          'pool-range',
          `/ranges/${i}`,
          `A pool hands out /64s or single addresses, and ${text} is not for what its other ranges are.`,
          'Put it into a pool of its own.',
        ),
      );
      return;
    }
    const twin = mine.find((r) => r.from <= range.to && range.from <= r.to);
    if (twin && meet(twin, range))
      findings.push(
        problem('pool-overlap', `/ranges/${i}`, `${text} overlaps another range of this pool.`, 'Keep one of the two.'),
      );
    else if (twin)
      findings.push(
        problem(
          'pool-overlap',
          `/ranges/${i}`,
          `${text} and another range of this pool differ in their first ${(range.unit ?? 0) - COUNTED_BITS} bits alone.`,
          'Put it into a pool of its own.',
        ),
      );
    for (const other of others) {
      if (other.name === pool.name || other.kind !== pool.kind) continue;
      for (const [j, theirs] of other.ranges.entries()) {
        const r = parseRange(other.kind, theirs, `/ranges/${j}`);
        if ('from' in r && meet(r, range))
          findings.push(
            problem(
              'pool-overlap',
              `/ranges/${i}`,
              `${text} overlaps ${theirs} of pool ${other.name}.`,
              `Choose a range clear of ${other.name}, or shrink that pool first.`,
            ),
          );
      }
    }
    mine.push(range);
  });
  return findings;
}

/** A drawn value as text ↔ the interval it takes: `10.1.1.0/31`, `fd00:32:0:5::/64`, `fd00:31::5/128`, `65101`, `10010`. */
export function valueInterval(kind: PoolKind, value: string): Interval | null {
  if (kind === 'ipv6') {
    const p = parseInterfaceAddress(value);
    return p?.family === 6 && p.length >= leastLength(unitOf(p.length))
      ? ipv6Interval(networkOfPrefix(p).address, p.length)
      : null;
  }
  if (kind !== 'ipv4') return /^\d+$/.test(value) ? { from: Number(value), to: Number(value) } : null;
  const cidr = parseCidr(value.includes('/') ? value : `${value}/32`);
  if (!cidr || parseIpv4(value.split('/')[0]!) === null) return null;
  const [from, to] = span(cidr);
  return { from, to };
}

/** How many numbers of a pool a value of that length takes; lengths count for addresses alone. */
export const unitsOf = (kind: PoolKind, length: number): number =>
  kind === 'ipv4' ? 2 ** (32 - length) : kind === 'ipv6' ? 2 ** (unitOf(length) - length) : 1;

/** A value by its first number and the range that lies in. */
export function formatValue(kind: PoolKind, start: number, length: number, range: Interval): string {
  if (kind === 'ipv4') return `${formatIpv4(start)}/${length}`;
  if (kind !== 'ipv6') return String(start);
  const [address] = addressesOf({ ...range, from: start, to: start });
  return formatNetwork({ family: 6, address, length });
}
/** Has what a pool of that kind hands out a length? */
export const hasLength = (kind: PoolKind): boolean => kind === 'ipv4' || kind === 'ipv6';
