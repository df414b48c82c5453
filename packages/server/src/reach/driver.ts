import type { ConfigFiles, HeardHost, Octets, PeerWords } from '@anthemion/core';

/** Why a switch could not be talked to, in words for people. */
export class SwitchTrouble extends Error {}

/** The switch answers and refuses the account: asked again and again it may close the account. */
export class AccountTrouble extends SwitchTrouble {}

/**
 * How the last apply of a switch stands. `loading` the new text, `pending` its confirmation, `undoing`: going back,
 * `stuck`: the old text is back on its disk but does not load (it keeps trying), `released`: an operator gave it up.
 */
export type ApplyState = 'none' | 'loading' | 'pending' | 'confirmed' | 'undoing' | 'undone' | 'stuck' | 'released';
export interface ApplyStatus {
  readonly state: ApplyState;
  readonly id: string;
  /** Seconds left before the switch goes back by itself, by its own clock. */
  readonly secondsLeft: number;
}
/** What a command of the apply helper says. `code` 0 = done, 3 = text refused, 4 = not now, 5 = loading failed. */
export interface Verdict {
  readonly ok: boolean;
  readonly code: number;
  readonly text: string;
}
/** State of each neighbour by OSPF as the switch says it, `Full` when all was exchanged; by protocol and port (`seenAdjacent`). */
export type AdjacentStates = ReadonlyMap<string, string>;
/** State of one BGP peer per family as the switch says it. */
export type PeerStates = ReadonlyMap<string, PeerWords>;
export interface Neighbour {
  readonly port: string;
  readonly host: string;
  readonly farPort: string;
}
export interface Identity {
  readonly serial: string;
  readonly model: string;
  readonly version: string;
}

/** What one does with a switch over an open line. Every method may throw SwitchTrouble. */
export interface Driver {
  readonly identity: () => Promise<Identity>;
  readonly runningText: () => Promise<ConfigFiles>;
  /** Changes with the text; cheaper to ask for than the text. */
  readonly textStamp: () => Promise<string>;
  readonly peers: () => Promise<PeerStates>;
  readonly adjacent: () => Promise<AdjacentStates>;
  /** Is there anything to ask `adjacent` for, by its text? */
  readonly speaksOspf: (files: ConfigFiles) => boolean;
  /** Whether each interface has signal. */
  readonly signals: () => Promise<ReadonlyMap<string, boolean>>;
  /** What its ports have counted. */
  readonly octets: () => Promise<ReadonlyMap<string, Octets>>;
  readonly neighbours: () => Promise<Neighbour[]>;
  /** Hosts it has heard on its own ports. */
  readonly heard: () => Promise<HeardHost[]>;
  /** Puts the apply helper and its start-up hook in place and has it say whether it can do its work. */
  readonly equip: () => Promise<Verdict>;
  /** Puts text beside what runs, under an id. */
  readonly stage: (id: string, files: ConfigFiles) => Promise<void>;
  readonly check: (id: string) => Promise<Verdict>;
  readonly apply: (id: string, seconds: number) => Promise<Verdict>;
  readonly confirm: (id: string) => Promise<Verdict>;
  readonly undo: (id: string) => Promise<Verdict>;
  /** Whatever becomes of an apply that was asked for under this id: it will not be, or is taken back. */
  readonly cancel: (id: string) => Promise<Verdict>;
  readonly status: () => Promise<ApplyStatus>;
  /** The operator gives up an apply that can be neither confirmed nor taken back. */
  readonly release: (id: string, reason: string) => Promise<Verdict>;
}
