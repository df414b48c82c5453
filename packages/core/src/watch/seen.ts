import type { OspfName } from '../network/ospfIn.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';

/** What a neighbour is called in what was seen: by its name as written, in a VRF after that. */
export const seenPeer = (vrf: string | undefined, peer: string): string =>
  vrf === undefined ? peer : `${vrf} ${peer}`;

/** The word that a switch has for each family of a BGP neighbour, `Established` when it is up. */
export interface PeerWords {
  readonly ipv4?: string;
  readonly ipv6?: string;
  readonly evpn?: string;
}

/** What a neighbour over a port is called in what was seen. */
export const seenAdjacent = (by: OspfName, port: string): string => `${by} ${port}`;

/** What one switch said of itself when it was read last. */
export interface Seen {
  /** Front ports that have signal, of those it names. */
  readonly signal: ReadonlyMap<string, boolean>;
  /** BGP neighbours as `seenPeer` calls them. */
  readonly peers: ReadonlyMap<string, PeerWords>;
  /** The word for each neighbour by OSPF, as `seenAdjacent` calls them; `Full` when all was exchanged. Absent = that was not read. */
  readonly adjacent?: ReadonlyMap<string, string>;
  /** Own port → who is seen on it (LLDP). */
  readonly neighbours: ReadonlyMap<string, PortEnd>;
}
export interface PortEnd {
  readonly host: string;
  readonly port: string;
}

/** A seat of the fabric with what is known of its switch now. */
export interface WatchedSwitch {
  readonly host: string;
  /** What it said, or null: unread. */
  readonly seen: Seen | null;
  /** Why it is unread, in its or our words. */
  readonly why: string | null;
  /** Taken out of service by somebody: nothing of it is judged. */
  readonly out: boolean;
  /** A switch sits in the seat. */
  readonly placed: boolean;
  /** What it is meant to run; null = nothing yet, so nothing of it is judged. */
  readonly meant: SwitchConfig | null;
  /** What it runs, as it was read; null = its text was never read. */
  readonly runs: SwitchConfig | null;
  /** What somebody changed on it by hand, as sentences; empty = nothing. */
  readonly byHand: readonly string[];
}

/** A cable of the plan. */
export interface PlannedLink {
  /** Name of the link in the layout. */
  readonly id: string;
  readonly a: PortEnd;
  readonly b: PortEnd;
}

/** A server that is meant to have a session with the switch it is on, in a tenant. */
export interface ExpectedCaller {
  readonly host: string;
  readonly vrf: string;
  /** Port of the switch. */
  readonly port: string;
  readonly address: string;
}
