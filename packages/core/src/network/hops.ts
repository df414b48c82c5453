import type { RouteMapEntry } from '../config/policy.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import { hostPart, type Ipv4 } from '../numbers/ipv4.ts';
import { holdsAny, hostPrefix } from '../numbers/prefix.ts';
import { onceFor } from '../onceFor.ts';
import { subnetsIn, type ConnectedRoute } from './localRoutes.ts';
import { NO_HOP } from './policy.ts';
import { withAttributes, type Attributes } from './routes.ts';

/**
 * Next hops of IPv4 that maps ask for or set (RFC 4271 §5.1.3), as FRR 8.4.4 has them. Where no map does, a route leads to who told
 * it, and none of this is looked at.
 */

/** What becomes of a next hop on a session, in one direction. */
export interface HopsOver {
  /** The address by which the receiver knows the sender. */
  readonly sender: Ipv4;
  /** Is an address in the subnet that both ends have? Then a router told by one of them may be used by the other as it is. */
  isShared(hop: Ipv4): boolean;
  /** What a next hop is to the receiver. */
  reach(hop: Ipv4): 'near' | 'own' | 'lost' | 'unknown';
}

/** Maps of a switch one of whose entries is such, and those that call them. */
function mapsWith(
  { routeMaps }: Pick<SwitchConfig, 'routeMaps'>,
  is: (e: RouteMapEntry) => boolean,
): ReadonlySet<string> {
  const out = new Set(routeMaps.flatMap((m) => (m.entries.some(is) ? m.name : [])));
  for (const at of out) for (const m of routeMaps) if (m.entries.some((e) => e.call === at)) out.add(m.name);
  return out;
}
/** Those by which next hops count: that ask for them or set them. */
export const hopMaps = onceFor((config: SwitchConfig) =>
  mapsWith(config, ({ match, set }) => match?.nextHops !== undefined || set?.nextHop !== undefined),
);
/** Those that set them. */
export const hopSettingMaps = onceFor((config: SwitchConfig) =>
  mapsWith(config, ({ set }) => set?.nextHop !== undefined),
);
/** Those that ask for one address: of IPv6 some routes meet it, as no list is. */
export const hopAddressMaps = onceFor((config: SwitchConfig) =>
  mapsWith(config, ({ match }) => match?.nextHops !== undefined && 'address' in match.nextHops),
);

/** One end of a session: its subnets, and the address by which it knows the other, or an interface. */
export interface HopEnd {
  readonly config: SwitchConfig;
  readonly vrf: string | undefined;
  readonly peer: string;
}
const subnetsOf = ({ config, vrf }: HopEnd): readonly ConnectedRoute[] => subnetsIn(config, vrf, 4);
const around = (subnets: readonly ConnectedRoute[], hop: Ipv4): ConnectedRoute[] => {
  const alone = hostPrefix(hop);
  return alone === null ? [] : subnets.filter((s) => s.prefix.length < 32 && holdsAny(s.prefix, alone));
};

/**
 * @param nextDoor what it tells has to lead to a subnet of the receiver: eBGP without `ebgp-multihop`
 */
export function hopsOver(sender: HopEnd, receiver: HopEnd, nextDoor: boolean): HopsOver {
  const [told, taken] = [subnetsOf(sender), subnetsOf(receiver)];
  const isOwn = (hop: Ipv4): boolean => taken.some((s) => hostPart(s.address) === hop);
  return {
    sender: hostPrefix(receiver.peer) === null ? NO_HOP : receiver.peer,
    isShared: (hop) => around(told, hop).some((s) => around([s], sender.peer).length > 0),
    reach: (hop) => {
      if (hop === NO_HOP) return 'unknown';
      if (isOwn(hop)) return 'own';
      if (around(taken, hop).length > 0) return 'near';
      return nextDoor ? 'lost' : 'unknown';
    },
  };
}

/**
 * The next hop that a sender tells, once its map was asked.
 * @param keeps it tells what it heard, as iBGP does
 */
export function hopTold(hops: HopsOver, { nextHop, hopBy }: Attributes, keeps: boolean): Ipv4 {
  if (hopBy === 'address') return nextHop!;
  if (hopBy === 'peer' || nextHop === null) return hops.sender;
  return hopBy === 'unchanged' || keeps || hops.isShared(nextHop) ? nextHop : hops.sender;
}

/** What is taken of a route with its next hop; null = the receiver uses no such route. */
export function hopTaken(
  hops: HopsOver,
  taken: Attributes,
): { readonly attributes: Attributes; readonly via?: Ipv4; readonly unknown?: true } | null {
  const nextHop = taken.hopBy === 'peer' ? hops.sender : (taken.nextHop ?? hops.sender);
  // That it stays as it is goes for who is told next, too.
  const attributes = withAttributes(taken, { nextHop, hopBy: taken.hopBy === 'unchanged' ? 'unchanged' : null });
  if (nextHop === hops.sender) return { attributes };
  switch (hops.reach(nextHop)) {
    case 'near':
      return { attributes, via: nextHop };
    case 'unknown':
      return { attributes, unknown: true };
    default:
      return null;
  }
}
