import {
  hostsOf,
  modelFabric,
  type CompiledFabric,
  type FabricIntent,
  type NetworkModel,
  type Values,
} from '@anthemion/core';
import type { Reads } from '../../store/database.ts';
import { notThere } from '../../trouble.ts';
import { memoryOf, weigh } from '../fabricMemory.ts';
import { compiledState, stateAt } from './state.ts';

/** The network of a fabric with its servers, to be asked about. */
export const networkOf = (
  compiled: CompiledFabric,
  intent: FabricIntent,
  values: Values,
  last: NetworkModel | null,
): NetworkModel => modelFabric(compiled, last, hostsOf(intent, compiled.layout, values));

/** What a fabric makes: as it is live, or as a change would have it. */
export async function networkAt(
  tx: Reads,
  fabric: string,
  change: string | null,
): Promise<{ readonly compiled: CompiledFabric; readonly network: NetworkModel }> {
  const state = await stateAt(tx, fabric, change);
  if (state.intent.name !== fabric) throw notThere(`change ${change} of ${fabric}`);
  const compiled = await compiledState(tx, state);
  const memory = memoryOf(fabric);
  const known = (change === null ? memory.before : memory.after)?.network ?? null;
  const network = networkOf(compiled, state.intent, state.values, known);
  weigh(fabric);
  return { compiled, network };
}
