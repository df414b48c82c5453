import type { RouteTargets } from '../config/bgp.ts';
import type { VxlanConfig } from '../config/overlay.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import { isBridged, type BridgeView } from './bridging.ts';

/** Route targets of a VNI or VRF as they work, automatic ones filled in (RFC 8365 §5.1.2.1). */
export interface EffectiveTargets {
  readonly imports: readonly string[];
  readonly exports: readonly string[];
}

/** One L2 VNI a switch carries and announces. */
export interface CarriedVni extends EffectiveTargets {
  readonly vxlan: VxlanConfig;
}

export interface OverlayView {
  readonly vxlanByVni: ReadonlyMap<number, VxlanConfig>;
  readonly l2Vnis: ReadonlyMap<number, CarriedVni>;
  readonly vniOfVlan: ReadonlyMap<number, number>;
}

/** What is said, or else the automatic route target: low 16 bits of the AS number, then the VNI. */
export function targetsOf(
  said: RouteTargets | undefined,
  asn: number | undefined,
  vni: number | undefined,
): EffectiveTargets {
  const auto = asn === undefined || vni === undefined ? [] : [`${asn & 0xffff}:${vni}`];
  return {
    imports: said && said.imports.length > 0 ? said.imports : auto,
    exports: said && said.exports.length > 0 ? said.exports : auto,
  };
}

export function viewOverlay(config: SwitchConfig, bridge: BridgeView): OverlayView {
  const { bgp } = config;
  const l3 = new Set(config.vrfs.map((v) => v.l3Vni));
  const said = new Map(bgp?.evpn.vnis.map((v) => [v.vni, v]));
  const l2Vnis = new Map<number, CarriedVni>();
  const vniOfVlan = new Map<number, number>();
  const vxlanByVni = new Map<number, VxlanConfig>();
  for (const vxlan of config.vxlans) {
    vxlanByVni.set(vxlan.vni, vxlan);
    if (!isBridged(bridge, vxlan) || l3.has(vxlan.vni)) continue;
    vniOfVlan.set(vxlan.vlan!, vxlan.vni);
    if (bgp?.evpn.advertiseAllVni)
      l2Vnis.set(vxlan.vni, { vxlan, ...targetsOf(said.get(vxlan.vni), bgp.asn, vxlan.vni) });
  }
  return { vxlanByVni, l2Vnis, vniOfVlan };
}
