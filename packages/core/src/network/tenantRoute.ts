import type { Ipv4 } from '../numbers/ipv4.ts';
import type { AnyPrefix } from '../numbers/prefix.ts';
import type { HeldRoute } from './bestRoute.ts';
import type { ConnectedRoute, WrittenRoute } from './localRoutes.ts';
import type { TenantNode } from './nextHop.ts';
import type { OspfRoute } from './ospf.ts';
import type { Session } from './sessions.ts';

/** One of the ways that a route in such a table leads. */
export interface TenantWay {
  /** What it came over; null = it leads nowhere: it is an aggregate. */
  readonly session: Session | null;
  /** Where it leads; null = nowhere. */
  readonly to: TenantNode | null;
  readonly held: HeldRoute;
  /** An address that a map says it leads to, whoever told it; absent = it leads to who told it. */
  readonly via?: Ipv4;
  /** The table of the same switch that has it, and that it leads on from; absent = it is the table’s own. */
  readonly leakedFrom?: TenantNode;
  /** How often a switch that speaks only once it has heard somebody tells it: `once h has spoken`. */
  readonly said: readonly string[];
}
/** What a table has of one prefix, the nearest of all that there is (administrative distance). */
export type TenantRoute = { readonly prefix: AnyPrefix } & (
  | { readonly kind: 'connected'; readonly subnets: readonly ConnectedRoute[] }
  | { readonly kind: 'static'; readonly written: readonly WrittenRoute[]; readonly byChance: boolean }
  | { readonly kind: 'ospf'; readonly ospf: OspfRoute }
  | {
      readonly kind: 'bgp' | 'evpn';
      readonly ways: readonly TenantWay[];
      readonly rests: boolean;
      readonly unchosen: boolean;
      readonly byChance: boolean;
    }
);
