import { evpnRoutesFrom, evpnRouteWords, holds, type EvpnRoute } from '../network/evpnRoutes.ts';
import { pathsIn } from '../network/families.ts';
import { vniEnd, vrfEnd, whyUnheard, type NetworkModel } from '../network/networkModel.ts';
import { targetsIn } from '../network/targets.ts';
import { evpnRouteDoubt } from '../network/uncertain.ts';
import { parseIpv4 } from '../numbers/ipv4.ts';
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
  const there = model.views.get(r.from)!.vrfs.get(vrf);
  for (const name of targetsIn(model).listenersOn(host, { host: r.from, vrf })) {
    const trouble = whyUnheard(model, vrfEnd(host, view.vrfs.get(name)!), vrfEnd(r.from, there!));
    if (trouble) why ??= trouble.words;
    else into.push(`VRF ${name}`);
  }
  return { into, why: into.length > 0 ? null : (why ?? `no VRF of it imports what ${vrf} of ${r.from} exports`) };
}

function answerOf(model: NetworkModel, host: string, r: EvpnRoute): EvpnRouteAnswer {
  const { from, type } = r;
  return {
    type,
    rd: r.rd ?? null,
    from,
    about: evpnRouteWords(r),
    vtep: r.vtep ?? null,
    paths: from === host ? 1 : pathsIn(model.evpn, model.index.get(from)!, model.index.get(host)!),
    ...takenInto(model, host, r),
    unsure: evpnRouteDoubt(model, host, r),
    because: [{ host: from, words: `${from} brings it in`, configPlace: r.configPlace }],
  };
}

/** What routes of one type are put in order by: VNIs and addresses, as numbers. */
const numberOf = (r: EvpnRoute): number =>
  r.type === 3 ? r.vni : (parseIpv4(r.type === 2 ? r.ip : r.prefix.split('/')[0]!) ?? 0);

/**
 * Routes of EVPN that a switch holds, of one type or of all, its own among them; a string says why there is no answer.
 * @param most so many are looked into, the first of `total`: a thousand switches bring in hundreds of thousands
 */
export function evpnOf(
  model: NetworkModel,
  host: string,
  type?: number,
  most = Infinity,
): { readonly total: number; readonly routes: readonly EvpnRouteAnswer[] } | string {
  const view = model.views.get(host);
  if (!view) return `there is no switch ${host}`;
  if (!view.config.bgp) return `${host} does not run BGP`;
  const held = model.switches
    .flatMap((s) => evpnRoutesFrom(model, s.host))
    .filter((r) => type === undefined || r.type === type)
    .filter((r) => holds(model, host, r) || evpnRouteDoubt(model, host, r) !== null)
    .map((r) => ({ r, number: numberOf(r), from: model.index.get(r.from)! }));
  held.sort(
    (a, b) =>
      a.r.type - b.r.type ||
      a.number - b.number ||
      (a.r.type === 3 ? 0 : naturally(evpnRouteWords(a.r), evpnRouteWords(b.r))) ||
      a.from - b.from,
  );
  return { total: held.length, routes: held.slice(0, most).map(({ r }) => answerOf(model, host, r)) };
}
