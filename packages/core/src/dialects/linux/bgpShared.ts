import { isOfFamily, readRedistribution } from './bgpPolicy.ts';
import { AS_IPV4, unmodelled, type Answer, type Lost } from './blocks.ts';
import type { UnicastDraft } from './draft.ts';
import { whole } from './words.ts';

export const pathsLine = (f: { readonly maximumPaths?: number; readonly maximumPathsInternal?: number }): string =>
  (f.maximumPaths === undefined ? '' : `\n  maximum-paths ${f.maximumPaths}`) +
  (f.maximumPathsInternal === undefined ? '' : `\n  maximum-paths ibgp ${f.maximumPathsInternal}`);
export const routerIdLine = (id: string | undefined): string => (id === undefined ? '' : `\n bgp router-id ${id}`);

type SharedDraft = Pick<UnicastDraft, 'connected' | 'static' | 'maximumPaths' | 'maximumPathsInternal'>;

/** Reads `redistribute` and `maximum-paths`, which the global IPv4 family and that of a VRF have alike. */
export function readShared(w: readonly string[], into: SharedDraft): Answer {
  if (w[0] === 'redistribute') return readRedistribution(w, into);
  if (w[0] !== 'maximum-paths') return false;
  const internal = w[1] === 'ibgp';
  const n = whole(internal ? w[2] : w[1], 1, 256);
  if (n === null) return 'maximum-paths takes 1–256';
  if (internal) into.maximumPathsInternal = n;
  else into.maximumPaths = n;
  return true;
}
export const sharedField = (w: readonly string[]): 'maximumPaths' | 'connected' | 'static' =>
  w[0] === 'maximum-paths' ? 'maximumPaths' : w[1] === 'static' ? 'static' : 'connected';

/** Lines of an address family that a router takes without one, and then means IPv4 unicast (seen on FRR 8.4.4). */
export const isOfIpv4 = (w: readonly string[]): boolean => {
  const at = w[0] === 'no' ? 1 : 0;
  const [first, third] = [w[at], w[at + 2]];
  if (first === 'neighbor') return third === 'activate' || third === 'allowas-in' || isOfFamily(third);
  return OF_IPV4.has(first ?? '');
};
/** What a router says of a line that it takes for one of IPv4 unicast. */
export function inIpv4(r: Answer): Answer {
  if (r === true) return AS_IPV4;
  return typeof r === 'object' && ('why' in r || 'harmless' in r) ? { ...r, as: AS_IPV4.as } : r;
}
const OF_IPV4 = new Set(['redistribute', 'maximum-paths', 'network', 'aggregate-address', 'distance', 'table-map']);

/** A line of IPv6 that the daemons take and that is not modelled: nothing else hangs on it. */
export const otherIpv6 = (line: string): Lost => ({
  ...unmodelled(`“${line}” is not modelled`),
  doubts: ['ipv6Loopbacks'],
});

/** Why EVPN has no networks of its own. */
export const NO_NETWORK = 'EVPN takes no network of this kind';
