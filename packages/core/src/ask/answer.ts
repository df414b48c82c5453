import type { Place } from '../config/switchConfig.ts';
import type { TextPlace } from '../finding.ts';

/** One answer that two networks give otherwise; empty = there is none. */
export interface DifferenceRow {
  readonly kind: 'session' | 'neighbour' | 'paths' | 'vni' | 'vrf' | 'reach';
  /** What is asked: `paths of sk-lf-01 to 10.255.0.5 of sk-lf-02`. */
  readonly about: string;
  readonly was: string;
  readonly is: string;
  /** What of several steps did it, where they are known. */
  readonly by?: string;
}

/** One link of the chain of why: what of a switch makes it so, and the line that says it. */
export interface Because {
  readonly host: string;
  readonly words: string;
  readonly configPlace?: Place;
  /** Filled in where the texts are at hand, see `withLines`. */
  readonly place?: TextPlace;
}

/** One way a route leads. */
export interface RouteWay {
  /** Neighbour or interface it goes over. */
  readonly over: string;
  /** Switch it leads to; null = none, or what is outside. */
  readonly to: string | null;
  /** Numbers of the AS path, the nearest first. */
  readonly path: readonly number[];
  /** What else decides: `weight 9`, `local preference 90` … where it is not as usual. */
  readonly said: readonly string[];
}
export interface RouteAnswer {
  readonly host: string;
  readonly prefix: string;
  readonly kind: 'connected' | 'static' | 'ospf' | 'bgp' | 'evpn';
  readonly ways: readonly RouteWay[];
  /** Why it may be otherwise; null = it is certain. */
  readonly unsure: string | null;
  readonly because: readonly Because[];
}

/** A step of a packet’s way. */
export interface Hop {
  /** Where it is: several switches share the load. */
  readonly at: readonly string[];
  readonly does: string;
  readonly because: readonly Because[];
}
export interface Journey {
  readonly from: string;
  readonly to: string;
  readonly arrives: boolean;
  readonly hops: readonly Hop[];
}

/** Who hears what, and who does not though it should. */
export interface Hearing {
  readonly host: string;
  /** Of a prefix: paths; of a VNI: VTEPs heard. */
  readonly hears: readonly string[];
  /** Whom it does not hear, and why. */
  readonly deafTo: readonly { readonly host: string; readonly because: Because }[];
  readonly unsure: string | null;
}

/** A route of EVPN that a switch holds. */
export interface EvpnRouteAnswer {
  readonly type: 1 | 2 | 3 | 4 | 5;
  /** Null = the switch that brings it in makes one up. */
  readonly rd: string | null;
  readonly from: string;
  readonly about: string;
  readonly vtep: string | null;
  /** Equal ways by which it comes. */
  readonly paths: number;
  /** Where the switch puts it: VNIs and VRFs. */
  readonly into: readonly string[];
  /** Why nowhere; null = it does. */
  readonly why: string | null;
  readonly unsure: string | null;
  readonly because: readonly Because[];
}

export type Answer =
  /** `total` rows, of which the first are there. */
  | { readonly ask: 'differs'; readonly total: number; readonly rows: readonly DifferenceRow[] }
  /** `missing`: why there may be others than those listed; null = there are none. */
  | { readonly ask: 'routes'; readonly routes: readonly RouteAnswer[]; readonly missing: string | null }
  | { readonly ask: 'reach'; readonly ok: boolean; readonly unsure: string | null; readonly ways: readonly Journey[] }
  | { readonly ask: 'prefix'; readonly hearings: readonly Hearing[] }
  | { readonly ask: 'vni'; readonly hearings: readonly Hearing[] }
  /** `total` routes, of which the first are there. */
  | { readonly ask: 'evpn'; readonly total: number; readonly routes: readonly EvpnRouteAnswer[] };
