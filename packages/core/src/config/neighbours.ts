import { outsideKey } from '../intent/intent.ts';
import { sideOf } from '../layout/seats.ts';
import type { Cidr } from '../numbers/ipv4.ts';
import { naturally } from '../numbers/order.ts';
import { FABRIC_BFD } from './bfd.ts';
import { sortPeers, type BgpPeer, type BgpVrf, type PeerPolicy } from './bgpParts.ts';
import type { PrefixList, PrefixListEntry } from './policyParts.ts';
import type { Cause, OriginContext } from './section.ts';
import { listFrom, listTo, type SeatNeighbour } from './seatNeighbours.ts';

const DEFAULT_ROUTE: Cidr = '0.0.0.0/0';
/** A prefix, and but for a default route all within it down to a length. */
const within =
  (le: number) =>
  (prefix: Cidr): Omit<PrefixListEntry, 'seq'> => ({
    permit: true,
    prefix,
    ...(prefix === DEFAULT_ROUTE || Number(prefix.split('/')[1]) >= le ? {} : { le }),
  });
/** Single hosts, which EVPN knows by themselves, are nobody’s business outside. */
const NO_HOSTS = 31;
/** A list that ends with a refusal of all else: one without entries would let everything through. */
const listOf = (name: string, entries: readonly Omit<PrefixListEntry, 'seq'>[]): PrefixList => ({
  name,
  entries: [...entries, { permit: false, prefix: DEFAULT_ROUTE, le: 32 }].map((e, i) => ({ seq: (i + 1) * 10, ...e })),
});

/** What may be told by a router outside, and to it. */
export const neighbourLists = (all: readonly SeatNeighbour[]): PrefixList[] =>
  all.flatMap((n) => [
    listOf(listFrom(n), (n.takes.length === 0 ? [DEFAULT_ROUTE] : n.takes).map(within(32))),
    listOf(
      listTo(n),
      n.tells.length === 0 ? n.subnets.map((prefix) => ({ permit: true, prefix })) : n.tells.map(within(NO_HOSTS)),
    ),
  ]);

/** The router of a tenant with the neighbours it has outside. */
export function withNeighbours(router: BgpVrf, all: readonly SeatNeighbour[]): BgpVrf {
  const own = all.filter((n) => n.vrf === router.vrf);
  if (own.length === 0) return router;
  const policies = own.map((n): PeerPolicy => ({
    peer: n.far,
    prefixListIn: listFrom(n),
    prefixListOut: listTo(n),
    ...(n.limit === undefined ? {} : { maximumPrefix: n.limit }),
  }));
  return {
    ...router,
    peers: sortPeers(
      own.map((n): BgpPeer => ({
        name: n.far,
        kind: 'address',
        remoteAs: n.asn,
        ...(n.mask === undefined ? {} : { password: n.mask }),
        ...(n.bfd === true ? { bfd: true, bfdProfile: FABRIC_BFD.name } : {}),
      })),
    ),
    ipv4: { ...router.ipv4, policies: policies.sort((a, b) => naturally(a.peer, b.peer)) },
  };
}

/** The neighbour outside that something on a port, in a list or by an address is for; null = there is none. */
export function neighbourCause(
  { intent, seat }: Pick<OriginContext, 'intent' | 'seat'>,
  by: { readonly port: string } | { readonly list: string } | { readonly far: string },
): Cause | null {
  const n = intent.neighbours.find(
    (o) =>
      o.rack === seat.rack &&
      o.side === sideOf(seat) &&
      ('port' in by
        ? o.port === by.port
        : 'list' in by
          ? by.list === listFrom(o) || by.list === listTo(o)
          : o.far === by.far),
  );
  return n ? { subject: `neighbour:${outsideKey(n)}`, label: `neighbour ${n.far} (AS ${n.asn})` } : null;
}
