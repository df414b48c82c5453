import type { Cable } from '../hardware/cable.ts';
import type { InterfacesView } from './interfaces.ts';

export type { Cable } from '../hardware/cable.ts';
/** An end of a cable. */
export interface CableEnd {
  readonly host: string;
  readonly port: string;
}

/** The other end of each, by `host port`. */
export type CablePlan = ReadonlyMap<string, CableEnd>;
export const endKey = (host: string, port: string): string => `${host} ${port}`;

/** Both directions of every cable, by `host port`. */
export function cablePlan(cables: readonly Cable[]): CablePlan {
  const plan = new Map<string, CableEnd>();
  for (const { a, b } of cables) {
    plan.set(endKey(a.host, a.port), b);
    plan.set(endKey(b.host, b.port), a);
  }
  return plan;
}

/** A cable of its own for each VLAN that both ends of one route by itself, where both are open. */
export function vlanCables(
  views: ReadonlyMap<string, Pick<InterfacesView, 'portByName' | 'vlansOfPort'>>,
  cables: readonly Cable[],
): Cable[] {
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
