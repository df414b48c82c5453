import { wherever, type BgpConfig, type BgpPart } from './bgpParts.ts';

/** Does a switch ask others to go round it? */
export const asksAround = ({ bgp }: BgpPart): boolean => bgp?.gracefulShutdown === true;

/** A router that asks whom it speaks to to go round it (RFC 8326), in every VRF in which it speaks to somebody. */
export const askAround = (router: BgpConfig): BgpConfig => wherever(router, { gracefulShutdown: true });
