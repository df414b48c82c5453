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

/** What any AS number may stand before. */
const ANY_AS = '*';
/**
 * Do routes with these targets come in? An automatic import looks at the VNI half of a target alone, where its other half
 * is an AS number of two bytes (as FRR has it; RFC 8365 §5.1.2.1 would have both); one that is said must be equal whole.
 */
export const targetsMeet = (exports: readonly string[], imports: readonly string[]): boolean =>
  imports.some((i) =>
    i.startsWith(ANY_AS)
      ? exports.some((e) => e.endsWith(i.slice(1)) && /^\d{1,5}:/.test(e) && Number(e.split(':')[0]) <= 65535)
      : exports.includes(i),
  );

/** What is said, or else the automatic route targets: low 16 bits of the AS number, then the VNI. */
export function targetsOf(
  said: RouteTargets | undefined,
  asn: number | undefined,
  vni: number | undefined,
): EffectiveTargets {
  const auto = (as: number | string): string[] => (asn === undefined || vni === undefined ? [] : [`${as}:${vni}`]);
  return {
    imports: said && said.imports.length > 0 ? said.imports : auto(ANY_AS),
    exports: said && said.exports.length > 0 ? said.exports : auto((asn ?? 0) & 0xffff),
  };
}

export function viewOverlay(config: SwitchConfig, bridge: BridgeView): OverlayView {
  const { bgp } = config;
  const l3 = new Set([config.outsideL3Vni, ...config.vrfs.map((v) => v.l3Vni)]);
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
