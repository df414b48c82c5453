import type { ServerPort } from '../intent/intent.ts';
import { naturally } from '../numbers/order.ts';
import type { VlanId } from '../numbers/vni.ts';
import { patternCause, type ConfigSection } from './section.ts';
import { onceFor } from '../onceFor.ts';
import type { Carriage } from './seatInputs.ts';

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
  vxlans: [...networks, ...vrfs].map((c) => String(c.vni)).sort(naturally),
  vlans: [...networks.map((n) => n.vlan), ...vrfs.map((v) => v.vrf.transitVlan)].sort((a, b) => a - b),
}));

export const bridging: ConfigSection<BridgingPart> = {
  blank: {},
  derive: ({ servers, carriage }) =>
    carriage.networks.length === 0
      ? {}
      : {
          bridge: {
            ports: servers.flatMap((p) => (p.side === 'both' ? [] : [p.port])).sort(naturally),
            lags: servers.flatMap((p) => (p.side === 'both' ? [String(lagNumber(p))] : [])).sort(naturally),
            ...shared(carriage),
          },
        },
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
  },
  causeOf: (_, context) => ({ ...patternCause(context), label: 'networks of the rack' }),
};

/** The LAG of a multihomed server has the number of its port. */
export const lagNumber = (p: ServerPort): number => Number(/(?<!\d)\d+$/.exec(p.port)?.[0] ?? 0);
