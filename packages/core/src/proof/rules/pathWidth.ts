import { asksAround } from '../../config/drained.ts';
import { underlay6Of } from '../../network/underlay6.ts';
import type { IpFamily } from '../../numbers/address.ts';
import { tenantsOf } from '../../network/tenants.ts';
import { groupBy } from '../../numbers/order.ts';
import { found, type DesignRule } from '../rule.ts';

/**
 * Over how many links a switch may send to another: their own, and where there are none, those to who is cabled to both.
 * Switches with the same cables to the same switches are alike, so the second is counted once for each two kinds.
 * @param joined cables between each two switches, row by row
 * @param around whom others go round as long as there is anybody else (RFC 8326)
 */
function linksBetween(
  joined: Uint8Array,
  size: number,
  around: readonly boolean[],
): (from: number, to: number) => number {
  const kinds = new Map<string, number>();
  const kindOf: number[] = [];
  const nears: (readonly number[])[] = [];
  for (let i = 0; i < size; i++) {
    const row = joined.subarray(i * size, (i + 1) * size);
    const near = Array.from(row.keys()).filter((j) => row[j]! > 0);
    const words = near.map((j) => `${j}:${row[j]!}`).join();
    const kind = kinds.get(words) ?? kinds.size;
    if (kind === kinds.size) nears.push(near);
    kinds.set(words, kind);
    kindOf.push(kind);
  }
  const known = new Int32Array(kinds.size * kinds.size).fill(-1);
  return (from, to) => {
    const direct = joined[from * size + to]!;
    if (direct > 0) return direct;
    const at = kindOf[from]! * kinds.size + kindOf[to]!;
    if (known[at]! < 0) {
      let [usual, last] = [0, 0];
      for (const n of nears[kindOf[from]!]!) {
        if (joined[n * size + to]! === 0) continue;
        if (around[n]) last += joined[from * size + n]!;
        else usual += joined[from * size + n]!;
      }
      known[at] = usual > 0 ? usual : last;
    }
    return known[at]!;
  };
}

/** Too few equal paths to a switch. */
interface Short {
  readonly origin: number;
  readonly family: IpFamily;
  readonly has: number;
  readonly meant: number;
}

export const pathWidth: DesignRule = {
  id: 'path-width',
  title: 'Every switch reaches every other over all its links',
  severity: 'error',
  scope: 'network',
  source: 'RFC 7938 §5.1: all underlay paths equal, all used',
  reads: ['bgp', 'ipv6Loopbacks', 'staticRoutes', 'vxlans'],
  judge: (network) => {
    const { switches, index, underlay, cables, views } = network;
    const size = switches.length;
    // Who speaks to tenants alone has no part in the underlay.
    const outside = switches.map((s) => tenantsOf(network).isOutside(s.host));
    const joined = new Uint8Array(size * size);
    for (const { a, b } of cables) {
      const i = index.get(a.host);
      const j = index.get(b.host);
      if (i === undefined || j === undefined || outside[i] || outside[j]) continue;
      joined[i * size + j]!++;
      joined[j * size + i]!++;
    }
    const around = switches.map((s) => asksAround(s.config));
    const meant = linksBetween(joined, size, around);
    const asn = switches.map((s) => s.config.bgp?.asn ?? 0);
    const tunnel = switches.map((s) => s.config.vxlans.length > 0);
    const announces = switches.map((s) => views.get(s.host)!.announced.size > 0);
    const six = underlay6Of(network);
    const rows6 = switches.map((_, o) => (outside[o] ? null : six(o)));
    const has6 = switches.map((s) => s.config.ipv6Loopbacks !== undefined);
    const out = [];
    for (let r = 0; r < size; r++) {
      if (outside[r]) continue;
      const short: Short[] = [];
      for (let o = 0; o < size; o++) {
        if (o === r || !announces[o] || outside[o]) continue;
        // Switches of one AS do not learn each other's loopbacks by eBGP: that is as meant.
        if (asn[o] === asn[r] && !(tunnel[o] && tunnel[r])) continue;
        const has = underlay.counts[o * size + r]!;
        const links = meant(r, o);
        if (has < links) short.push({ origin: o, family: 4, has, meant: links });
        const of6 = rows6[o];
        if (has6[r] && of6 && of6[r]! < links) short.push({ origin: o, family: 6, has: of6[r]!, meant: links });
      }
      for (const same of groupBy(short, (s) => `${s.family} ${s.has}/${s.meant}`).values()) {
        const s = same[0]!;
        const word = s.family === 4 ? '' : 'IPv6 ';
        const host = switches[r]!.host;
        const others = same.length === 1 ? '' : ` and ${same.length - 1} more`;
        out.push(
          found(
            pathWidth,
            { host, configPlace: s.has === 0 ? ['bgp'] : ['bgp', s.family === 4 ? 'ipv4' : 'ipv6', 'maximumPaths'] },
            s.has === 0
              ? `${host} has no ${word}route to ${switches[s.origin]!.host}${others}.`
              : `${host} uses ${s.has} of ${s.meant} ${word}paths to ${switches[s.origin]!.host}${others}.`,
            asn[r] === asn[s.origin]
              ? 'Allow the own AS number in once (allowas-in), or give each switch a number of its own.'
              : 'Bring every session up, relax multipath, and let maximum-paths be at least the number of links.',
          ),
        );
      }
    }
    return out;
  },
};
