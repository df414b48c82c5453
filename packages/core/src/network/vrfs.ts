import { vxlanWords } from '../config/overlay.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import type { VrfConfig } from '../config/vrfs.ts';
import { isBridged, type BridgeView } from './bridging.ts';
import type { InterfacesView } from './interfaces.ts';
import { targetsOf, type EffectiveTargets, type OverlayView } from './overlay.ts';

/** One tenant VRF with its L3 VNI, as it works on the switch. */
export interface CarriedVrf extends EffectiveTargets {
  readonly name: string;
  readonly l3Vni: number | undefined;
  /** Why prefix and host routes of the VRF cannot cross the fabric from here, or null. */
  readonly broken: string | null;
  readonly vtep: string | undefined;
}

/** What one looks at to know whether a VRF works. */
interface Around {
  readonly config: SwitchConfig;
  readonly bridge: BridgeView;
  readonly interfaces: InterfacesView;
  readonly overlay: OverlayView;
}

function whyBroken({ name, l3Vni }: VrfConfig, hasBgp: boolean, around: Around): string | null {
  if (l3Vni === undefined) return 'the VRF has no L3 VNI';
  const vxlan = around.overlay.vxlanByVni.get(l3Vni);
  if (!vxlan) return `L3 VNI ${l3Vni} has no VXLAN interface`;
  if (!isBridged(around.bridge, vxlan))
    return `VXLAN interface ${vxlanWords(vxlan)} of the L3 VNI is not on the bridge`;
  const svi = around.interfaces.sviByVlan.get(vxlan.vlan!);
  if (svi?.vrf !== name) return `its L3 VNI’s VLAN ${vxlan.vlan} has no interface in VRF ${name}`;
  if (!hasBgp) return `BGP has no block for VRF ${name}`;
  return around.config.bgp?.evpn.advertiseAllVni ? null : 'EVPN does not announce its VNIs';
}

export function viewVrfs(around: Around): Map<string, CarriedVrf> {
  const { vrfs, bgp } = around.config;
  const talks = new Map(bgp?.vrfs.map((v) => [v.vrf, v]));
  return new Map(
    vrfs.map((vrf) => {
      const talk = talks.get(vrf.name);
      return [
        vrf.name,
        {
          name: vrf.name,
          l3Vni: vrf.l3Vni,
          broken: whyBroken(vrf, talk !== undefined, around),
          vtep: vrf.l3Vni === undefined ? undefined : around.overlay.vxlanByVni.get(vrf.l3Vni)?.localAddress,
          ...targetsOf(talk, bgp?.asn, vrf.l3Vni),
        },
      ];
    }),
  );
}
