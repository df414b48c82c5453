import { lagWords } from '../config/interfaces.ts';
import type { Cable } from '../hardware/cable.ts';
import { onceFor } from '../onceFor.ts';
import { darkness, type Darkness } from '../hardware/drive.ts';
import type { InterfacesView } from './interfaces.ts';

export type { Cable } from '../hardware/cable.ts';
/** An end of a cable. */
export interface CableEnd {
  readonly host: string;
  readonly port: string;
}

/** The other end of each that gives light, by `host port`. */
export interface CablePlan extends ReadonlyMap<string, CableEnd> {
  /** Of those whose ends are driven otherwise: the other end, and why there is no light. */
  readonly dark: ReadonlyMap<string, { readonly end: CableEnd; readonly why: string }>;
  /** Why others may give none, by `host port`. */
  readonly dim: ReadonlyMap<string, string>;
}
export const endKey = (host: string, port: string): string => `${host} ${port}`;

type Views = ReadonlyMap<string, Pick<InterfacesView, 'portByName' | 'vlansOfPort' | 'routedLagOf' | 'lagOfPort'>>;

/** Is any port of a switch told how it is driven? Mostly none is. */
const isTold = onceFor((ports: InterfacesView['portByName']) =>
  [...ports.values()].some((p) => p.speed !== undefined || p.fec !== undefined),
);
const isAnyTold = (views: Views): boolean => [...views.values()].some((v) => isTold(v.portByName));

/** Why a cable gives no light, or may give none, as seen from one of its ends; null = nothing speaks against it. */
export function darknessOf(views: Views, near: CableEnd, far: CableEnd): Darkness | null {
  const [here, there] = [near, far].map(({ host, port }) => views.get(host)?.portByName.get(port));
  return here && there ? darkness(here, there, far.host) : null;
}
/** Cables of which nobody says that they give no light. */
export const litCables = (views: Views, cables: readonly Cable[]): readonly Cable[] =>
  isAnyTold(views) ? cables.filter(({ a, b }) => darknessOf(views, a, b)?.certain !== true) : cables;

/** Cables as somebody may speak over them: those there are, LAGs of them, and VLANs of both. */
export const cablesSpokenOver = (views: Views, cables: readonly Cable[]): readonly Cable[] =>
  withLags(views, cables).cables;
function withLags(views: Views, cables: readonly Cable[]): LagCables {
  const lit = litCables(views, cables);
  const lags = lagCables(views, lit);
  const vlans = vlanCables(views, [...lit, ...lags.cables]);
  // Mostly there is nothing but cables.
  if (lags.cables.length + vlans.length === 0) return { cables, dim: lags.dim };
  return { ...lags, cables: [...cables, ...lags.cables, ...vlans] };
}
/** Both directions of all of them, by `host port`. */
export function planOver(views: Views, cables: readonly Cable[]): CablePlan {
  const spoken = withLags(views, cables);
  const plan = cablePlan(views, spoken.cables);
  return spoken.dim.size === 0 ? plan : Object.assign(plan, { dim: new Map([...plan.dim, ...spoken.dim]) });
}

/** Both directions of some cables. */
export function cablePlan(views: Views, cables: readonly Cable[]): CablePlan {
  const plan = new Map<string, CableEnd>();
  const dark = new Map<string, { readonly end: CableEnd; readonly why: string }>();
  const dim = new Map<string, string>();
  const told = isAnyTold(views);
  for (const { a, b } of cables)
    for (const [near, far] of [
      [a, b],
      [b, a],
    ] as const) {
      const key = endKey(near.host, near.port);
      const found = told ? darknessOf(views, near, far) : null;
      if (found?.certain) dark.set(key, { end: far, why: found.why });
      else plan.set(key, far);
      if (found?.certain === false) dim.set(key, found.why);
    }
  return Object.assign(plan, { dark, dim });
}

export const NO_CABLES: CablePlan = cablePlan(new Map(), []);

/** A cable of its own for each VLAN that both ends of one route by itself, where both are open. */
export function vlanCables(views: Views, cables: readonly Cable[]): Cable[] {
  const open = ({ host, port }: CableEnd): readonly string[] => {
    const view = views.get(host);
    const whole = view?.portByName.get(port);
    return whole && !whole.shut ? (view!.vlansOfPort.get(port) ?? []) : [];
  };
  return cables.flatMap(({ a, b }) => {
    const there = new Set(open(b));
    return open(a).flatMap((name) => {
      const far = `${b.port}${name.slice(a.port.length)}`;
      return there.has(far) ? [{ a: { host: a.host, port: name }, b: { host: b.host, port: far } }] : [];
    });
  });
}

/** Cables that LAGs make which are routed by themselves. */
export interface LagCables {
  /** One for each LAG, to that at the far end of its cables, or to the port there. */
  readonly cables: readonly Cable[];
  /** Why nothing may go over one, by `host port` of both of its ends. */
  readonly dim: ReadonlyMap<string, string>;
}
const NO_LAG_CABLES: LagCables = { cables: [], dim: new Map() };

/**
 * LAGs that are routed by themselves, as cables: such a one is there as long as one of its cables is open at both ends. LACP
 * takes cables together that lead to one LAG of one system (IEEE 802.1AX §6.4); what it makes of others is the switch’s affair.
 */
export function lagCables(views: Views, lit: readonly Cable[]): LagCables {
  if (![...views.values()].some((v) => v.routedLagOf.size > 0)) return NO_LAG_CABLES;
  const open = ({ host, port }: CableEnd): boolean => views.get(host)?.portByName.get(port)?.shut !== true;
  /** LAG → far ends by what they are one in. */
  const farEnds = new Map<string, { readonly near: CableEnd; readonly far: Map<string, LagEnd> }>();
  for (const { a, b } of lit) {
    if (!open(a) || !open(b)) continue;
    for (const [near, far] of [
      [a, b],
      [b, a],
    ] as const) {
      const lag = views.get(near.host)?.routedLagOf.get(near.port);
      if (lag === undefined) continue;
      const key = endKey(near.host, lag);
      const found = farEnds.get(key) ?? { near: { host: near.host, port: lag }, far: new Map<string, LagEnd>() };
      const end = lagEndAt(views, far);
      if (!found.far.has(end.one)) found.far.set(end.one, end);
      farEnds.set(key, found);
    }
  }
  const dim = new Map<string, string>();
  const cables = new Map<string, Cable>();
  for (const { near, far } of farEnds.values()) {
    const [first] = far.values();
    const why =
      far.size > 1
        ? `the ports of ${near.port} of ${near.host} lead to ${[...far.keys()].join(' and ')}, which are no LAG together`
        : first!.bundled
          ? null
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
