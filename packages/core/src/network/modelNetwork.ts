import { familyOfText, hostPrefix } from '../numbers/prefix.ts';
import type { Cable } from './cablePlan.ts';
import { modelOver, type HostPort, type Leg, type NetworkModel } from './networkModel.ts';
import type { ReadSwitch } from './readSwitch.ts';
import type { Reaches6 } from './farEnd.ts';
import type { Session } from './sessions.ts';
import { tenantsOf } from './tenants.ts';
import { tenantDoubt } from './uncertain.ts';

/** Is a session between addresses of IPv6 over routes, of one outside of VRFs with another? */
const isOverIpv6 = (s: Session): boolean =>
  s.port === null && s.vrf === undefined && s.farHost !== null && familyOfText(s.peer) === 6;

/** Which addresses of IPv6 a switch reaches, by the tables of a network without such sessions. */
const reachesIn =
  (model: NetworkModel): Reaches6 =>
  (host, address) => {
    const group = tenantsOf(model, 6).groupOf(host, undefined)!;
    const doubt = tenantDoubt(model, group);
    const target = hostPrefix(address)!;
    const node = { host, vrf: undefined };
    if (group.routeAt(node, target)) return { ok: true, unsure: doubt };
    const wider = group.around(target).some((p) => group.routeAt(node, p) !== null);
    return { ok: false, unsure: doubt ?? (wider ? `only a wider route leads ${host} to ${address}` : null) };
  };

/**
 * Computes the network from what was parsed and the cables. Pure; the cost is dominated by path settling. Sessions come first
 * that need no routes, then those over the routes that these bring.
 */
export function modelNetwork(
  switches: readonly ReadSwitch[],
  cables: readonly Cable[],
  hosts: readonly HostPort[] = [],
  last: NetworkModel | null = null,
  legs: readonly Leg[] = hosts,
): NetworkModel {
  const inputs = { switches, cables, hosts, legs, last };
  const first = modelOver(inputs);
  if (first.sessions === last?.sessions || !first.sessions.some(isOverIpv6)) return first;
  return modelOver({ ...inputs, last: null }, reachesIn(first));
}
