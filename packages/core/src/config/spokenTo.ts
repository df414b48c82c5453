import type { OutsideNeighbour } from '../intent/intent.ts';
import { FABRIC_BFD } from './bfd.ts';
import type { BgpPeer, PeerPolicy } from './bgpParts.ts';

/** What is said alike of all whom nobody here sends to: routers outside, and servers that call. */

/** Three words within the hold time (RFC 4271 §4.4, §10). */
const keepaliveOf = (hold: number): number => Math.floor(hold / 3);

/** The words of a session, of one neighbour or of a group. */
export const sessionSaid = (
  n: Pick<OutsideNeighbour, 'hold' | 'closed' | 'bfd'> & { readonly mask?: string },
): Partial<BgpPeer> => ({
  ...(n.hold === undefined ? {} : { keepalive: keepaliveOf(n.hold), hold: n.hold }),
  ...(n.mask === undefined ? {} : { password: n.mask }),
  ...(n.closed === true ? { shutdown: true } : {}),
  ...(n.bfd === true ? { bfd: true, bfdProfile: FABRIC_BFD.name } : {}),
});

/** What goes over it, beside the lists that say what may. */
export const routesSaid = (
  n: Pick<OutsideNeighbour, 'mapIn' | 'mapOut' | 'originate' | 'limit'>,
): Partial<PeerPolicy> => ({
  ...(n.mapIn === undefined ? {} : { mapIn: n.mapIn }),
  ...(n.mapOut === undefined ? {} : { mapOut: n.mapOut }),
  ...(n.originate === true ? { defaultOriginate: true } : {}),
  ...(n.limit === undefined ? {} : { maximumPrefix: n.limit }),
});
