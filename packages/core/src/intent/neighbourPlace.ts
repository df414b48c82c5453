import { networkOfPrefix, parseInterfaceAddress, type IpFamily, type IpPrefix } from '../numbers/address.ts';
import { familyOfText } from '../numbers/prefix.ts';
import type { VlanId } from '../numbers/vni.ts';
import { onceFor } from '../onceFor.ts';
import { outsideKey, type OutsideLink, type OutsideNeighbour } from './intent.ts';

/** The family a session with a router outside is of. */
export const familyWith = ({ address }: Pick<OutsideNeighbour, 'address'>): IpFamily => familyOfText(address);

/** The subnet of a link to a router outside; each is read once, since each new one is held against all. */
export const linkSubnet = onceFor(({ address }: OutsideNeighbour): IpPrefix =>
  networkOfPrefix(parseInterfaceAddress(address)!),
);

/** The address that a session with a router outside is with. */
export const spokenTo = ({ far, loopback }: Pick<OutsideNeighbour, 'far' | 'loopback'>): string => loopback ?? far;
/** How many hops it may be away, where it is not next door. */
export const hopsTo = ({ loopback, hops }: Pick<OutsideNeighbour, 'loopback' | 'hops'>): number | undefined =>
  loopback === undefined ? undefined : (hops ?? JUST_BEHIND);
/** An address of the router itself that is not on the link. */
const JUST_BEHIND = 2;

/** Where a session with a router outside runs. */
export interface NeighbourPlace extends Pick<OutsideLink, 'rack' | 'side' | 'port'> {
  readonly vlan?: VlanId;
  /** Is it of IPv6? */
  readonly ipv6: boolean;
}
export const neighbourPlace = (n: OutsideNeighbour): NeighbourPlace => ({
  rack: n.rack,
  side: n.side,
  port: n.port,
  ...(n.vlan === undefined ? {} : { vlan: n.vlan }),
  ipv6: familyWith(n) === 6,
});
/** A session with a router outside: the link, then the tag, then the family, as far as they are said. */
export const neighbourPlaceKey = ({ vlan, ipv6, ...link }: NeighbourPlace): string =>
  `${outsideKey(link)}${vlan === undefined ? '' : `.${vlan}`}${ipv6 ? '.ipv6' : ''}`;
export const neighbourKey = (n: OutsideNeighbour): string => neighbourPlaceKey(neighbourPlace(n));
/** The same for people. */
export const placeWords = ({ rack, side, port, vlan }: Omit<NeighbourPlace, 'ipv6'>): string =>
  `rack ${rack} ${port} (${side})${vlan === undefined ? '' : ` VLAN ${vlan}`}`;
