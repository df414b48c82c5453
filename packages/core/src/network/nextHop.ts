import { familyOf, hostPrefix } from '../numbers/prefix.ts';
import { subnetOf, subnetsIn } from './localRoutes.ts';
import type { NetworkModel } from './networkModel.ts';
import { accessTo, answersIn } from './sessionWays.ts';

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
  const hop = hostPrefix(via);
  const address = hop !== null;
  const subnet = hop ? subnetOf(subnetsIn(config, vrf, familyOf(hop)), via) : undefined;
  if (address && !subnet) return lost(`${host}: ${via} is not next door`, true);
  const vlan = subnet?.svi?.vlan;
  const port = vlan === undefined ? (subnet?.port ?? via) : accessTo(model.views, model.plan, host, vlan, via);
  const end = port === null ? undefined : model.plan.end(host, port);
  const far = end && model.views.get(end.host);
  // Over a VLAN others may have it, behind other switches.
  const nobody = lost(
    `nobody has ${via}, the next hop of ${host}, on ${port ?? `a port of VLAN ${vlan}`}`,
    vlan !== undefined,
  );
  if (!end || !far || portByName.get(port!)?.shut || far.portByName.get(end.port)?.shut) return nobody;
  if (!address) return { host: end.host, vrf: far.portByName.get(end.port)?.vrf };
  const answers = answersIn(far, end, via);
  return 'why' in answers ? nobody : { host: end.host, vrf: answers.vrf };
}
