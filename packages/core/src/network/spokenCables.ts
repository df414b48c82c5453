import { lagWords } from '../config/interfaces.ts';
import { cablePlan, darknessOf, endKey, litCables, type Cable, type CableEnd, type CablePlan } from './cablePlan.ts';
import type { InterfacesView } from './interfaces.ts';

/** Cables as somebody may speak over them: those there are, LAGs of them that are routed, and VLANs of both. */

type Views = ReadonlyMap<string, Pick<InterfacesView, 'portByName' | 'vlansOfPort' | 'routedLagOf' | 'lagOfPort'>>;

/** What is made of cables, and why nothing may go over some of it, by `host port` of both of its ends. */
interface MadeCables {
  readonly cables: readonly Cable[];
  readonly dim: ReadonlyMap<string, string>;
}
const NONE_MADE: MadeCables = { cables: [], dim: new Map() };

/** All of them. */
export const cablesSpokenOver = (views: Views, cables: readonly Cable[]): readonly Cable[] => {
  const { cables: made } = madeOf(views, cables);
  // Mostly there is nothing but cables.
  return made.length === 0 ? cables : [...cables, ...made];
};
/** The same as a plan. */
export function planOver(views: Views, cables: readonly Cable[]): CablePlan {
  const made = madeOf(views, cables);
  const plan = cablePlan(views, [...cables, ...made.cables]);
  return made.dim.size === 0 ? plan : { ...plan, dim: new Map([...plan.dim, ...made.dim]) };
}
function madeOf(views: Views, cables: readonly Cable[]): MadeCables {
  const lit = litCables(views, cables);
  const lags = lagCables(views, lit);
  const vlans = vlanCables(views, [...lit, ...lags.cables], lags.dim);
  return { cables: [...lags.cables, ...vlans.cables], dim: new Map([...lags.dim, ...vlans.dim]) };
}

/**
 * A cable of its own for each VLAN that both ends of one route by itself, where both are open; it is as dim as the whole.
 * @param lagsDim why LAGs are dim
 */
function vlanCables(views: Views, cables: readonly Cable[], lagsDim: MadeCables['dim']): MadeCables {
  const open = ({ host, port }: CableEnd): readonly string[] => {
    const view = views.get(host);
    const whole = view?.portByName.get(port);
    return whole && !whole.shut ? (view!.vlansOfPort.get(port) ?? []) : [];
  };
  const dim = new Map<string, string>();
  const made = cables.flatMap(({ a, b }) => {
    const own = open(a);
    if (own.length === 0) return [];
    const there = new Set(open(b));
    const why = lagsDim.get(endKey(a.host, a.port)) ?? darknessOf(views, a, b)?.why;
    return own.flatMap((name) => {
      const far = `${b.port}${name.slice(a.port.length)}`;
      if (!there.has(far)) return [];
      const cable = { a: { host: a.host, port: name }, b: { host: b.host, port: far } };
      if (why !== undefined) for (const { host, port } of [cable.a, cable.b]) dim.set(endKey(host, port), why);
      return [cable];
    });
  });
  return { cables: made, dim };
}

/**
 * LAGs that are routed by themselves, as cables: such a one is there as long as one of its cables is open at both ends. LACP
 * takes cables together that lead to one LAG of one system (IEEE 802.1AX §6.4); what it makes of others is the switch’s affair.
 */
function lagCables(views: Views, lit: readonly Cable[]): MadeCables {
  if (![...views.values()].some((v) => v.routedLagOf.size > 0)) return NONE_MADE;
  const open = ({ host, port }: CableEnd): boolean => views.get(host)?.portByName.get(port)?.shut !== true;
  /** By LAG: its far ends by what they are one in, and why each of its cables may give no light; null = one does. */
  const found = new Map<string, { readonly near: CableEnd; readonly far: Map<string, LagEnd>; dim: string | null }>();
  for (const { a, b } of lit) {
    if (!open(a) || !open(b)) continue;
    for (const [near, far] of [
      [a, b],
      [b, a],
    ] as const) {
      const lag = views.get(near.host)?.routedLagOf.get(near.port);
      if (lag === undefined) continue;
      const key = endKey(near.host, lag);
      const end = lagEndAt(views, far);
      const why = darknessOf(views, near, far)?.why ?? null;
      const known = found.get(key);
      if (!known) found.set(key, { near: { host: near.host, port: lag }, far: new Map([[end.one, end]]), dim: why });
      else {
        if (!known.far.has(end.one)) known.far.set(end.one, end);
        known.dim &&= why;
      }
    }
  }
  const dim = new Map<string, string>();
  const cables = new Map<string, Cable>();
  for (const { near, far, dim: unlit } of found.values()) {
    const [first] = far.values();
    const why =
      far.size > 1
        ? `the ports of ${near.port} of ${near.host} lead to ${[...far.keys()].join(' and ')}, which are no LAG together`
        : first!.bundled
          ? unlit
          : `${near.port} of ${near.host} is a LAG, and ${first!.end.port} of ${first!.end.host} is none`;
    const ends = [endKey(near.host, near.port), endKey(first!.end.host, first!.end.port)];
    if (why !== null) for (const end of ends) dim.set(end, why);
    // Both ends may be LAGs: that is one cable.
    const key = [...ends].sort().join('\n');
    if (!cables.has(key)) cables.set(key, { a: near, b: first!.end });
  }
  return { cables: [...cables.values()], dim };
}
interface LagEnd {
  readonly end: CableEnd;
  /** What it is one in. */
  readonly one: string;
  readonly bundled: boolean;
}
/** The far end of a cable of a LAG as sessions see it: a LAG of routed ports, a port of one that is bridged, or a port. */
function lagEndAt(views: Views, { host, port }: CableEnd): LagEnd {
  const view = views.get(host);
  const routed = view?.routedLagOf.get(port);
  if (routed !== undefined) return { end: { host, port: routed }, one: `${routed} of ${host}`, bundled: true };
  const bridged = view?.lagOfPort.get(port);
  const one = bridged ? `${lagWords(bridged)} of ${host}` : `${port} of ${host}`;
  return { end: { host, port }, one, bundled: bridged !== undefined || !view };
}
