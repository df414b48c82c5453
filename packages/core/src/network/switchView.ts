import type { SwitchConfig } from '../config/switchConfig.ts';
import { viewBgp, type BgpView } from './bgp.ts';
import { viewBridge, type BridgeView } from './bridging.ts';
import { viewInterfaces, type InterfacesView } from './interfaces.ts';
import { viewOspf, viewOspf6, type OspfView } from './ospfPorts.ts';
import { viewOverlay, type OverlayView } from './overlay.ts';
import { formatPrefix, hostPart, parseCidr, prefixOf } from '../numbers/ipv4.ts';
import { viewVrfs, type CarriedVrf } from './vrfs.ts';

/** A SwitchConfig indexed and completed for the network model, a section a file. */
export interface SwitchView extends InterfacesView, OverlayView, BgpView {
  readonly config: SwitchConfig;
  readonly bridge: BridgeView;
  readonly vrfs: ReadonlyMap<string, CarriedVrf>;
  /** Null = it runs none. */
  readonly ospf: OspfView | null;
  /** The same of IPv6. */
  readonly ospf6: OspfView | null;
  /** Loopback addresses (host part) that others are told of in the underlay, by BGP or OSPF. */
  readonly announced: ReadonlySet<string>;
}

function build(config: SwitchConfig): SwitchView {
  const interfaces = viewInterfaces(config);
  const bridge = viewBridge(config);
  const overlay = viewOverlay(config, bridge);
  const bgp = viewBgp(config);
  const ospf = viewOspf(config);
  return {
    config,
    ...interfaces,
    bridge,
    ...overlay,
    ...bgp,
    ospf,
    ospf6: viewOspf6(config),
    announced: announcedBy(config, bgp, ospf),
    vrfs: viewVrfs({ config, bridge, interfaces, overlay }),
  };
}

function announcedBy(config: SwitchConfig, bgp: BgpView, ospf: OspfView | null): ReadonlySet<string> {
  const out = new Set<string>();
  for (const loopback of config.loopbacks) {
    const cidr = parseCidr(loopback);
    const prefix = cidr && formatPrefix(prefixOf(cidr));
    if (prefix !== null && (bgp.ownRoutes.has(prefix) || ospf?.origins.has(prefix))) out.add(hostPart(loopback));
  }
  return out;
}

const views = new WeakMap<SwitchConfig, SwitchView>();

/** The view of a configuration; made once per configuration object. */
export function viewOf(config: SwitchConfig): SwitchView {
  let view = views.get(config);
  if (!view) views.set(config, (view = build(config)));
  return view;
}
