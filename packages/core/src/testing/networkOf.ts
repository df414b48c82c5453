import type { RouteAnswer } from '../ask/answer.ts';
import { routesOf } from '../ask/routesOf.ts';
import { compileFabric, type CompiledFabric } from '../compile/compileFabric.ts';
import { originOf } from '../config/origins.ts';
import type { Place, SwitchConfig } from '../config/switchConfig.ts';
import { POOLS } from '../demo/skerry.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { modelNetwork } from '../network/modelNetwork.ts';
import type { NetworkModel } from '../network/networkModel.ts';
import { modelFabric } from '../proof/proveChange.ts';
import { configsOf } from './fabricOf.ts';

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
