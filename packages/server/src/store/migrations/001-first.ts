import { sql, type Kysely } from 'kysely';

/** The tables of release 0.1. */
const STATEMENTS = [
  `create table users (name text primary key, full_name text not null, roles text not null, admin integer not null, salt text not null, hash text not null, created_at text not null) strict`,
  `create table settings (key text primary key, value text not null) strict`,
  `create table parts (kind text not null, name text not null, json text not null, primary key (kind, name)) strict`,
  `create table pools (name text primary key, json text not null, created_at text not null) strict`,
  `create table fabrics (name text primary key, prefix text not null unique, created_at text not null) strict`,
  `create table changes (id text primary key, fabric text not null references fabrics(name), title text not null, reason text not null, ticket text not null, author text not null,
       state text not null, base_revision integer not null, version integer not null, proof text, proof_version integer, proven_at text, conflicts text not null default '[]',
       created_at text not null, updated_at text not null) strict`,
  `create table edits (change_id text not null references changes(id), position integer not null, json text not null, sentence text not null, author text not null, at text not null,
       primary key (change_id, position)) strict`,
  `create table approvals (change_id text not null references changes(id), by text not null, at text not null, note text not null, primary key (change_id, by)) strict`,
  `create table revisions (fabric text not null references fabrics(name), number integer not null, intent text not null, author text not null, title text not null, reason text not null,
       ticket text not null, change_id text not null, sentences text not null, at text not null, primary key (fabric, number)) strict`,
  `create table ledger (id integer primary key, kind text not null, pool text not null, value text not null, fabric text not null, key text not null, change_id text references changes(id), drawn_by text) strict`,
  `create index ledger_by_change on ledger (change_id)`,
  `create index ledger_by_pool on ledger (pool)`,
  // A value of a pool has one holder, whatever else goes wrong.
  `create unique index ledger_value on ledger (pool, value) where pool <> ''`,
  `create table texts (hash text primary key, json text not null) strict`,
  `create table switches (serial text primary key, model text not null, address text not null, port integer not null, location text not null, host_key text, version text,
       running text references texts(hash), read_at text, trouble text) strict`,
  `create table secrets (name text primary key, sealed text not null) strict`,
  `create table rollouts (id text primary key, change_id text not null references changes(id), fabric text not null, kind text not null, state text not null, reason text not null, author text not null,
       stop_line integer not null, undo_seconds integer not null, waves text not null, started_at text not null, ended_at text) strict`,
  `create table rollout_switches (rollout_id text not null references rollouts(id), host text not null, seat text not null, serial text not null, wave integer not null, steps_done integer not null,
       step text, outcome text not null, message text not null, apply_id text not null, attempt integer not null, target text not null references texts(hash), before text references texts(hash), expected text references texts(hash),
       added integer not null, removed integer not null, started_at text, ended_at text, primary key (rollout_id, host)) strict`,
  `create table rollout_log (id integer primary key, rollout_id text not null references rollouts(id), host text not null, at text not null, text text not null) strict`,
  `create index rollout_log_by_host on rollout_log (rollout_id, host)`,
];

export async function up(db: Kysely<never>): Promise<void> {
  for (const statement of STATEMENTS) await sql.raw(statement).execute(db);
}
