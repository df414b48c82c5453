import type { Cause, DrainStand, PortTraffic, LinkStand, OspfName, PortEnd } from '@anthemion/core';
import type { ChangeSummary } from './answers.ts';

/**
 * How a switch is, by what was read of it: `as meant`, `waiting` (intent is ahead, or a rollout is half-way), `drifted`
 * (somebody changed it by hand), `unread` (never, or not lately), `out of service`.
 */
export type SwitchHealth = 'as meant' | 'waiting' | 'drifted' | 'unread' | 'out of service';

/** A seat's switch as it was read last. */
export interface SeatLive {
  readonly seat: string;
  readonly host: string;
  readonly serial: string | null;
  readonly health: SwitchHealth;
  /** Why it is unread, waits or is out of service; null where nothing is to be said. */
  readonly why: string | null;
  /** Last time it said how it is, ISO; null = never. */
  readonly readAt: string | null;
  /** Last time its text was read. */
  readonly textAt: string | null;
  /** What was changed on it by hand, as sentences. */
  readonly byHand: readonly string[];
}

/** A cable that is not up, or of which nothing is known. */
export interface LinkLive {
  /** Name of the link in the layout. */
  readonly id: string;
  readonly stand: Exclude<LinkStand, 'up'>;
  readonly aSees: PortEnd | null;
  readonly bSees: PortEnd | null;
}

/** Something that is wrong, since when, with what hangs on it. */
export interface CauseAnswer extends Cause {
  readonly fabric: string;
  readonly since: string;
}

/** How many of what is meant to be up are seen up, and which are not. */
export interface StateCounts {
  readonly meant: number;
  readonly up: number;
  readonly down: readonly {
    /** Absent = BGP. */
    readonly by?: OspfName;
    readonly host: string;
    readonly farHost: string;
    /** Null = between loopbacks. */
    readonly port: string | null;
    readonly word: string;
  }[];
  readonly unread: number;
}

/** A fabric as it was read. Nothing in it is a figure of the model, but for the routes of a cause. */
export interface LiveAnswer {
  readonly fabric: string;
  /** Revision it is held against. */
  readonly revision: number;
  /** When the newest of it was read; null = nothing was. */
  readonly readAt: string | null;
  /** How often state and text of a switch are read, seconds. */
  readonly every: { readonly state: number; readonly text: number };
  readonly seats: readonly SeatLive[];
  /** Cables of the plan, and those of them that both ends say are up. */
  readonly links: { readonly planned: number; readonly up: number; readonly others: readonly LinkLive[] };
  /** Neighbours by OSPF that are meant to be there. */
  readonly adjacencies: StateCounts;
  readonly sessions: StateCounts & {
    /** Of those that are down: they were not a moment ago, and are read again before they count as wrong. */
    readonly settling: number;
  };
  readonly causes: readonly CauseAnswer[];
  /** Switches that are meant to be drained, with what still hangs on each. */
  readonly drained: readonly DrainStand[];
}

/** How a fabric stood in one quarter of an hour, at its worst. */
export interface Standing {
  readonly at: string;
  readonly switches: number;
  readonly asMeant: number;
  readonly waiting: number;
  readonly drifted: number;
  readonly unread: number;
  readonly causes: number;
}

/** What a fabric's line on the day sheet needs. */
export interface FabricDay {
  readonly name: string;
  readonly revision: number;
  readonly leaves: number;
  readonly spines: number;
  readonly superSpines: number;
  readonly counts: Readonly<Record<SwitchHealth, number>>;
  /** Switches that are meant to be drained, and whether what each runs asks others to go round it. */
  readonly drained: readonly (Pick<DrainStand, 'host' | 'asks'> & { readonly seat: string })[];
  readonly readAt: string | null;
  /** Oldest first, at most a day. */
  readonly standings: readonly Standing[];
}

/** Something that came in since somebody was here. */
export interface DayEvent {
  readonly at: string;
  readonly text: string;
  readonly to: string;
}

/** Why a change waits for somebody. */
export type WaitReason = 'asks your yes' | 'may be rolled out' | 'is yours' | 'is stale' | 'has conflicts';
export interface WaitingChange {
  readonly change: ChangeSummary;
  readonly why: WaitReason;
}

/** The day sheet. */
export interface DayAnswer {
  readonly causes: readonly CauseAnswer[];
  readonly fabrics: readonly FabricDay[];
  readonly waits: readonly WaitingChange[];
  /** Rollouts that are not at their end. */
  readonly unfinished: readonly {
    readonly id: string;
    readonly title: string;
    readonly fabric: string;
    readonly state: string;
    readonly reason: string;
  }[];
  /** When the person was here before; null = never. */
  readonly before: string | null;
  readonly since: readonly DayEvent[];
}

/** A cause that is over, or lasts. */
export interface PastCause {
  readonly n: number;
  readonly fabric: string;
  readonly kind: string;
  readonly title: string;
  readonly began: string;
  readonly ended: string | null;
}

/** What adopting hand edits would do, before it is done. */
export interface AdoptAnswer {
  readonly edits: readonly string[];
  /** What the intent cannot say: it stays drifted, and can be put back. */
  readonly left: readonly { readonly host: string; readonly sentence: string; readonly why: string }[];
}

/** Somebody who looks at a fabric or a change now. */
export interface PresentPerson {
  readonly account: string;
  readonly fullName: string;
  readonly fabric: string;
  readonly change: string | null;
  /** What is selected on their page, or the page. */
  readonly at: string;
  readonly since: string;
}

/** A host as a switch of a fabric hears it on a port. */
export interface HeardAt {
  readonly host: string;
  readonly seat: string;
  readonly port: string;
  readonly vlan: number | null;
  /** The network of that VLAN, and the server that is meant to be on the port; null = there is none. */
  readonly network: string | null;
  readonly server: string | null;
  readonly mac: string;
  readonly addresses: readonly string[];
}
/** What goes over the ports of a switch that lead somewhere, as it counted them itself. */
export interface TrafficAnswer {
  readonly host: string;
  /** How long it was looked at. */
  readonly seconds: number;
  /** The busiest first, with who is at the far end; bits per second. */
  readonly ports: readonly (PortTraffic & { readonly to: string })[];
  /** Ports whose counters began anew meanwhile. */
  readonly anew: readonly string[];
}
export interface HeardAnswer {
  readonly heard: readonly HeardAt[];
  /** How many switches said what they hear. */
  readonly asked: number;
  /** Those that did not, and why. */
  readonly silent: readonly { readonly host: string; readonly why: string }[];
}
