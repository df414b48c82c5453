import type { RouteAnswer } from '../ask/answer.ts';
import { routesOf } from '../ask/routesOf.ts';
import { compileFabric, type CompiledFabric } from '../compile/compileFabric.ts';
import { POOLS, SKERRY_POOLS } from '../demo/skerry.ts';
import type { Edit } from '../intent/edits/index.ts';
import type { FabricIntent, OutsideNeighbour } from '../intent/intent.ts';
import { originOf } from '../config/origins.ts';
import type { Place, SwitchConfig } from '../config/switchConfig.ts';
import { modelNetwork } from '../network/modelNetwork.ts';
import type { NetworkModel } from '../network/networkModel.ts';
import { modelFabric } from '../proof/proveChange.ts';
import { configsOf, intentOf, LAY_BORDER } from './fabricOf.ts';

/** A border pair with tenants, whose halves are joined to a router outside; nobody speaks to it yet. */

/** Two tenants with a network each in a rack, and a router outside joined to both halves of the border. */
export const joinedBorder = intentOf(
  LAY_BORDER,
  { kind: 'choosePools', pools: SKERRY_POOLS },
  { kind: 'addVrf', vrf: { name: 'tides', transitVlan: 4001 } },
  { kind: 'addVrf', vrf: { name: 'charts', transitVlan: 4002 } },
  { kind: 'addNetwork', network: { name: 'gauges', vrf: 'tides', vlan: 20, subnetLength: 24, racks: [2], mtu: 9000 } },
  { kind: 'addNetwork', network: { name: 'maps', vrf: 'charts', vlan: 30, subnetLength: 24, racks: [2] } },
  { kind: 'joinOutside', link: { rack: 1, side: 'a', port: 'p46', system: 'offing-1', farPort: 'eth1' } },
  { kind: 'joinOutside', link: { rack: 1, side: 'b', port: 'p46', system: 'offing-1', farPort: 'eth2' } },
);

/** Has the first half speak to the router in the first tenant, but for what is said otherwise. */
export const putNeighbourOf = (of: Partial<OutsideNeighbour> = {}): Edit => ({
  kind: 'putNeighbour',
  neighbour: {
    rack: 1,
    side: 'a',
    port: 'p46',
    vrf: 'tides',
    address: '192.0.2.0/31',
    far: '192.0.2.1',
    asn: 64701,
    takes: [],
    tells: [],
    ...of,
  },
});

/** What comes of an intent: its texts, and the network these make. */
export function networkOf(intent: FabricIntent) {
  const { drawn, layout } = configsOf(intent);
  const compiled: CompiledFabric = compileFabric(intent, drawn.values, POOLS);
  /** What a switch is sent for FRR. */
  const frrOf = (host: string): string => compiled.switches.find((s) => s.seat.host === host)!.files['frr.conf']!;
  return { compiled, layout, values: drawn.values, network: modelFabric(compiled), frrOf };
}

/** A network in which one switch says something otherwise. */
export const otherwise = (network: NetworkModel, host: string, make: (c: SwitchConfig) => SwitchConfig): NetworkModel =>
  modelNetwork(
    network.switches.map((s) => (s.host === host ? { ...s, config: make(s.config) } : s)),
    network.cables,
  );

/** Asks what a place of a switch is there for, as the subject of its origin. */
export function subjectsOn(intent: FabricIntent, host: string): (...place: string[]) => string {
  const { layout, drawn } = configsOf(intent);
  const seat = layout.seats.find((s) => s.host === host)!;
  return (...place) =>
    originOf(place as unknown as Place, { intent, layout, seat, values: drawn.values, ledger: [], edits: [] }).subject;
}

/** Prefixes that a table has, in its order. */
export const prefixesAt = (network: NetworkModel, host: string, vrf?: string): string[] =>
  (routesOf(network, host, vrf) as readonly RouteAnswer[]).map((r) => r.prefix);
