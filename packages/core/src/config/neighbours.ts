import { familyWith, hopsTo, spokenTo } from '../intent/neighbourPlace.ts';
import { sideOf } from '../layout/seats.ts';
import { bitsOf, type IpFamily } from '../numbers/address.ts';
import { naturally } from '../numbers/order.ts';
import { DEFAULT_ROUTE, familyOfText } from '../numbers/prefix.ts';
import { sortPeers, type BgpPeer, type BgpVrf, type PeerPolicy, type UnicastFamily } from './bgpParts.ts';
import { causeBy, routesBehind, saidMap } from './behindLinks.ts';
import type { PrefixList } from './policyParts.ts';
import type { Cause, OriginContext } from './section.ts';
import { listFrom, listTo, portTo, type SeatNeighbour, type ToldNeighbour } from './seatNeighbours.ts';
import { exactly, listOf, within } from './prefixEntries.ts';
import { routesSaid, sessionSaid } from './spokenTo.ts';

/** What the two lists of a session are called at one of its ends. */
export interface ListNames {
  readonly from: (n: ToldNeighbour) => string;
  readonly to: (n: ToldNeighbour) => string;
}
const OURS: ListNames = { from: listFrom, to: listTo };

/** What may be told by routers outside of a family, and to them. Single hosts, which EVPN knows by themselves, are nobody’s business there. */
export const neighbourLists = (all: readonly ToldNeighbour[], family: IpFamily, names = OURS): PrefixList[] =>
  all
    .filter((n) => familyWith(n) === family)
    .flatMap((n) => [
      listOf(
        names.from(n),
        (n.takes.length === 0 ? [DEFAULT_ROUTE[family]] : n.takes).map(within(bitsOf(family))),
        family,
      ),
      listOf(
        names.to(n),
        [
          ...(n.aggregates ?? []).map(exactly),
          ...(n.tells.length === 0 ? n.subnets.map(exactly) : n.tells.map(within(bitsOf(family) - 1))),
        ],
        family,
      ),
    ]);

/** A family of a tenant with what is said of its sessions: those of IPv6 have to be asked for, and speak no IPv4 besides. */
function withSessions(
  vrf: string,
  said: UnicastFamily,
  own: readonly SeatNeighbour[],
  family: IpFamily,
): UnicastFamily {
  const policies = own
    .filter((n) => familyWith(n) === family)
    .map((n): PeerPolicy => ({
      peer: spokenTo(n),
      prefixListIn: listFrom(n),
      prefixListOut: listTo(n),
      ...routesSaid(n),
      ...(n.asOverride === true ? { asOverride: true } : {}),
    }))
    .sort((a, b) => naturally(a.peer, b.peer));
  const ofIpv6 = own
    .filter((n) => familyWith(n) === 6)
    .map(spokenTo)
    .sort(naturally);
  const ownAsAllowed = Object.fromEntries(
    own.flatMap((n) => (n.ownAs !== undefined && familyWith(n) === family ? [[spokenTo(n), n.ownAs] as const] : [])),
  );
  const sums = [...new Set(own.flatMap((n) => (familyWith(n) === family ? (n.aggregates ?? []) : [])))].sort(naturally);
  const behind = said.static !== undefined && routesBehind(own).some((r) => familyOfText(r.prefix) === family);
  return {
    ...said,
    ...(behind ? { static: { routeMap: saidMap(vrf, said.static?.routeMap) } } : {}),
    ownAsAllowed: { ...said.ownAsAllowed, ...ownAsAllowed },
    ...(sums.length > 0 ? { aggregates: sums.map((prefix) => ({ prefix, summaryOnly: true })) } : {}),
    ...(policies.length > 0 ? { policies } : {}),
    ...(ofIpv6.length === 0 ? {} : family === 6 ? { active: ofIpv6 } : { inactive: ofIpv6 }),
  };
}

/**
 * The router of a tenant with the neighbours it has outside.
 * @param ipv6 what a tenant that has IPv6 says of it
 */
export function withNeighbours(
  router: BgpVrf,
  all: readonly SeatNeighbour[],
  ipv6: Pick<BgpVrf, 'advertiseIpv6'> & { readonly ipv6: UnicastFamily },
): BgpVrf {
  const own = all.filter((n) => n.vrf === router.vrf);
  if (own.length === 0) return router;
  const has6 = own.some((n) => familyWith(n) === 6);
  return {
    ...router,
    peers: sortPeers(
      own.map((n): BgpPeer => ({
        name: spokenTo(n),
        kind: 'address',
        remoteAs: n.asn,
        ...sessionSaid(n),
        ...(n.ttlSecurity === true ? { ttlSecurity: 1 } : {}),
        ...(n.loopback === undefined ? {} : { multihop: hopsTo(n)! }),
        ...(n.localAs === undefined ? {} : { localAs: n.localAs }),
      })),
    ),
    ipv4: withSessions(router.vrf, router.ipv4, own, 4),
    ...(has6 ? { ...ipv6, ipv6: withSessions(router.vrf, router.ipv6 ?? ipv6.ipv6, own, 6) } : {}),
  };
}

/** The neighbour outside that something on a port, in a list or by an address is for; null = there is none. */
export function neighbourCause(
  { intent, seat }: Pick<OriginContext, 'intent' | 'seat'>,
  by:
    | { readonly port: string; readonly family?: IpFamily }
    | { readonly list: string; readonly family: IpFamily }
    | { readonly far: string; readonly vrf: string },
): Cause | null {
  const n = intent.neighbours.find(
    (o) =>
      o.rack === seat.rack &&
      o.side === sideOf(seat) &&
      ('port' in by
        ? portTo(o) === by.port && (by.family === undefined || familyWith(o) === by.family)
        : 'list' in by
          ? familyWith(o) === by.family && (by.list === listFrom(o) || by.list === listTo(o))
          : spokenTo(o) === by.far && o.vrf === by.vrf),
  );
  return n ? causeBy(n) : null;
}
