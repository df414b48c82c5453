import { hasServers } from '../layout/seats.ts';
import {
  CLIENT_GROUP,
  CONNECT_SECONDS,
  PEER_GROUP,
  ROUTER_WORDS,
  sortPeers,
  type BgpConfig,
  type BgpPeer,
  type BgpVrf,
  type EvpnVni,
} from './bgpParts.ts';
import type { InternalNeighbour } from './internalNeighbours.ts';
import type { FabricInputs, SeatInputs, SeatRouting } from './seatInputs.ts';

/** What BGP says of networks and VRFs. */
export interface DerivedOverlay {
  readonly vnis: readonly EvpnVni[];
  readonly vrfs: readonly BgpVrf[];
}

const groupOf = ({ stands }: InternalNeighbour): string => (stands === 'below' ? CLIENT_GROUP : PEER_GROUP);
/** Groups and neighbours of one AS: sessions between loopbacks, so that any way between them carries them. */
function internalPeers({ keepalive, hold }: FabricInputs['settings'], all: readonly InternalNeighbour[]): BgpPeer[] {
  const groups = [...new Set(all.map(groupOf))].map((name): BgpPeer => ({
    name,
    kind: 'group',
    remoteAs: 'internal',
    keepalive,
    hold,
    connect: CONNECT_SECONDS,
    updateSource: 'lo',
  }));
  return sortPeers([...groups, ...all.map((n): BgpPeer => ({ name: n.loopback, kind: 'address', group: groupOf(n) }))]);
}
/** BGP of a switch where OSPF leads: EVPN alone, which those above pass on (RFC 4456). */
export function internalRouter(
  { seat, fabric }: SeatInputs,
  { asn, routerId }: SeatRouting,
  internal: readonly InternalNeighbour[],
  { vnis, vrfs }: DerivedOverlay,
): BgpConfig {
  const active = [...new Set(internal.map(groupOf))].sort();
  const reflects = active.includes(CLIENT_GROUP) ? { policies: [{ peer: CLIENT_GROUP, reflectorClient: true }] } : {};
  return {
    asn,
    routerId,
    ...ROUTER_WORDS,
    peers: internalPeers(fabric.settings, internal),
    ipv4: { active: [], ownAsAllowed: {} },
    evpn: { active, ownAsAllowed: {}, ...reflects, advertiseAllVni: hasServers(seat), vnis },
    vrfs,
  };
}
