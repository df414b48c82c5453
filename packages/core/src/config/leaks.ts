import { leakKey } from '../intent/intent.ts';
import type { IpFamily } from '../numbers/address.ts';
import { familyOfText } from '../numbers/prefix.ts';
import { onceFor } from '../onceFor.ts';
import type { BgpVrf, UnicastFamily } from './bgpParts.ts';
import type { Carriage, CarriedVrf } from './carriage.ts';
import type { CarriedLeak } from './carriedLeaks.ts';
import type { PrefixList, RouteMap } from './policyParts.ts';
import type { Cause, OriginContext } from './section.ts';
import { listOf } from './prefixEntries.ts';

/**
 * Routes that tenants have of one another. On every switch that carries a tenant it has them from the other's table there, so
 * the other is carried there too: over switches in between that share an AS number none could tell them on to others.
 */

/** The map and the lists of a VRF that has routes of others. */
const PREFIX = 'LEAKS-';
const mapOf = (vrf: string): string => `${PREFIX}${vrf}`;
/** What marks them on their switch: EVPN does not tell them on, since every other has them from there where it needs them. */
const LEAKED_TAG = 2;
/** The map that EVPN tells the others through. */
const OWN_MAP = 'OWN-ROUTES';
const ownMap: RouteMap = {
  name: OWN_MAP,
  entries: [
    { seq: 10, permit: false, match: { tag: LEAKED_TAG } },
    { seq: 20, permit: true },
  ],
};
/** So that they stand before what another switch tells of them in the VRF itself: which came first would decide else. It is told nobody. */
const BEFORE_OTHERS = 200;

const of = (leaks: readonly CarriedLeak[], family: IpFamily): CarriedLeak[] =>
  leaks.filter((l) => l.entries.some((e) => familyOfText(e.prefix) === family));

/**
 * The router of a tenant with what it has of others.
 * @param ipv6 what a tenant that has IPv6 says of it
 */
export function withLeaks(
  router: BgpVrf,
  { leaks = [] }: CarriedVrf,
  ipv6: Pick<BgpVrf, 'advertiseIpv6'> & { readonly ipv6: UnicastFamily },
): BgpVrf {
  const having = (said: UnicastFamily, family: IpFamily): UnicastFamily => ({
    ...said,
    importsFrom: of(leaks, family).map((l) => l.from),
    importMap: mapOf(router.vrf),
  });
  return {
    ...router,
    ...(of(leaks, 4).length > 0 ? { ipv4: having(router.ipv4, 4), advertiseIpv4Map: OWN_MAP } : {}),
    ...(of(leaks, 6).length > 0
      ? { ...ipv6, ipv6: having(router.ipv6 ?? ipv6.ipv6, 6), advertiseIpv6Map: OWN_MAP }
      : {}),
  };
}

/** What lets through no more than is meant: of each VRF that has routes of others a map and its lists. */
export const leakPolicies = onceFor(({ vrfs }: Carriage) => {
  const having = vrfs.filter((v) => (v.leaks ?? []).length > 0);
  const lists = (family: IpFamily): PrefixList[] =>
    having.flatMap(({ vrf, leaks = [] }) => {
      const entries = leaks.flatMap((l) => l.entries).filter((e) => familyOfText(e.prefix) === family);
      const once = entries.filter((e, i) => entries.findIndex((x) => x.prefix === e.prefix) === i);
      return once.length === 0 ? [] : [listOf(mapOf(vrf.name), once, family)];
    });
  const set = { weight: BEFORE_OTHERS, tag: LEAKED_TAG };
  const [prefixLists, ipv6PrefixLists] = [lists(4), lists(6)];
  const routeMaps = having.flatMap(({ vrf }): RouteMap[] => {
    const name = mapOf(vrf.name);
    const entries = [
      ...(prefixLists.some((l) => l.name === name) ? [{ seq: 10, permit: true, matchPrefixList: name, set }] : []),
      ...(ipv6PrefixLists.some((l) => l.name === name)
        ? [{ seq: 20, permit: true, matchIpv6PrefixList: name, set }]
        : []),
    ];
    return entries.length === 0 ? [] : [{ name, entries }];
  });
  return { prefixLists, ipv6PrefixLists, routeMaps: routeMaps.length === 0 ? routeMaps : [...routeMaps, ownMap] };
});

/** What a VRF has of others, as the cause of a line about it. */
export function leakCause({ intent }: OriginContext, vrf: string): Cause | null {
  const leak = intent.leaks.find((l) => l.into === vrf);
  return leak ? { subject: `leak:${leakKey(leak)}`, label: `routes of others in ${vrf}` } : null;
}
/** The same of a map or a list, by its name; null = it is not of that kind. */
export function leakCauseOfName(context: OriginContext, name: string): Cause | null {
  if (name.startsWith(PREFIX)) return leakCause(context, name.slice(PREFIX.length));
  const [first] = context.intent.leaks;
  return name === OWN_MAP && first ? leakCause(context, first.into) : null;
}
