import { problem, type Finding } from '../finding.ts';
import { refusedAsn } from '../numbers/asn.ts';
import { formatPrefix, networkOf, parseCidr, parseIpv4, refusedPrefix, span, formatIpv4 } from '../numbers/ipv4.ts';
import { VNI_MAX, VNI_MIN } from '../numbers/vni.ts';

export type PoolKind = 'asn' | 'ipv4' | 'vni';

/** Ranges values are drawn from. Number pools take `65101-65199` or `65100`; address pools take prefixes. */
export interface Pool {
  readonly name: string;
  readonly kind: PoolKind;
  readonly ranges: readonly string[];
  readonly note?: string;
}

/** Inclusive interval of numbers (addresses as unsigned 32-bit numbers). */
export interface Interval {
  readonly from: number;
  readonly to: number;
}

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

/** The intervals of a pool, in the order written; broken ranges are left out (see checkPool). */
export function intervalsOf(pool: Pool): Interval[] {
  return pool.ranges.map((r) => parseRange(pool.kind, r, '')).filter((r): r is Interval => 'from' in r);
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
    const twin = mine.find((r) => r.from <= range.to && range.from <= r.to);
    if (twin)
      findings.push(
        problem('pool-overlap', `/ranges/${i}`, `${text} overlaps another range of this pool.`, 'Keep one of the two.'),
      );
    for (const other of others) {
      if (other.name === pool.name || other.kind !== pool.kind) continue;
      for (const [j, theirs] of other.ranges.entries()) {
        const r = parseRange(other.kind, theirs, `/ranges/${j}`);
        if ('from' in r && r.from <= range.to && range.from <= r.to)
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

/** A drawn value as text ↔ the interval it takes: `10.1.1.0/31`, `65101`, `10010`. */
export function valueInterval(kind: PoolKind, value: string): Interval | null {
  if (kind !== 'ipv4') return /^\d+$/.test(value) ? { from: Number(value), to: Number(value) } : null;
  const cidr = parseCidr(value.includes('/') ? value : `${value}/32`);
  if (!cidr || parseIpv4(value.split('/')[0]!) === null) return null;
  const [from, to] = span(cidr);
  return { from, to };
}

export const formatValue = (kind: PoolKind, start: number, length: number): string =>
  kind === 'ipv4' ? `${formatIpv4(start)}/${length}` : String(start);
