import { vniEnd, vtepsHeard, whyUnheard, type NetworkModel } from '../network/networkModel.ts';
import { callersDoubt } from '../network/callers.ts';
import { missingDoubt, vtepsDoubt } from '../network/uncertain.ts';
import { tenantsOf } from '../network/tenants.ts';
import { familyOf, formatAny, networkOfAny, parseAnyCidr } from '../numbers/prefix.ts';
import type { Hearing, RouteAnswer } from './answer.ts';
import { routeTo } from './routesOf.ts';
import { tenantRoute } from './tenantRoutes.ts';

/** So many tables of tenants are asked one by one; of more, one switch is asked at a time. */
const MOST_TABLES = 200;

/** What every switch has of a prefix, outside of VRFs and in each. */
export function hearersOf(model: NetworkModel, text: string): readonly Hearing[] | string {
  const cidr = parseAnyCidr(text);
  if (!cidr) return `${text} is no prefix`;
  const prefix = networkOfAny(cidr);
  const known = formatAny(prefix);
  const family = familyOf(prefix);
  const tenants = tenantsOf(model, family);
  const tables = new Map<string, string[]>();
  let all = 0;
  for (const { host } of model.switches)
    for (const vrf of model.views.get(host)!.vrfs.keys()) {
      if (!tenants.groupOf(host, vrf)!.prefixes.has(known)) continue;
      tables.set(host, [...(tables.get(host) ?? []), vrf]);
      all++;
    }
  if (all > MOST_TABLES)
    return `${all} VRFs of switches may have ${known}: ask one switch, “routes SWITCH in VRF to ADDRESS”`;
  return model.switches.map(({ host }): Hearing => {
    const outside = routeTo(model, host, prefix);
    const inside = (tables.get(host) ?? []).map((vrf) => [vrf, tenantRoute(model, host, vrf, prefix)] as const);
    const hears = [
      ...(outside ? waysOf(outside) : []),
      ...inside.flatMap(([vrf, route]) => (route ? waysOf(route).map((way) => `in ${vrf}: ${way}`) : [])),
    ];
    const doubts = [
      outside ? outside.unsure : missingDoubt(model, { host, vrf: undefined }, family, prefix),
      ...inside.map(([vrf, route]) => (route ? route.unsure : missingDoubt(model, { host, vrf }, family, prefix))),
    ];
    const untold = [...model.views.get(host)!.vrfs.keys()].flatMap((vrf) =>
      tables.get(host)?.includes(vrf) ? [] : callersDoubt(model, { host, vrf }, prefix, null),
    );
    return { host, hears, deafTo: [], unsure: [...doubts, ...untold].find((d) => d !== null) ?? null };
  });
}
const OWN = { connected: 'its own, on ', static: 'written down, to ' } as const;
const waysOf = ({ kind, ways }: RouteAnswer): string[] =>
  ways.map(({ over, to, path }) =>
    to === null
      ? `${kind === 'connected' || kind === 'static' ? OWN[kind] : ''}${over}`
      : `${to} over ${over}${path.length > 0 ? `, path ${path.join(' ')}` : ''}`,
  );

/** Who carries a VNI, whom each hears, and whom not. */
export function carriersOf(model: NetworkModel, vni: number): readonly Hearing[] | string {
  const carriers = model.carriers.get(vni);
  if (!carriers) return `no switch carries VNI ${vni}`;
  return carriers.map((host) => {
    const here = vniEnd(host, vni, model.views.get(host)!.l2Vnis.get(vni)!);
    const deafTo = carriers.flatMap((other) => {
      if (other === host) return [];
      const trouble = whyUnheard(model, here, vniEnd(other, vni, model.views.get(other)!.l2Vnis.get(vni)!));
      return trouble ? [{ host: other, because: trouble }] : [];
    });
    return { host, hears: vtepsHeard(model, host, vni), deafTo, unsure: vtepsDoubt(model, host, vni) };
  });
}
