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

/** What is at the other end of cables. */
export interface CablePlan {
  /** The other end of one that gives light; undefined = there is none. Very many are asked about. */
  readonly end: (host: string, port: string) => CableEnd | undefined;
  /** Of those whose ends are driven otherwise: the other end, and why there is no light. */
  readonly dark: ReadonlyMap<string, { readonly end: CableEnd; readonly why: string }>;
  /** Why others may give none, by `host port`. */
  readonly dim: ReadonlyMap<string, string>;
}
export const endKey = (host: string, port: string): string => `${host} ${port}`;

type Views = ReadonlyMap<string, Pick<InterfacesView, 'portByName'>>;

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

/** Both directions of some cables. */
export function cablePlan(views: Views, cables: readonly Cable[]): CablePlan {
  const ends = new Map<string, Map<string, CableEnd>>();
  const dark = new Map<string, { readonly end: CableEnd; readonly why: string }>();
  const dim = new Map<string, string>();
  const told = isAnyTold(views);
  for (const { a, b } of cables)
    for (const [near, far] of [
      [a, b],
      [b, a],
    ] as const) {
      const found = told ? darknessOf(views, near, far) : null;
      if (found?.certain === false) dim.set(endKey(near.host, near.port), found.why);
      if (found?.certain) {
        dark.set(endKey(near.host, near.port), { end: far, why: found.why });
        continue;
      }
      const own = ends.get(near.host);
      if (own) own.set(near.port, far);
      else ends.set(near.host, new Map([[near.port, far]]));
    }
  return { end: (host, port) => ends.get(host)?.get(port), dark, dim };
}

export const NO_CABLES: CablePlan = cablePlan(new Map(), []);
