import { evpnRoutesFrom, evpnRouteWords, holds, type EvpnRoute } from '../network/evpnRoutes.ts';
import { pathsIn } from '../network/families.ts';
import { vniEnd, vrfEnd, whyUnheard, type NetworkModel } from '../network/networkModel.ts';
import { targetsIn } from '../network/targets.ts';
import { evpnRouteDoubt } from '../network/uncertain.ts';
import { naturally } from '../numbers/order.ts';
import type { EvpnRouteAnswer } from './answer.ts';

/** What a switch does with a route that has come to it: where it goes in, or why nowhere. */
function takenInto(model: NetworkModel, host: string, r: EvpnRoute): { into: readonly string[]; why: string | null } {
  if (r.from === host) return { into: [], why: 'it is its own' };
  const view = model.views.get(host)!;
  const into: string[] = [];
  let why: string | null = null;
  if (r.type !== 5) {
    const here = view.l2Vnis.get(r.vni);
    const there = model.views.get(r.from)!.l2Vnis.get(r.vni)!;
    const trouble = here ? whyUnheard(model, vniEnd(host, r.vni, here), vniEnd(r.from, r.vni, there)) : null;
    if (!here) why = `it does not carry VNI ${r.vni}`;
    else if (trouble) why = trouble.words;
    else into.push(`VNI ${r.vni}`);
  }
  const vrf = r.type === 3 ? undefined : r.vrf;
  if (vrf === undefined) return { into, why };
  const there = model.views.get(r.from)!.vrfs.get(vrf)!;
  for (const listener of targetsIn(model).listenersTo({ host: r.from, vrf })) {
    if (listener.host !== host) continue;
    const here = view.vrfs.get(listener.vrf!)!;
    const trouble = whyUnheard(model, vrfEnd(host, here), vrfEnd(r.from, there));
    if (trouble) why ??= trouble.words;
    else into.push(`VRF ${listener.vrf}`);
  }
  return { into, why: into.length > 0 ? null : (why ?? `no VRF of it imports what ${vrf} of ${r.from} exports`) };
}

/** Routes of EVPN that a switch holds, of one type or of all, its own among them; a string says why there is no answer. */
export function evpnOf(model: NetworkModel, host: string, type?: number): readonly EvpnRouteAnswer[] | string {
  const at = model.index.get(host);
  if (at === undefined) return `there is no switch ${host}`;
  if (!model.views.get(host)!.config.bgp) return `${host} does not run BGP`;
  const out: EvpnRouteAnswer[] = [];
  for (const [from, routes] of evpnRoutesFrom(model)) {
    const paths = from === host ? 1 : pathsIn(model.evpn, model.index.get(from)!, at);
    for (const r of routes) {
      if (type !== undefined && r.type !== type) continue;
      const unsure = evpnRouteDoubt(model, host, r);
      if (!holds(model, host, r) && unsure === null) continue;
      const { into, why } = takenInto(model, host, r);
      const because = [{ host: from, words: `${from} brings it in`, configPlace: r.configPlace }];
      out.push({
        type: r.type,
        rd: r.rd ?? null,
        from,
        about: evpnRouteWords(r),
        vtep: r.vtep ?? null,
        paths,
        into,
        why,
        unsure,
        because,
      });
    }
  }
  return out.sort((a, b) => a.type - b.type || naturally(a.about, b.about) || naturally(a.from, b.from));
}
