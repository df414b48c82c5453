import { evpnRoutesFrom, evpnRouteWords, holds, type EvpnRoute } from '../network/evpnRoutes.ts';
import { lagWords } from '../config/interfaces.ts';
import { forwardsFloods, segmentsIn, type SegmentEnd } from '../network/segments.ts';
import { pathsIn } from '../network/families.ts';
import { vniEnd, vrfEnd, whyUnheard, type NetworkModel } from '../network/networkModel.ts';
import { targetsIn } from '../network/targets.ts';
import { evpnRouteDoubt } from '../network/uncertain.ts';
import { parseIpv4 } from '../numbers/ipv4.ts';
import { naturally } from '../numbers/order.ts';
import type { EvpnRouteAnswer } from './answer.ts';

/** What a switch does with a route: where it goes in, or why nowhere. */
interface Taken {
  readonly into: readonly string[];
  readonly why: string | null;
}
/** Into a VNI, as that of another. */
function intoVni(model: NetworkModel, host: string, from: string, vni: number): Taken {
  const here = model.views.get(host)!.l2Vnis.get(vni);
  if (!here) return { into: [], why: `it does not carry VNI ${vni}` };
  const there = model.views.get(from)!.l2Vnis.get(vni)!;
  const trouble = whyUnheard(model, vniEnd(host, vni, here), vniEnd(from, vni, there));
  return trouble ? { into: [], why: trouble.words } : { into: [`VNI ${vni}`], why: null };
}
/** Into VRFs that import what one of another exports. */
function intoVrfs(model: NetworkModel, host: string, from: string, vrf: string): Taken {
  const into: string[] = [];
  let why: string | null = null;
  const there = model.views.get(from)!.vrfs.get(vrf)!;
  for (const name of targetsIn(model).listenersOn(host, { host: from, vrf })) {
    const trouble = whyUnheard(model, vrfEnd(host, model.views.get(host)!.vrfs.get(name)!), vrfEnd(from, there));
    if (trouble) why ??= trouble.words;
    else into.push(`VRF ${name}`);
  }
  return { into, why: into.length > 0 ? null : (why ?? `no VRF of it imports what ${vrf} of ${from} exports`) };
}
/** Into any of several. */
function together(all: readonly Taken[]): Taken {
  const into = all.flatMap((t) => t.into);
  return { into, why: into.length > 0 ? null : (all.find((t) => t.why !== null)?.why ?? null) };
}

/** What a switch does with a route that has come to it. */
function takenInto(model: NetworkModel, host: string, r: EvpnRoute): Taken {
  const ends = 'esi' in r ? (segmentsIn(model).get(r.esi) ?? []) : [];
  const roleOf = (end: SegmentEnd): string =>
    forwardsFloods(model, end) ? 'forwards what is flooded' : 'leaves what is flooded to others';
  if (r.from === host) {
    const own = r.type === 4 ? ends.find((e) => e.host === host) : undefined;
    return { into: [], why: own ? `it is its own, and it ${roleOf(own)}` : 'it is its own' };
  }
  switch (r.type) {
    case 1: {
      const told = ends.find((e) => e.host === r.from)!.vnis;
      return together((r.vni === null ? told : [r.vni]).map((vni) => intoVni(model, host, r.from, vni)));
    }
    case 2: {
      const bridged = intoVni(model, host, r.from, r.vni);
      return together(r.vrf === undefined ? [bridged] : [bridged, intoVrfs(model, host, r.from, r.vrf)]);
    }
    case 3:
      return intoVni(model, host, r.from, r.vni);
    case 4: {
      const own = ends.find((e) => e.host === host);
      if (!own) return { into: [], why: 'it has no LAG of that segment' };
      return { into: [`${lagWords(own.lag)}, which ${roleOf(own)}`], why: null };
    }
    case 5:
      return intoVrfs(model, host, r.from, r.vrf);
  }
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
  r.type === 2 || r.type === 5
    ? (parseIpv4(r.type === 2 ? r.ip : r.prefix.split('/')[0]!) ?? 0)
    : r.type === 4
      ? 0
      : (r.vni ?? 0);

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
