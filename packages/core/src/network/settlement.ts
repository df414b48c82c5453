import type { HeldRoute } from './bestRoute.ts';
import type { Settled } from './bgpRoutes.ts';
import type { SettledFrom } from './distances.ts';
import type { Teller, Tunnel } from './tenantTunnels.ts';

/** What tables of tenants settle to for one prefix, and what from. */
export interface Settlement extends Settled, SettledFrom {
  /** Edges from here on are tunnels, and from `past` on those that leak. */
  readonly first: number;
  readonly past: number;
  readonly tunnels: readonly Tunnel[];
  readonly tellerAt: (from: number) => Teller | undefined;
  /** So many tell it that paths are not computed: which of them is nearest is not known. */
  readonly unchosen: boolean;
  /** Worked out when it is asked. */
  byChance?: boolean;
}
/** Did it come over a tunnel? */
export const isImported = ({ first, past }: Settlement, { over }: HeldRoute): boolean => over >= first && over < past;
/** So much settling takes seconds. */
export const MOST_WORK = 8_000_000;
