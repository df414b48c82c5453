import { lagKey, type LagConfig } from '../config/interfaces.ts';
import { vxlanKey, type VxlanConfig } from '../config/overlay.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';

/** What is in the bridge of a switch. */
export interface BridgeView {
  readonly hasPort: (name: string) => boolean;
  readonly hasLag: (lag: Pick<LagConfig, 'number' | 'called'>) => boolean;
  readonly hasVxlan: (vxlan: Pick<VxlanConfig, 'vni' | 'called'>) => boolean;
  readonly carries: (vlan: number) => boolean;
}

export function viewBridge({ bridge }: SwitchConfig): BridgeView {
  const ports = new Set(bridge?.ports);
  const lags = new Set(bridge?.lags);
  const vxlans = new Set(bridge?.vxlans);
  const vlans = new Set(bridge?.vlans);
  return {
    hasPort: (name) => ports.has(name),
    hasLag: (lag) => lags.has(lagKey(lag)),
    hasVxlan: (vxlan) => vxlans.has(vxlanKey(vxlan)),
    carries: (vlan) => vlans.has(vlan),
  };
}

/** Is a VXLAN interface on the bridge, and its VLAN too? */
export const isBridged = (bridge: BridgeView, vxlan: VxlanConfig): boolean =>
  vxlan.vlan !== undefined && bridge.hasVxlan(vxlan) && bridge.carries(vxlan.vlan);
