import type { Place } from '../../config/switchConfig.ts';
import { staticKey, type StaticRoute } from '../../config/static.ts';
import { formatPrefix, parseCidr, parseIpv4, prefixOf } from '../../numbers/ipv4.ts';
import { unmodelled, type Answer, type FrrReading, type TopLines } from './blocks.ts';
import type { Draft } from './draft.ts';
import { whole } from './words.ts';

const DROPPED = /^(Null0|blackhole|reject)$/;

/** A route as it stands outside of all blocks, or in that of its VRF. */
export const staticLine = ({ prefix, via, distance, tag }: StaticRoute): string =>
  `ip route ${prefix} ${via ?? 'blackhole'}` +
  (tag === undefined ? '' : ` tag ${tag}`) +
  (distance === undefined ? '' : ` ${distance}`);

/**
 * Reads `ip route …`, or that with `no` before it.
 * @param around the VRF in whose block it stands
 */
export function readRoute(words: readonly string[], line: string, { draft, at }: FrrReading, around?: string): Answer {
  const taken = words[0] === 'no';
  const w = taken ? words.slice(1) : words;
  const cidr = parseCidr(w[2] ?? '');
  if (!cidr) return 'a static route is: ip route PREFIX ADDRESS|INTERFACE|blackhole [tag N] [DISTANCE]';
  const prefix = formatPrefix(prefixOf(cidr));
  // It may go to any address within: which, is not known.
  const doubts: Place = around === undefined ? ['staticRoutes', prefix] : ['vrfs', around];
  const other = { ...unmodelled(`“${line}” is not modelled`), doubts };
  const [via, ...rest] = w.slice(3);
  if (via === undefined) return 'it does not say where to';
  const route: Draft<StaticRoute> = DROPPED.test(via) ? { prefix } : { prefix, via };
  if (around !== undefined) route.vrf = around;
  if (route.via !== undefined && /^\d/.test(route.via) && parseIpv4(route.via) === null)
    return 'the next hop is no address';
  while (rest.length > 0) {
    const word = rest.shift()!;
    const distance = whole(word, 1, 255);
    if (word === 'tag') {
      const tag = whole(rest.shift(), 1, 4294967295);
      if (tag === null) return 'a tag is 1–4294967295';
      route.tag = tag;
    } else if (word === 'vrf' && rest[0] !== undefined && around === undefined) route.vrf = rest.shift()!;
    else if (distance !== null) route.distance = distance;
    else return other;
  }
  const key = staticKey(route);
  // Said again it is said anew.
  draft.staticRoutes = draft.staticRoutes.filter((r) => staticKey(r) !== key);
  if (!taken) draft.staticRoutes.push(route);
  return at(['staticRoutes', key]);
}

export const staticLines: TopLines = {
  ip: (w, line, reading) => (w[1] === 'route' ? readRoute(w, line, reading) : false),
  no: (w, line, reading) => (w[1] === 'ip' && w[2] === 'route' ? readRoute(w, line, reading) : false),
};
