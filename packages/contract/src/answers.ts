import type {
  ConfigFiles,
  Edit,
  FabricIntent,
  FabricPattern,
  Finding,
  LedgerEntry,
  NeighbourRow,
  Origin,
  PolicyRow,
  Pool,
  ProofReport,
  RackPattern,
  RebaseConflict,
  RolloutWave,
  SwitchModel,
} from '@anthemion/core';

export interface Settings {
  /** A change needs the yes of somebody other than its author. */
  readonly secondPerson: boolean;
}

export interface PartsAnswer {
  readonly models: readonly SwitchModel[];
  readonly rackPatterns: readonly RackPattern[];
  readonly fabricPatterns: readonly FabricPattern[];
}

export interface PoolAnswer extends Pool {
  readonly size: number;
  readonly held: number;
}

export interface InventoryAnswer {
  readonly serial: string;
  readonly model: string;
  readonly address: string;
  readonly port: number;
  readonly location: string;
  /** Account that is used on it; null = the one whose range fits best. */
  readonly account: string | null;
  /** Key it must show, `SHA256:…`; null = none accepted yet. */
  readonly hostKey: string | null;
  /** Key it showed last, where that is not the accepted one. */
  readonly seenKey: string | null;
  /** `fabric/seat` it fills, or null: unseated. */
  readonly seat: string | null;
  /** Fabric it has left without being cleared: it may still run that fabric's text. */
  readonly leftover: string | null;
  readonly host: string | null;
  readonly version: string | null;
  /** It runs a version its dialect was never tried with, and nobody has accepted that: it is read, not written to. */
  readonly untried: boolean;
  /** Last time it was read, ISO; null = never. */
  readonly readAt: string | null;
  /** What stopped the last reading, or null. */
  readonly trouble: string | null;
  /** Since when, by whom and why it is out of service; null = it serves. */
  readonly out: { readonly at: string; readonly by: string; readonly reason: string } | null;
}

export interface FabricAnswer {
  readonly name: string;
  readonly namePrefix: string;
  /** 0 = nothing has gone live. */
  readonly revision: number;
  readonly liveSince: string | null;
  readonly spines: number;
  readonly superSpines: number;
  readonly leaves: number;
  readonly racks: number;
  readonly openChanges: number;
  /** Rollout that is not at its end; while there is one, nothing else of the fabric goes live. */
  readonly unfinished: string | null;
  /** Switches whose confirmed text is not what the live revision means. */
  readonly waiting: number;
  /** Names of the first few of them. */
  readonly waitingHosts: readonly string[];
  /** Switches whose text this release would write differently; sent only by a change of its own. */
  readonly releaseWrites: number;
}

/** So many neighbours are sent at once, what is wrong first; of more, those of one switch are asked for. */
export const MOST_NEIGHBOURS = 5000;

/** Who speaks with whom in the network that a fabric makes, and by which policies. */
export interface RoutingAnswer {
  /** Of all neighbours, or of all of the switch that is asked about. */
  readonly counts: Readonly<Record<NeighbourRow['stand'], number>>;
  /** At most `MOST_NEIGHBOURS` of them. */
  readonly neighbours: readonly NeighbourRow[];
  readonly policies: readonly PolicyRow[];
}

/** A seat and who fills it, as the intent has it; how its switch is stands in `LiveAnswer`. */
export interface SeatState {
  readonly seat: string;
  readonly host: string;
  readonly serial: string | null;
  readonly model: string;
  /** What it was last confirmed with; null = nothing of ours yet. */
  readonly confirmed: { readonly revision: number | null; readonly change: string | null; readonly at: string } | null;
}

/** A fabric as it is live, or as a change would have it. */
export interface FabricStateAnswer extends FabricAnswer {
  readonly change: string | null;
  readonly intent: FabricIntent;
  readonly values: Readonly<Record<string, string>>;
  readonly ledger: readonly LedgerEntry[];
  readonly seats: readonly SeatState[];
}

export interface TextAnswer {
  readonly host: string;
  readonly seat: string;
  readonly serial: string | null;
  /** What its text is written in; null = nothing is meant for the seat. */
  readonly dialect: string | null;
  /** Text of the live revision. */
  readonly live: ConfigFiles | null;
  /** Text as the change, or else the live revision, means it. */
  readonly meant: ConfigFiles | null;
  /** What the switch was last seen to run. */
  readonly running: ConfigFiles | null;
  readonly readAt: string | null;
  /** For each file, the origin of each line (index = line − 1); null for blank and comment lines. */
  readonly origins: Readonly<Record<string, readonly (Origin | null)[]>>;
}

export interface RevisionAnswer {
  readonly number: number;
  readonly author: string;
  readonly reason: string;
  readonly ticket: string;
  readonly title: string;
  readonly change: string;
  readonly at: string;
  readonly sentences: readonly string[];
}

export const CHANGE_STATES = ['Drafting', 'Proven', 'Approved', 'Rolling out', 'Live', 'Withdrawn', 'Stale'] as const;
export type ChangeState = (typeof CHANGE_STATES)[number];

export interface ChangeSummary {
  readonly id: string;
  readonly fabric: string;
  readonly title: string;
  readonly reason: string;
  readonly ticket: string;
  readonly author: string;
  readonly state: ChangeState;
  readonly baseRevision: number;
  readonly edits: number;
  readonly updatedAt: string;
  /** Counts up with everything that alters the change; sent back as If-Match. */
  readonly version: number;
  /** Who asks for a yes to it as it is now, and since when; null = nobody. */
  readonly asked: { readonly by: string; readonly at: string } | null;
}

/** So many switches run in a rehearsal at most: each takes about 40 MiB, and all settle within a minute. */
export const MOST_REHEARSED = 8;
/** How far the rehearsal of a change has come: what it would send, on real daemons. */
export interface RehearsalAnswer {
  /** `held`: to its end; `not held`: it could not be; `broken off`: the server ended meanwhile. */
  readonly state: 'running' | 'held' | 'not held' | 'broken off';
  readonly by: string;
  readonly at: string;
  readonly endedAt: string | null;
  /** Version of the change that was rehearsed. */
  readonly version: number;
  /** What is done now, in words. */
  readonly step: string;
  /** Hosts that run, and how many switches the fabric has. */
  readonly hosts: readonly string[];
  readonly of: number;
  /** Why it was not held. */
  readonly why: string | null;
  /** What the daemons do otherwise than the proof says; empty while it runs. */
  readonly findings: readonly Finding[];
  /** How many answers of each kind were compared, by what people call the kind. */
  readonly compared: Readonly<Record<string, number>>;
  /** Answers of which the proof itself says that it is not sure. */
  readonly unsure: number;
  /** What the kernel here cannot show, each once. */
  readonly notShown: readonly string[];
}

export interface EditAnswer {
  /** 1-based. */
  readonly position: number;
  readonly edit: Edit;
  readonly sentence: string;
  readonly author: string;
  readonly at: string;
}

export interface ApprovalAnswer {
  readonly by: string;
  readonly at: string;
  readonly note: string;
}

export interface ChangeAnswer extends ChangeSummary {
  readonly steps: readonly EditAnswer[];
  readonly proof: ProofReport | null;
  readonly provenAt: string | null;
  readonly drawn: readonly LedgerEntry[];
  /** Everybody who made, kept or undid an edit; none of them can be the second person. */
  readonly hands: readonly string[];
  readonly approvals: readonly ApprovalAnswer[];
  readonly conflicts: readonly RebaseConflict[];
  readonly rollout: string | null;
}

/** What of a change would conflict if another open change went live first. */
export interface ClashAnswer {
  readonly change: string;
  readonly title: string;
  readonly author: string;
  readonly state: ChangeState;
  /** Edits of this change that would conflict: sentence and why. */
  readonly edits: readonly { readonly sentence: string; readonly why: string }[];
}

/** The edit that touched an object last, live or in the open change. */
export interface TouchAnswer {
  readonly by: string;
  readonly at: string;
  readonly sentence: string;
  readonly change: { readonly id: string; readonly title: string };
}

export const ROLLOUT_STATES = ['running', 'paused', 'stopped', 'done', 'undone', 'closed'] as const;
export type RolloutState = (typeof ROLLOUT_STATES)[number];
/** The steps of one switch, in order. */
export const STEPS = ['reach', 'back up', 'pre-check', 'send', 'check', 'apply', 'settle', 'confirm'] as const;
export type Step = (typeof STEPS)[number];
export type Outcome = 'waits' | 'under way' | 'as meant' | 'refused, untouched' | 'went back' | 'unknown' | 'left out';

export interface RolloutSwitchAnswer {
  readonly host: string;
  readonly seat: string;
  readonly serial: string;
  readonly wave: number;
  /** Steps done, 0–8. */
  readonly stepsDone: number;
  readonly step: Step | null;
  readonly outcome: Outcome;
  readonly message: string;
  readonly added: number;
  readonly removed: number;
  readonly startedAt: string | null;
  readonly endedAt: string | null;
}

export type RolloutKind = 'send' | 'undo' | 'catch up' | 'put back';

/** A rollout in a list. */
export interface RolloutSummary {
  readonly id: string;
  readonly change: string;
  readonly title: string;
  readonly ticket: string;
  readonly fabric: string;
  readonly kind: RolloutKind;
  readonly state: RolloutState;
  readonly reason: string;
  readonly author: string;
  readonly stopLine: number;
  readonly undoSeconds: number;
  readonly startedAt: string;
  readonly endedAt: string | null;
  /** The rollout that broke in before this one was finished: its change is to be proved again. */
  readonly overtakenBy: string | null;
  /** The unfinished rollout this one broke into. */
  readonly brokeInto: string | null;
  /** Switches by outcome. */
  readonly counts: Readonly<Partial<Record<Outcome, number>>>;
}

export interface RolloutAnswer extends RolloutSummary {
  readonly waves: readonly RolloutWave[];
  readonly currentWave: number;
  readonly switches: readonly RolloutSwitchAnswer[];
}

export interface LogLine {
  readonly at: string;
  readonly host: string;
  readonly text: string;
}

export const FAULTS = ['unreachable', 'wrong password', 'refuses the text', 'dies before confirming', 'slow'] as const;
export type Fault = (typeof FAULTS)[number];
export interface BenchSwitch {
  readonly serial: string;
  readonly model: string;
  readonly port: number;
  readonly hostname: string;
  readonly faults: readonly Fault[];
  /** Applies this switch was told to make, by id, in order. */
  readonly applied: readonly string[];
}
export interface BenchAnswer {
  readonly switches: readonly BenchSwitch[];
  readonly cables: readonly {
    readonly a: { readonly serial: string; readonly port: string };
    readonly b: { readonly serial: string; readonly port: string };
    readonly pulled: boolean;
  }[];
}

/** Problem details, RFC 9457, with findings that point to the fields. */
export interface Problem {
  readonly type: string;
  readonly title: string;
  readonly status: number;
  readonly detail: string;
  readonly findings: readonly Finding[];
}

export const EVENT_TOPICS = [
  'rehearsals',
  'changes',
  'fabrics',
  'rollouts',
  'switches',
  'pools',
  'parts',
  'accounts',
  'live',
  'here',
  'bench',
] as const;
/** What messages are about: `live` is what was read of a fabric's switches, `here` who looks at it. */
export type EventTopic = (typeof EVENT_TOPICS)[number];

/** What a browser is told when something changed; it asks again for what it shows of that. */
export interface EventMessage {
  readonly topic: EventTopic;
  /** Name or id of what changed; absent = several. */
  readonly id?: string;
  /** Fabric it belongs to, where that is not the id itself. */
  readonly fabric?: string;
  /** Version of a change after what was done to it: who has it already need not ask. */
  readonly version?: number;
}

/** Something that was found. */
export interface FoundAnswer {
  /** Of which it is; empty = of none: switches, pools. */
  readonly fabric: string;
  /** `network:echo-store`; also `switch:SERIAL`, `pool:NAME` and `change:ID`. */
  readonly subject: string;
  /** What it is: `network`. */
  readonly word: string;
  readonly name: string;
  /** What of it fits, in its own words: `VLAN 210`. */
  readonly why: string;
}
export interface FindAnswer {
  /** Best first. */
  readonly found: readonly FoundAnswer[];
  /** Fabrics of which what went live last cannot be found yet. */
  readonly behind: readonly string[];
}

/** What became of an intent file: a change, and what it does. */
export interface TakenFileAnswer {
  readonly change: string;
  readonly edits: readonly string[];
}
