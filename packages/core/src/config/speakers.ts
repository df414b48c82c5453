import { speakersKey } from '../intent/intent.ts';
import { addressesIn, bitsOf, parseNetwork, type IpFamily } from '../numbers/address.ts';
import { naturally } from '../numbers/order.ts';
import { CALLERS, sortPeers, type BgpPeer, type BgpVrf, type PeerPolicy, type UnicastFamily } from './bgpParts.ts';
import type { PrefixList } from './policyParts.ts';
import type { Cause, OriginContext } from './section.ts';
import { familyFrom, groupFor, listFromThem, listToThem, NOTHING_LIST, type SeatSpeakers } from './seatSpeakers.ts';
import { listOf, within } from './prefixEntries.ts';
import { routesSaid, sessionSaid } from './spokenTo.ts';

/** What servers may tell of a family, and what they are told of it. */
export function speakerLists(all: readonly SeatSpeakers[], family: IpFamily): PrefixList[] {
  const own = all.filter((s) => familyFrom(s) === family);
  const bare = family === 4 && all.some((s) => familyFrom(s) === 6);
  return [
    ...own.flatMap((s) => [
      listOf(listFromThem(s), s.takes.map(within(bitsOf(family))), family),
      listOf(listToThem(s), s.tells.map(within(bitsOf(family) - 1)), family),
    ]),
    ...(bare ? [listOf(NOTHING_LIST, [], 4)] : []),
  ];
}

/** A family of a tenant with what is said of its callers. */
function withCallers(said: UnicastFamily, own: readonly SeatSpeakers[], family: IpFamily): UnicastFamily {
  const policies = own.flatMap((s): PeerPolicy[] => {
    const peer = groupFor(s);
    if (familyFrom(s) !== family)
      return family === 4 ? [{ peer, prefixListIn: NOTHING_LIST, prefixListOut: NOTHING_LIST }] : [];
    return [
      {
        peer,
        prefixListIn: listFromThem(s),
        prefixListOut: listToThem(s),
        ...routesSaid(s),
      },
    ];
  });
  const active = family === 6 ? own.filter((s) => familyFrom(s) === 6).map(groupFor) : [];
  const all = [...(said.policies ?? []), ...policies].sort((a, b) => naturally(a.peer, b.peer));
  return {
    ...said,
    ...(active.length > 0 ? { active: [...said.active, ...active].sort(naturally) } : {}),
    ...(all.length > 0 ? { policies: all } : {}),
  };
}

/** More than these are not let in at once, however large the ranges are. */
export const MOST_CALLERS = 5000;
/** How many callers a router has to take: all that its ranges have addresses for; undefined = as many as it takes by itself. */
function limitFor(own: readonly SeatSpeakers[]): number | undefined {
  const addresses = own.reduce((n, { from }) => n + addressesIn(parseNetwork(from)!), 0);
  return addresses > CALLERS ? Math.min(MOST_CALLERS, addresses) : undefined;
}

/**
 * The router of a tenant with the servers that may call it.
 * @param ipv6 what a tenant that has IPv6 says of it
 */
export function withSpeakers(
  router: BgpVrf,
  all: readonly SeatSpeakers[],
  ipv6: Pick<BgpVrf, 'advertiseIpv6'> & { readonly ipv6: UnicastFamily },
): BgpVrf {
  const own = all.filter((s) => s.vrf === router.vrf);
  if (own.length === 0) return router;
  const listenLimit = limitFor(own);
  const has6 = own.some((s) => familyFrom(s) === 6);
  return {
    ...router,
    peers: sortPeers([
      ...router.peers,
      ...own.map((s): BgpPeer => ({
        name: groupFor(s),
        kind: 'group',
        remoteAs: s.asn,
        ...sessionSaid(s),
      })),
    ]),
    listens: own.map((s) => ({ prefix: s.from, group: groupFor(s) })).sort((a, b) => naturally(a.prefix, b.prefix)),
    ...(listenLimit === undefined ? {} : { listenLimit }),
    ipv4: withCallers(router.ipv4, own, 4),
    ...(has6 ? { ...ipv6, ipv6: withCallers(router.ipv6 ?? ipv6.ipv6, own, 6) } : {}),
  };
}

/** The servers that a group, a range or a list is for; null = it is for none. */
export function speakersCause({ intent }: Pick<OriginContext, 'intent'>, named: string): Cause | null {
  const s = intent.speakers.find(({ network, from }) => {
    const vlan = intent.networks.find((n) => n.name === network)?.vlan;
    if (vlan === undefined) return false;
    const of = { vlan, from };
    return [from, groupFor(of), listFromThem(of), listToThem(of)].includes(named);
  });
  return s ? { subject: `speakers:${speakersKey(s)}`, label: `BGP servers of ${s.network} (AS ${s.asn})` } : null;
}
