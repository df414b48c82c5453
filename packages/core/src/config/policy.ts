import { policyKey, POLICY_WORDS, type PolicyIs, type RoutePolicy } from '../intent/policies.ts';
import type { Cause, ConfigSection, OriginContext } from './section.ts';
import type { IpFamily } from '../numbers/address.ts';
import type { Cidr } from '../numbers/ipv4.ts';
import { naturally } from '../numbers/order.ts';
import { onceFor } from '../onceFor.ts';
import type { Carriage } from './carriage.ts';
import { leakCauseOfName, leakPolicies } from './leaks.ts';
import { behindCause, mapsBehind } from './behindLinks.ts';
import { neighbourCause, neighbourLists } from './neighbours.ts';
import type {
  PolicyPart,
  PrefixList,
  PrefixListEntry,
  RouteMap,
  RouteMapEntry,
  CommunityList,
  AccessList,
  AccessListEntry,
  AsPathList,
} from './policyParts.ts';
import { partsOf, policiesFor } from './routePolicies.ts';
import type { FabricInputs } from './seatInputs.ts';
import { speakersCause, speakerLists } from './speakers.ts';

export * from './policyParts.ts';

/** The map through which connected routes are announced: the fabric's loopbacks and VTEPs, and nothing else. */
export const CONNECTED_MAP = 'CONNECTED';
const LOOPBACK_LIST = 'LOOPBACKS';

/** Of each family those of its list; an entry of the one says nothing of the other. */
const connectedMap = (six: boolean): RouteMap => ({
  name: CONNECTED_MAP,
  entries: [
    { seq: 10, permit: true, matchPrefixList: LOOPBACK_LIST },
    ...(six ? [{ seq: 15, permit: true, matchIpv6PrefixList: LOOPBACK_LIST }] : []),
    { seq: 20, permit: false },
  ],
});
/** Every single address within prefixes. */
const addressesIn = (prefixes: readonly Cidr[], bits: 32 | 128): PrefixList => ({
  name: LOOPBACK_LIST,
  entries: prefixes.map((prefix, i) => ({
    seq: (i + 1) * 10,
    permit: true,
    prefix,
    ...(prefix.endsWith(`/${bits}`) ? {} : { ge: bits, le: bits }),
  })),
});

/** The same for every switch of a fabric. */
const partOf = onceFor(({ loopbackPrefixes, loopback6Prefixes }: FabricInputs): PolicyPart => ({
  prefixLists: [addressesIn(loopbackPrefixes, 32)],
  ...(loopback6Prefixes ? { ipv6PrefixLists: [addressesIn(loopback6Prefixes, 128)] } : {}),
  routeMaps: [connectedMap(loopback6Prefixes !== undefined)],
}));

const KINDS: Readonly<Record<string, PolicyIs>> = {
  prefixLists: 'prefix-list',
  ipv6PrefixLists: 'prefix-list',
  communityLists: 'community-list',
  largeCommunityLists: 'community-list',
  extendedCommunityLists: 'community-list',
  asPathLists: 'path-list',
  routeMaps: 'route-map',
};
/** The list or map of the fabric that stands there; null = it is none of its own. */
function policyCause(part: string | undefined, name: string, { intent }: OriginContext): Cause | null {
  const is = KINDS[part ?? ''];
  if (!is || !intent.policies.some((p) => p.is === is && p.name === name)) return null;
  return { subject: `policy:${policyKey({ is, name })}`, label: `${POLICY_WORDS[is]} ${name}` };
}

/** What tenants use for what they tell of their own. */
const tenantPolicies = onceFor(({ vrfs, routes }: Carriage): { readonly policies: readonly RoutePolicy[] }[] =>
  vrfs.flatMap(({ vrf, connectedPolicies, staticPolicies }) => [
    ...(connectedPolicies ? [{ policies: connectedPolicies }] : []),
    ...(staticPolicies && routes.some((r) => r.vrf === vrf.name) ? [{ policies: staticPolicies }] : []),
  ]),
);

export const policy: ConfigSection<PolicyPart> = {
  blank: { prefixLists: [], routeMaps: [] },
  // What OSPF tells is said at interfaces.
  derive: ({ fabric, routing, neighbours, speakers, carriage }) => {
    const part = routing && !routing.internal ? partOf(fabric) : policy.blank;
    const leaks = leakPolicies(carriage);
    const users = [...neighbours, ...speakers, ...tenantPolicies(carriage)];
    if (users.length === 0 && leaks.routeMaps.length === 0) return part;
    const inOrder = (lists: readonly PrefixList[]): PrefixList[] =>
      [...lists].sort((a, b) => naturally(a.name, b.name));
    const own = partsOf(policiesFor(users));
    const told = (family: IpFamily): PrefixList[] => [
      ...neighbourLists(neighbours, family),
      ...speakerLists(speakers, family),
    ];
    const ipv6 = [...(part.ipv6PrefixLists ?? []), ...told(6), ...own.ipv6PrefixLists, ...leaks.ipv6PrefixLists];
    const { communityLists, largeCommunityLists, extendedCommunityLists, asPathLists } = own;
    return {
      prefixLists: inOrder([...part.prefixLists, ...told(4), ...own.prefixLists, ...leaks.prefixLists]),
      ...(ipv6.length > 0 ? { ipv6PrefixLists: inOrder(ipv6) } : {}),
      routeMaps: [...part.routeMaps, ...own.routeMaps, ...leaks.routeMaps, ...mapsBehind(neighbours, carriage)],
      ...(communityLists.length > 0 ? { communityLists } : {}),
      ...(largeCommunityLists.length > 0 ? { largeCommunityLists } : {}),
      ...(extendedCommunityLists.length > 0 ? { extendedCommunityLists } : {}),
      ...(asPathLists.length > 0 ? { asPathLists } : {}),
    };
  },
  members: {
    prefixLists: { key: (l: PrefixList) => l.name, word: 'prefix list' },
    ipv6PrefixLists: { key: (l: PrefixList) => l.name, word: 'IPv6 prefix list' },
    routeMaps: { key: (m: RouteMap) => m.name, word: 'route map' },
    communityLists: { key: (l: CommunityList) => l.name, word: 'community list' },
    largeCommunityLists: { key: (l: CommunityList) => l.name, word: 'large community list' },
    extendedCommunityLists: { key: (l: CommunityList) => l.name, word: 'extended community list' },
    asPathLists: { key: (l: AsPathList) => l.name, word: 'AS path list' },
    accessLists: { key: (l: AccessList) => l.name, word: 'access list' },
    ipv6AccessLists: { key: (l: AccessList) => l.name, word: 'IPv6 access list' },
    'accessLists.entries': { key: (e: AccessListEntry) => String(e.seq), word: 'entry' },
    'ipv6AccessLists.entries': { key: (e: AccessListEntry) => String(e.seq), word: 'entry' },
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
  causeOf: ([part, name = ''], context) =>
    policyCause(part, name, context) ??
    leakCauseOfName(context, name) ??
    behindCause(context, name) ??
    neighbourCause(context, { list: name, family: part === 'ipv6PrefixLists' ? 6 : 4 }) ??
    speakersCause(context, name) ?? {
      ...(part === 'ipv6PrefixLists'
        ? { subject: 'pool:loopback6', label: 'pool of IPv6 loopbacks' }
        : { subject: 'pool:loopback', label: 'loopback and VTEP pools' }),
    },
};
