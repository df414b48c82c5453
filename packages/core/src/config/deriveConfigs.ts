import type { FabricIntent } from '../intent/intent.ts';
import type { Layout } from '../layout/links.ts';
import type { Values } from '../pools/drawValues.ts';
import type { Pool } from '../pools/pool.ts';
import { inputsMemo, seatInputsOf, type InputsMemo, type SeatInputs } from './seatInputs.ts';
import { deriveConfig } from './sections.ts';
import type { SwitchConfig } from './switchConfig.ts';

/** What was derived last, with the inputs it was derived from. */
export interface DerivationMemo {
  readonly inputs: InputsMemo;
  readonly configs: Map<string, { readonly from: SeatInputs; readonly config: SwitchConfig }>;
}
export const derivationMemo = (): DerivationMemo => ({ inputs: inputsMemo(), configs: new Map() });
/** A memo that starts from what another knows. */
export const copyDerivation = ({ inputs, configs }: DerivationMemo): DerivationMemo => ({
  inputs: {
    networks: new Map(inputs.networks),
    carriages: new Map(inputs.carriages),
    seats: new Map(inputs.seats),
    ...(inputs.last ? { last: inputs.last } : {}),
  },
  configs: new Map(configs),
});

/**
 * Derives the configuration of every seat whose values are all drawn, by seat. A VRF or network is configured only on
 * switches of racks that carry it (symmetric routing, RFC 9135). Pure: the same intent and values give the same
 * configurations; with a memo, a seat whose inputs are those of last time gets the very configuration of last time.
 */
export function deriveConfigs(
  intent: FabricIntent,
  layout: Layout,
  values: Values,
  pools: readonly Pool[],
  memo?: DerivationMemo,
): Map<string, SwitchConfig> {
  const configs = new Map<string, SwitchConfig>();
  for (const inputs of seatInputsOf(intent, layout, values, pools, memo?.inputs)) {
    const { id } = inputs.seat;
    const known = memo?.configs.get(id);
    const config = known?.from === inputs ? known.config : deriveConfig(inputs);
    memo?.configs.set(id, { from: inputs, config });
    configs.set(id, config);
  }
  return configs;
}
