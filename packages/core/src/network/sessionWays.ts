import type { SviConfig } from '../config/interfaces.ts';
import { hostPart } from '../numbers/ipv4.ts';
import { familyOf, hostPrefix, parseAnyPrefix } from '../numbers/prefix.ts';
import type { EffectivePeer, RouterView } from './bgp.ts';
import type { CableEnd, CablePlan } from './cablePlan.ts';
import { subnetOf, subnetsIn, type ConnectedRoute } from './localRoutes.ts';
import type { SwitchView } from './switchView.ts';

/** A router as sessions see it: BGP of a switch in one VRF. */
export interface Speaker {
  readonly router: RouterView;
  readonly host: string;
  readonly view: SwitchView;
  readonly vrf: string | undefined;
}
export const speakerOf = (host: string, view: SwitchView, vrf: string | undefined): Speaker | null => {
  const router = view.router(vrf);
  return router && { router, host, view, vrf };
};
export const inVrf = (vrf: string | undefined): string => (vrf === undefined ? 'outside of VRFs' : `in VRF ${vrf}`);

/** Where a neighbour is looked for: over a port, or in a VLAN, with the own addresses there; null = over routes. */
export interface Way {
  readonly port: string | null;
  readonly own: readonly string[];
  /** The next hop behind which the neighbour lies, by a route that is written down; absent = it is next door. */
  readonly behind?: string;
}
/** The way to a neighbour, or why there is none. */
export function wayTo(
  here: Speaker,
  peer: EffectivePeer,
  views: ReadonlyMap<string, SwitchView>,
  plan: CablePlan,
): Way | { readonly why: string } {
  const { view, vrf } = here;
  const over = (port: string): Way => {
    const { addresses, ipv6Addresses = [] } = view.portByName.get(port)!;
    return { port, own: [...addresses, ...ipv6Addresses].map(hostPart) };
  };
  if (peer.kind === 'interface') {
    const port = view.portByName.get(peer.name);
    if (!port) return { why: `interface ${peer.name} is not in the interfaces file` };
    return port.vrf === vrf ? over(peer.name) : { why: `${peer.name} is ${inVrf(port.vrf)}` };
  }
  const address = hostPrefix(peer.name);
  if (address === null) return { why: `${peer.name} is no address` };
  // Subnets are gathered where the port is not found at once: switches have many.
  const among = (wanted: (c: ConnectedRoute) => boolean): ConnectedRoute | undefined =>
    subnetOf(subnetsIn(view.config, vrf, familyOf(address)).filter(wanted), peer.name);
  const routed =
    typeof address.address === 'number'
      ? view.portTowards(address.address, vrf)
      : among((c) => c.svi === undefined && c.port !== 'lo')?.port;
  if (routed !== undefined) return over(routed);
  const subnet = view.config.svis.some((s) => s.vrf === vrf) ? among((c) => c.svi !== undefined) : undefined;
  if (!subnet) return ((peer.multihop ?? 1) > 1 && behindPort(here, peer.name)) || ROUTES;
  const port = accessTo(views, plan, here.host, subnet.svi!.vlan, peer.name);
  return { port, own: ownIn(subnet.svi!) };
}
/**
 * The port of a VRF behind which an address lies: the one way of its own host route, of which none is longer, that is
 * written down with a next hop on that port; null = it is not so simple.
 */
function behindPort({ view, vrf }: Speaker, address: string): Way | null {
  if (vrf === undefined) return null;
  const { config } = view;
  const alone = hostPrefix(address)!;
  const routes = (config.staticRoutes ?? []).filter((r) => {
    const to = r.vrf === vrf ? parseAnyPrefix(r.prefix) : null;
    return to?.length === alone.length && to.address === alone.address && familyOf(to) === familyOf(alone);
  });
  const [route] = routes;
  // What stands behind BGP may be another way.
  if (!route?.via || routes.length > 1 || (route.distance ?? 1) >= EBGP_DISTANCE) return null;
  const next = subnetOf(subnetsIn(config, vrf, familyOf(alone)), route.via);
  if (!next || next.svi !== undefined || hostPart(next.address) === route.via) return null;
  return { port: next.port, own: [hostPart(next.address)], behind: route.via };
}
const EBGP_DISTANCE = 20;
export const ROUTES: Way = { port: null, own: [] };
const ownIn = ({ addresses, ipv6Addresses = [], virtual }: SviConfig): string[] =>
  [...addresses, ...ipv6Addresses, ...(virtual ? [virtual.address, ...(virtual.ipv6Addresses ?? [])] : [])].map(
    hostPart,
  );

/** The VRF in which a switch answers on a port to an address of its own, or why it does not. */
export function answersIn(
  view: SwitchView,
  end: CableEnd,
  address: string,
): { vrf: string | undefined } | { why: string } {
  const port = view.portByName.get(end.port);
  if (view.portByAddress.get(address) === end.port) return { vrf: port?.vrf };
  // What comes in on a bridged port is for the interface of its VLAN.
  const vlan = (view.lagOfPort.get(end.port) ?? port)?.bridging?.untagged;
  const svi = vlan === undefined ? undefined : view.sviByVlan.get(vlan);
  if (svi && ownIn(svi).includes(address)) return { vrf: svi.vrf };
  return { why: `${end.host} ${end.port} has ${port?.addresses[0] ?? 'no address'}, not ${address}` };
}

/** The open port of a switch, without a tag in a VLAN, over whose cable somebody answers to an address; null = there is none. */
export function accessTo(
  views: ReadonlyMap<string, SwitchView>,
  plan: CablePlan,
  host: string,
  vlan: number,
  address: string,
): string | null {
  const { config, bridge } = views.get(host)!;
  for (const { name, bridging, shut } of config.ports) {
    if (bridging?.untagged !== vlan || shut || !bridge.hasPort(name)) continue;
    const end = plan.end(host, name);
    const far = end && views.get(end.host);
    if (far && !('why' in answersIn(far, end, address))) return name;
  }
  return null;
}
