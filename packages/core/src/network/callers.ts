import { familyName } from '../config/bgpParts.ts';
import { familyOf, type AnyPrefix } from '../numbers/prefix.ts';
import { onceFor } from '../onceFor.ts';
import type { EffectivePeer } from './bgp.ts';
import type { NetworkModel } from './networkModel.ts';
import type { TenantNode } from './nextHop.ts';
import { OWN_ATTRIBUTES } from './routes.ts';
import type { TenantGroup } from './tenantGroup.ts';
import { tenantsOf } from './tenants.ts';

interface Range {
  readonly host: string;
  readonly caller: EffectivePeer;
}
/** The ranges from which somebody may call a table of a group. */
const rangesOf = onceFor((model: NetworkModel) =>
  onceFor((group: TenantGroup): readonly Range[] =>
    group.nodes.flatMap(({ host, vrf }) =>
      (model.views.get(host)!.router(vrf)?.callers ?? []).map((caller): Range => ({ host, caller })),
    ),
  ),
);

/** May who calls tell a prefix? */
function mayTell({ caller }: Range, prefix: AnyPrefix): boolean {
  const name = familyName(familyOf(prefix));
  if (!caller[name] || caller.shutdown) return false;
  const policy = caller[`${name}Policy`].in;
  return policy === null || policy(OWN_ATTRIBUTES, prefix) !== null;
}

/**
 * Why a table may have a route that none is known to tell: somebody may call who is not known. Null = nobody may tell it.
 * @param nearest the closest route that is known; what callers tell may lie within it
 */
export function callersDoubt(
  model: NetworkModel,
  { host, vrf }: TenantNode,
  prefix: AnyPrefix,
  nearest: AnyPrefix | null,
): string | null {
  const group = tenantsOf(model, familyOf(prefix)).groupOf(host, vrf);
  const range = group && rangesOf(model)(group).find((r) => mayTell(r, prefix));
  // Where one is known to tell what they may, the others tell the same.
  if (!range || (nearest && mayTell(range, nearest))) return null;
  return `servers from ${range.caller.name} may tell it to ${range.host} once they call`;
}
