import { parseIpv4 } from '../numbers/ipv4.ts';
import { connectedIn, subnetOf } from './localRoutes.ts';
import type { NetworkModel } from './networkModel.ts';
import { answersIn, endKey } from './sessions.ts';

/** A table of routes: a VRF of a switch, or what is outside of VRFs there. */
export interface TenantNode {
  readonly host: string;
  /** Undefined = outside of VRFs. */
  readonly vrf: string | undefined;
}

/** A table as one word. */
export const nodeKey = (host: string, vrf: string | undefined): string =>
  vrf === undefined ? host : `${host}\n${vrf}`;

/** The table of who has the next hop of a route that is written down, or why there is none. */
export function nextHop(
  model: Pick<NetworkModel, 'views' | 'plan'>,
  { host, vrf }: TenantNode,
  via: string,
): TenantNode | { readonly why: string; readonly unsure: boolean } {
  const { config, portByName } = model.views.get(host)!;
  const lost = (why: string, unsure = false) => ({ why, unsure });
  const address = parseIpv4(via) !== null;
  const subnet = address ? subnetOf(connectedIn(config, vrf), via) : undefined;
  if (address && !subnet) return lost(`${host}: ${via} is not next door`, true);
  const ports = subnet?.svi
    ? config.ports.filter((p) => p.bridging?.untagged === subnet.svi!.vlan).map((p) => p.name)
    : [subnet?.port ?? via];
  for (const port of ports) {
    if (portByName.get(port)?.shut) continue;
    const end = model.plan.get(endKey(host, port));
    const far = end && model.views.get(end.host);
    if (!end || !far || far.portByName.get(end.port)?.shut) continue;
    if (!address) return { host: end.host, vrf: far.portByName.get(end.port)?.vrf };
    const answers = answersIn(far, end, via);
    if (!('why' in answers)) return { host: end.host, vrf: answers.vrf };
  }
  // Over a VLAN others may have it, behind other switches.
  return lost(
    `nobody has ${via}, the next hop of ${host}, on ${ports.join(' or ') || 'a port of its VLAN'}`,
    !!subnet?.svi,
  );
}
