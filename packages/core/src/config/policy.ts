import type { ConfigSection } from './section.ts';
import { naturally } from '../numbers/order.ts';
import { onceFor } from '../onceFor.ts';
import { neighbourCause, neighbourLists } from './neighbours.ts';
import type {
  PolicyPart,
  PrefixList,
  PrefixListEntry,
  RouteMap,
  RouteMapEntry,
  CommunityList,
  AsPathList,
} from './policyParts.ts';
import type { FabricInputs } from './seatInputs.ts';

export * from './policyParts.ts';

/** The map through which connected routes are announced: the fabric's loopbacks and VTEPs, and nothing else. */
export const CONNECTED_MAP = 'CONNECTED';
const LOOPBACK_LIST = 'LOOPBACKS';

const ROUTE_MAPS: readonly RouteMap[] = [
  {
    name: CONNECTED_MAP,
    entries: [
      { seq: 10, permit: true, matchPrefixList: LOOPBACK_LIST },
      { seq: 20, permit: false },
    ],
  },
];

/** The same for every switch of a fabric. */
const partOf = onceFor(({ loopbackPrefixes }: FabricInputs): PolicyPart => {
  const entries = loopbackPrefixes.map((prefix, i) => ({
    seq: (i + 1) * 10,
    permit: true,
    prefix,
    ...(prefix.endsWith('/32') ? {} : { ge: 32, le: 32 }),
  }));
  return { prefixLists: [{ name: LOOPBACK_LIST, entries }], routeMaps: ROUTE_MAPS };
});

export const policy: ConfigSection<PolicyPart> = {
  blank: { prefixLists: [], routeMaps: [] },
  // What OSPF tells is said at interfaces.
  derive: ({ fabric, routing, neighbours }) => {
    const part = routing && !routing.internal ? partOf(fabric) : policy.blank;
    if (neighbours.length === 0) return part;
    const inOrder = (lists: readonly PrefixList[]): PrefixList[] =>
      [...lists].sort((a, b) => naturally(a.name, b.name));
    const ipv6 = neighbourLists(neighbours, 6);
    return {
      ...part,
      prefixLists: inOrder([...part.prefixLists, ...neighbourLists(neighbours, 4)]),
      ...(ipv6.length > 0 ? { ipv6PrefixLists: inOrder(ipv6) } : {}),
    };
  },
  members: {
    prefixLists: { key: (l: PrefixList) => l.name, word: 'prefix list' },
    ipv6PrefixLists: { key: (l: PrefixList) => l.name, word: 'IPv6 prefix list' },
    routeMaps: { key: (m: RouteMap) => m.name, word: 'route map' },
    communityLists: { key: (l: CommunityList) => l.name, word: 'community list' },
    asPathLists: { key: (l: AsPathList) => l.name, word: 'AS path list' },
    'prefixLists.entries': { key: (e: PrefixListEntry) => String(e.seq), word: 'entry' },
    'ipv6PrefixLists.entries': { key: (e: PrefixListEntry) => String(e.seq), word: 'entry' },
    'routeMaps.entries': { key: (e: RouteMapEntry) => String(e.seq), word: 'entry' },
  },
  words: {
    permit: 'permission',
    prefix: 'prefix',
    match: 'what it speaks of',
    set: 'what it does to a route',
    call: 'the map it asks',
    onMatch: 'where it goes on',
  },
  causeOf: ([part, list = ''], context) =>
    neighbourCause(context, { list, family: part === 'ipv6PrefixLists' ? 6 : 4 }) ?? {
      subject: 'pool:loopback',
      label: 'loopback and VTEP pools',
    },
};
