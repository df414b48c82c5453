import { onceFor } from '../onceFor.ts';
import { holds, networkOfPrefix, parseAddress, parseInterfaceAddress, bitsOf } from '../numbers/address.ts';
import type { HostPort, NetworkModel } from './networkModel.ts';
import type { Session } from './sessions.ts';

/** Who a session in a VRF is with, where it is a router or server behind an open port of a VLAN that the switch has a gateway in. */
function behind(model: NetworkModel, { host, vrf, port, farHost, peer }: Session): HostPort | null {
  if (vrf === undefined || port === null || farHost === null) return null;
  const address = parseAddress(peer);
  const view = model.views.get(host)!;
  const vlan = view.portByName.get(port)?.bridging?.untagged;
  const svi = vlan === undefined ? undefined : view.sviByVlan.get(vlan);
  const end = model.plan.end(host, port);
  // What bridges the VLAN itself is another switch of it.
  const far = end && model.views.get(end.host)?.portByName.get(end.port);
  if (!address || !svi || svi.vrf !== vrf || !far || far.bridging) return null;
  const { addresses, ipv6Addresses = [], virtual } = svi;
  const own = [...addresses, ...ipv6Addresses, ...(virtual ? [virtual.address, ...(virtual.ipv6Addresses ?? [])] : [])];
  const wanted = { family: address.family, address: address.value, length: bitsOf(address.family) };
  const gateway = own.find((a) => {
    const parsed = parseInterfaceAddress(a);
    return parsed !== null && holds(networkOfPrefix(parsed), wanted);
  });
  return gateway === undefined
    ? null
    : { host: farHost, switch: host, port, vlan: svi.vlan, ip: peer, gateway: gateway.split('/')[0]! };
}

/** Everybody whose address a switch hears in a VLAN of its own: servers, and who speaks BGP to a gateway. */
export const heardHosts = onceFor((model: NetworkModel): readonly HostPort[] => {
  const speaking = model.sessions.flatMap((s) => behind(model, s) ?? []);
  return speaking.length === 0 ? model.hosts : [...model.hosts, ...speaking];
});
