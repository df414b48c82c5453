import type { OutsideNeighbour } from '../intent/intent.ts';
import { bitsOf, type IpFamily } from '../numbers/address.ts';
import { DEFAULT_ROUTE } from '../numbers/prefix.ts';
import { FABRIC_BFD } from './bfd.ts';
import type { BgpPeer, PeerPolicy } from './bgpParts.ts';
import type { PrefixList, PrefixListEntry } from './policyParts.ts';

/** What is said alike of all whom nobody here sends to: routers outside, and servers that call. */

/** A prefix, and but for a default route all within it down to a length. */
export const within =
  (le: number) =>
  (prefix: string): Omit<PrefixListEntry, 'seq'> => ({
    permit: true,
    prefix,
    ...(prefix.endsWith('/0') || Number(prefix.split('/')[1]) >= le ? {} : { le }),
  });
export const exactly = (prefix: string): Omit<PrefixListEntry, 'seq'> => ({ permit: true, prefix });
/** A list that ends with a refusal of all else: one without entries would let everything through. */
export const listOf = (
  name: string,
  entries: readonly Omit<PrefixListEntry, 'seq'>[],
  family: IpFamily,
): PrefixList => ({
  name,
  entries: [...entries, { permit: false, prefix: DEFAULT_ROUTE[family], le: bitsOf(family) }].map((e, i) => ({
    seq: (i + 1) * 10,
    ...e,
  })),
});

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
