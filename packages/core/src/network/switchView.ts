import type { SwitchConfig } from '../config/switchConfig.ts';
import { viewBgp, type BgpView } from './bgp.ts';
import { viewBridge, type BridgeView } from './bridging.ts';
import { viewInterfaces, type InterfacesView } from './interfaces.ts';
import { viewOverlay, type OverlayView } from './overlay.ts';
import { viewVrfs, type CarriedVrf } from './vrfs.ts';

/** A SwitchConfig indexed and completed for the network model, a section a file. */
export interface SwitchView extends InterfacesView, OverlayView, BgpView {
  readonly config: SwitchConfig;
  readonly bridge: BridgeView;
  readonly vrfs: ReadonlyMap<string, CarriedVrf>;
}

function build(config: SwitchConfig): SwitchView {
  const interfaces = viewInterfaces(config);
  const bridge = viewBridge(config);
  const overlay = viewOverlay(config, bridge);
  return {
    config,
    ...interfaces,
    bridge,
    ...overlay,
    ...viewBgp(config),
    vrfs: viewVrfs({ config, bridge, interfaces, overlay }),
  };
}

const views = new WeakMap<SwitchConfig, SwitchView>();

/** The view of a configuration; made once per configuration object. */
export function viewOf(config: SwitchConfig): SwitchView {
  let view = views.get(config);
  if (!view) views.set(config, (view = build(config)));
  return view;
}
