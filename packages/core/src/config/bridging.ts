import type { ServerPort } from '../intent/intent.ts';
import { hasServers } from '../layout/seats.ts';
import { lagNumber } from '../hardware/lagNumber.ts';
import { groupBy, naturally } from '../numbers/order.ts';
import type { VlanId } from '../numbers/vni.ts';
import { patternCause, type ConfigSection } from './section.ts';
import { onceFor } from '../onceFor.ts';
import type { Carriage } from './carriage.ts';
import type { SeatInputs, SeatLink } from './seatInputs.ts';

/** VLANs of a bridged port: at most one untagged, any number tagged, ascending. */
export interface Bridging {
  readonly untagged?: VlanId;
  readonly tagged: readonly VlanId[];
}

/** The bridge all VLANs are on. What is in it is named by its key in the list it stands in. */
export interface BridgeConfig {
  /** Name on the switch, where it is not the one the dialect gives. */
  readonly called?: string;
  /** Ports, and names that nothing else in the text has. */
  readonly ports: readonly string[];
  readonly lags: readonly string[];
  readonly vxlans: readonly string[];
  readonly vlans: readonly VlanId[];
  /** The most that interfaces of its VLANs may have; absent = what the switch gives a bridge by itself. */
  readonly mtu?: number;
  /** One spanning tree for all VLANs (IEEE 802.1D); absent = the bridge takes no part in one. */
  readonly spanningTree?: { readonly priority?: number };
}
export interface BridgingPart {
  readonly bridge?: BridgeConfig;
}

/** The VLANs of a server's port. */
export const bridgingOf = (p: ServerPort, { byName }: Carriage): Bridging => ({
  ...(p.untagged === undefined ? {} : { untagged: byName.get(p.untagged)!.vlan }),
  tagged: p.tagged.map((n) => byName.get(n)!.vlan).sort((a, b) => a - b),
});

const shared = onceFor(({ networks, vrfs }: Carriage) => ({
  vxlans: [...networks, ...vrfs].flatMap((c) => (c.vni === undefined ? [] : [String(c.vni)])).sort(naturally),
  vlans: [...networks.map((n) => n.vlan), ...vrfs.map((v) => v.vrf.transitVlan)].sort((a, b) => a - b),
}));

/** Every VLAN, tagged: what switches without routing carry between them. */
export const trunkOf = onceFor((carriage: Carriage): Bridging => ({ tagged: shared(carriage).vlans }));

/** Where nothing is routed, parallel links to one switch are one LAG: spanning tree would leave one of them. */
export const trunkLags = ({ routing, links, carriage }: SeatInputs): SeatLink[][] =>
  routing || carriage.networks.length === 0
    ? []
    : [
        ...groupBy(
          links.filter((l) => l.kind !== 'keep-alive'),
          (l) => l.farHost,
        ).values(),
      ].filter((members) => members.length > 1);

/** Steps in which priorities go (IEEE 802.1D-2004 §9.2.5); the default is eight of them. */
const PRIORITY_STEP = 4096;
/** The first of the switches above the racks becomes the root, the second takes its place when it is gone. */
function spanningTreeOf({ seat, routing }: SeatInputs): Pick<BridgeConfig, 'spanningTree'> {
  if (routing) return {};
  const number = hasServers(seat) ? null : Number(seat.id.split('-').at(-1));
  return { spanningTree: number === null ? {} : { priority: Math.min(number, 7) * PRIORITY_STEP } };
}

/** What its gateways need: one of the interfaces that carry a VRF across the fabric has what the bridge has. */
const largestMtu = onceFor(({ networks, vrfs }: Carriage): number =>
  Math.max(...[...networks, ...vrfs].map((n) => n.mtu)),
);

function deriveBridge(inputs: SeatInputs): BridgingPart {
  const { servers, carriage, routing, links } = inputs;
  if (carriage.networks.length === 0 && carriage.vrfs.length === 0) return {};
  const bundled = trunkLags(inputs);
  const inLag = new Set(bundled.flat());
  const trunks = routing ? [] : links.flatMap((l) => (l.kind === 'keep-alive' || inLag.has(l) ? [] : [l.port]));
  const lags = [
    ...bundled.map((members) => members[0]!.port),
    ...servers.flatMap((p) => (p.side === 'both' ? [p.port] : [])),
  ];
  return {
    bridge: {
      ports: [...trunks, ...servers.flatMap((p) => (p.side === 'both' ? [] : [p.port]))].sort(naturally),
      lags: lags.map((port) => String(lagNumber(port))).sort(naturally),
      ...shared(carriage),
      ...(routing ? { mtu: largestMtu(carriage) } : {}),
      ...spanningTreeOf(inputs),
    },
  };
}

export const bridging: ConfigSection<BridgingPart> = {
  blank: {},
  derive: deriveBridge,
  members: {},
  words: {
    bridging: 'VLANs',
    tagged: 'tagged VLANs',
    untagged: 'untagged VLAN',
    vlans: 'VLANs',
    bridge: 'the bridge',
    ports: 'ports',
    lags: 'LAGs',
    vxlans: 'VXLAN interfaces',
    spanningTree: 'spanning tree',
    priority: 'priority',
  },
  causeOf: ([, part], context) => ({
    ...patternCause(context),
    label: part === 'mtu' ? 'largest MTU of the rack’s networks' : 'networks of the rack',
  }),
};
