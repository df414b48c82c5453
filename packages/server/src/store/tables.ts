import type { PoolKind } from '@anthemion/core';
import type { Generated } from 'kysely';

/** Rows as they lie in SQLite; times are ISO texts, documents JSON texts, yes and no are 1 and 0. */
export interface Tables {
  users: {
    name: string;
    full_name: string;
    roles: string;
    admin: number;
    salt: string;
    hash: string;
    created_at: string;
    /** Roles that hold on one fabric only: fabric → roles, as JSON. */
    bound: Generated<string>;
    disabled: Generated<number>;
    /** 1: the password was given out by somebody else; only a new one can be set with it. */
    must_change: Generated<number>;
    password_at: Generated<string>;
  };
  /** Who is signed in; `hash` is of what the cookie holds. */
  sessions: {
    id: string;
    hash: string;
    account: string;
    began_at: string;
    seen_at: string;
    address: string;
    agent: string;
  };
  /** Personal tokens of scripts; `hash` is of the token. */
  tokens: {
    id: string;
    hash: string;
    account: string;
    name: string;
    roles: string;
    /** Fabrics it is bound to; empty = as its owner. */
    fabrics: string;
    made_at: string;
    ends_at: string;
    used_at: string | null;
  };
  /** What was asked, how it ended, what the server did by itself. Only ever added to. */
  audit: {
    n: number;
    at: string;
    kind: 'asked' | 'ended' | 'noted';
    /** The entry that this one ends. */
    of: number | null;
    account: string;
    via: string;
    address: string;
    action: string;
    fabric: string;
    subject: string;
    detail: string;
    outcome: string;
    /** SHA-256 over the hash of the entry before and this one. */
    hash: string;
  };
  /** Accounts used on switches; sealed: user name and password or key. */
  switch_accounts: {
    name: string;
    sealed: string;
    /** Prefixes it may be sent to. */
    ranges: string;
    note: string;
    changed_at: string;
    changed_by: string;
  };
  /** Secrets that configurations hold, under their keyed digest. */
  sealed_values: { digest: string; sealed: string; kept_at: string };
  named_secrets: { name: string; digest: string; note: string; changed_at: string; changed_by: string };
  /** Every value a name has stood for. */
  named_digests: { name: string; digest: string };
  /** Texts each revision meant, as the release wrote them that sent them. */
  revision_texts: { fabric: string; number: number; seat: string; host: string; hash: string };
  rehearsals: {
    change_id: string;
    version: number;
    by: string;
    at: string;
    ended_at: string | null;
    state: 'running' | 'held' | 'not held' | 'broken off';
    step: string;
    /** All else of its answer. */
    json: string;
  };
  accepted_versions: { dialect: string; version: string; accepted_at: string; accepted_by: string; reason: string };
  settings: { key: string; value: string };
  parts: { kind: 'model' | 'rack' | 'fabric'; name: string; json: string };
  pools: { name: string; json: string; created_at: string };
  ledger: {
    id: Generated<number>;
    kind: PoolKind;
    /** Empty for a chosen value that lies in no pool. */
    pool: string;
    value: string;
    fabric: string;
    key: string;
    /** The open change that drew it; null once a revision holds it. */
    change_id: string | null;
    drawn_by: string | null;
    /** The value as an interval of numbers, inclusive. */
    lo: number;
    hi: number;
    /** 1: given up by the live revision, but a switch that waits still has it; not drawn, not used. */
    resting: Generated<number>;
  };
  switches: {
    serial: string;
    model: string;
    address: string;
    port: number;
    location: string;
    /** SHA-256 of the key it must show, base64; null = none accepted yet. */
    host_key: string | null;
    /** The key it showed last, where that is not the accepted one. */
    seen_key: Generated<string | null>;
    /** Account that is used on it; null = the one whose range fits best. */
    account: Generated<string | null>;
    version: string | null;
    running: string | null;
    /** When its text was read last. */
    read_at: string | null;
    /** Why the last reading failed; null = it did not. */
    trouble: string | null;
    /** Log-ins it has refused one after another; at three it is not asked any more. */
    refused: Generated<number>;
    /** Since when, by whom and why it is out of service; null = it serves. */
    out_at: Generated<string | null>;
    out_by: Generated<string | null>;
    out_reason: Generated<string | null>;
  };
  /** What each switch said of itself when its state was read last: ports with signal, BGP neighbours, LLDP, as JSON. */
  switch_seen: { serial: string; at: string; said: string };
  /** What is or was wrong in a fabric, since when and until when. */
  causes: {
    n: Generated<number>;
    fabric: string;
    key: string;
    kind: string;
    title: string;
    began_at: string;
    ended_at: string | null;
  };
  /** How a fabric stood in each quarter of an hour, at its worst. */
  standings: {
    fabric: string;
    at: string;
    switches: number;
    as_meant: number;
    waiting: number;
    drifted: number;
    unread: number;
    out: number;
    causes: number;
  };
  /** When somebody was here last, and the time before. */
  visits: { account: string; seen_at: string; before_at: string | null };
  /** Who holds a switch: the live revision (change null) or an open change; never two fabrics, never two changes. */
  seat_claims: {
    id: Generated<number>;
    serial: string;
    fabric: string;
    seat: string;
    host: string;
    change_id: string | null;
  };
  /** What each switch was confirmed with. */
  switch_live: {
    serial: string;
    fabric: string;
    seat: string;
    host: string;
    hash: string;
    /** Revision the text belongs to; null while its change has not gone live. */
    revision: number | null;
    change_id: string | null;
    at: string;
  };
  /** Every text a switch was seen to run, once for each time it became another, and where it sat then (empty = nowhere). */
  ran_texts: {
    id: Generated<number>;
    serial: string;
    fabric: string;
    seat: string;
    host: string;
    hash: string;
    at: string;
  };
  /** Text the live revision means for each seat. */
  meant: { fabric: string; seat: string; host: string; hash: string };
  secrets: { name: string; sealed: string };
  /** Configuration files by hash; the body is the files as JSON, deflated. */
  texts: { hash: string; body: Buffer };
  fabrics: {
    name: string;
    prefix: string;
    created_at: string;
    figures: Generated<string>;
    /** Release that last compared its own texts with those that are live. */
    written_by: Generated<string>;
    /** Switches this release would write differently. */
    release_writes: Generated<number>;
    /** Release and revision whose objects can be found; empty = none yet. */
    found: Generated<string>;
  };
  /** What can be found by its name, or by what it says of itself: a line each. */
  findables: {
    id: Generated<number>;
    /** Empty = of none: switches, pools. */
    fabric: string;
    subject: string;
    word: string;
    name: string;
    says: string;
  };
  /** The words of findables, by three letters each (FTS5). */
  findable_words: { rowid: number; findable_words: string };
  revisions: {
    fabric: string;
    number: number;
    intent: string;
    author: string;
    title: string;
    reason: string;
    ticket: string;
    change_id: string;
    sentences: string;
    at: string;
  };
  changes: {
    id: string;
    fabric: string;
    title: string;
    reason: string;
    ticket: string;
    author: string;
    state: string;
    base_revision: number;
    /** Counts up with everything that alters what would go live, or what is said of it. */
    version: number;
    proof: string | null;
    proof_version: number | null;
    /** Digest over every text the proof judged. */
    proof_digest: string | null;
    /** 1: the proof found a switch whose text or seat changes. */
    proof_touches: number | null;
    proven_at: string | null;
    conflicts: string;
    /** Who asks for a yes to which version, since when; null = nobody. */
    asked_by: Generated<string | null>;
    asked_at: Generated<string | null>;
    asked_version: Generated<number | null>;
    created_at: string;
    updated_at: string;
  };
  edits: { change_id: string; position: number; json: string; sentence: string; author: string; at: string };
  /** Everybody who made, kept or undid an edit of a change. */
  change_hands: { change_id: string; name: string };
  approvals: { change_id: string; by: string; at: string; note: string; version: number; digest: string };
  /** Work that outlives the server: a row with a state, see jobs/engine.ts. */
  jobs: {
    id: string;
    kind: string;
    fabric: string;
    state: string;
    reason: string;
    author: string;
    started_at: string;
    ended_at: string | null;
  };
  job_log: { id: Generated<number>; job_id: string; item: string; at: string; text: string };
  rollouts: {
    id: string;
    change_id: string;
    fabric: string;
    kind: 'send' | 'undo' | 'catch up' | 'put back';
    stop_line: number;
    undo_seconds: number;
    waves: string;
    /** The pin: what was approved, and nothing else, goes live. Intent is null in rollouts of release 0.1. */
    version: number;
    base_revision: number;
    digest: string;
    intent: string | null;
    drawn: string;
    meant: string;
    /** The rollout that broke in before this one was finished. */
    overtaken_by: string | null;
    /** The unfinished rollout this one broke into. */
    broke_into: string | null;
    /** The rollout this one takes back. */
    undoes: string | null;
  };
  rollout_switches: {
    rollout_id: string;
    host: string;
    seat: string;
    serial: string;
    wave: number;
    steps_done: number;
    step: string | null;
    outcome: string;
    message: string;
    apply_id: string;
    attempt: number;
    target: string;
    /** What ran before, kept at the back-up step. */
    before: string | null;
    /** What it was confirmed with before the rollout; null where nothing of ours was there. */
    expected: string | null;
    /** Revision and change of `expected`, to say so again after an undo. */
    expected_revision: number | null;
    expected_change: string | null;
    added: number;
    removed: number;
    /** Revision and change the text is noted with once it is confirmed. */
    live_revision: number | null;
    live_change: string | null;
    /** 1: nothing of ours is left on the switch once it is confirmed. */
    leaves: number;
    started_at: string | null;
    ended_at: string | null;
  };
}
