import type { BgpConfig, BgpPart, BgpSpeaker } from './bgpParts.ts';

/** Does a switch ask others to go round it? */
export const asksAround = ({ bgp }: BgpPart): boolean => bgp?.gracefulShutdown === true;

/** A router that asks whom it speaks to to go round it (RFC 8326), in every VRF in which it speaks to somebody. */
export function askAround(router: BgpConfig): BgpConfig {
  const speaks = ({ peers, listens }: BgpSpeaker): boolean => peers.length > 0 || (listens?.length ?? 0) > 0;
  return {
    ...router,
    gracefulShutdown: true,
    vrfs: router.vrfs.map((v) => (speaks(v) ? { ...v, gracefulShutdown: true } : v)),
  };
}
