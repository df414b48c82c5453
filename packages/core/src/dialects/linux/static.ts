import type { Place } from '../../config/switchConfig.ts';
import { staticKey, type StaticRoute } from '../../config/static.ts';
import {
  familyOf,
  familyOfText,
  formatAny,
  hostPrefix,
  isLinkLocal,
  networkOfAny,
  parseAnyCidr,
} from '../../numbers/prefix.ts';
import { unmodelled, type Answer, type FrrReading, type TopLines } from './blocks.ts';
import type { Draft } from './draft.ts';
import { whole } from './words.ts';

const DROPPED = /^(Null0|blackhole|reject)$/;

/** A route as it stands outside of all blocks, or in that of its VRF. */
export const staticLine = ({ prefix, via, distance, tag }: StaticRoute): string =>
  `${familyOfText(prefix) === 4 ? 'ip' : 'ipv6'} route ${prefix} ${via ?? 'blackhole'}` +
  (tag === undefined ? '' : ` tag ${tag}`) +
  (distance === undefined ? '' : ` ${distance}`);

/**
 * Reads `ip route …` or `ipv6 route …`, or that with `no` before it.
 * @param around the VRF in whose block it stands
 */
export function readRoute(words: readonly string[], line: string, { draft, at }: FrrReading, around?: string): Answer {
  const taken = words[0] === 'no';
  const w = taken ? words.slice(1) : words;
  const cidr = parseAnyCidr(w[2] ?? '');
  const family = w[0] === 'ip' ? 4 : 6;
  if (!cidr || familyOf(cidr) !== family)
    return `a static route is: ${w[0]} route PREFIX ADDRESS|INTERFACE|blackhole [tag N] [DISTANCE]`;
  const prefix = formatAny(networkOfAny(cidr));
  // It may go to any address within: which, is not known.
  const doubts: Place = around === undefined ? ['staticRoutes', prefix] : ['vrfs', around];
  const other = { ...unmodelled(`“${line}” is not modelled`), doubts };
  const [said, ...rest] = w.slice(3);
  if (said === undefined) return 'it does not say where to';
  const hop = /^\d|:/.test(said) ? hostPrefix(said) : null;
  if (/^\d|:/.test(said) && (!hop || familyOf(hop) !== family)) return 'the next hop is no address';
  // An address of one link is on every one, and wants its interface behind it.
  if (hop && isLinkLocal(hop)) return other;
  const via = hop && family === 6 ? formatAny(hop).split('/')[0]! : said;
  const route: Draft<StaticRoute> = DROPPED.test(via) ? { prefix } : { prefix, via };
  if (around !== undefined) route.vrf = around;
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
  ipv6: (w, line, reading) => (w[1] === 'route' ? readRoute(w, line, reading) : false),
  no: (w, line, reading) =>
    (w[1] === 'ip' || w[1] === 'ipv6') && w[2] === 'route' ? readRoute(w, line, reading) : false,
};
