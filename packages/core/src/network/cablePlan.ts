import type { Cable } from '../hardware/cable.ts';

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
