import Database from 'better-sqlite3';
import { Kysely, SqliteDialect, sql, type Generated } from 'kysely';
import { mkdirSync } from 'node:fs';
import { dirname } from 'node:path';
import { MIGRATIONS } from './migrations.ts';

/** Rows as they lie in SQLite; times are ISO texts, documents JSON texts. */
export interface Tables {
  migrations: { number: number; at: string };
  users: {
    name: string;
    full_name: string;
    roles: string;
    admin: number;
    salt: string;
    hash: string;
    created_at: string;
  };
  settings: { key: string; value: string };
  parts: { kind: 'model' | 'rack' | 'fabric'; name: string; json: string };
  pools: { name: string; json: string; created_at: string };
  ledger: {
    id: Generated<number>;
    kind: 'asn' | 'ipv4' | 'vni';
    pool: string;
    value: string;
    fabric: string;
    key: string;
    change_id: string | null;
    drawn_by: string | null;
  };
  switches: {
    serial: string;
    model: string;
    address: string;
    port: number;
    location: string;
    host_key: string | null;
    version: string | null;
    running: string | null;
    read_at: string | null;
    trouble: string | null;
  };
  secrets: { name: string; sealed: string };
  texts: { hash: string; json: string };
  fabrics: { name: string; prefix: string; created_at: string };
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
    version: number;
    proof: string | null;
    proof_version: number | null;
    proven_at: string | null;
    conflicts: string;
    created_at: string;
    updated_at: string;
  };
  edits: { change_id: string; position: number; json: string; sentence: string; author: string; at: string };
  approvals: { change_id: string; by: string; at: string; note: string };
  rollouts: {
    id: string;
    change_id: string;
    fabric: string;
    kind: 'send' | 'undo';
    state: string;
    reason: string;
    author: string;
    stop_line: number;
    undo_seconds: number;
    waves: string;
    started_at: string;
    ended_at: string | null;
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
    /** What it should run before the rollout; null where nothing of ours was there. */
    expected: string | null;
    added: number;
    removed: number;
    started_at: string | null;
    ended_at: string | null;
  };
  rollout_log: { id: Generated<number>; rollout_id: string; host: string; at: string; text: string };
}

export type Db = Kysely<Tables>;

/** Opens the database, makes the folder, and brings the tables up to date; safe to call on every start. */
export async function openDatabase(path: string): Promise<Db> {
  if (path !== ':memory:') mkdirSync(dirname(path), { recursive: true });
  const sqlite = new Database(path);
  sqlite.pragma('journal_mode = WAL');
  sqlite.pragma('foreign_keys = ON');
  sqlite.pragma('synchronous = FULL');
  const db = new Kysely<Tables>({ dialect: new SqliteDialect({ database: sqlite }) });
  await sql`create table if not exists migrations (number integer primary key, at text not null) strict`.execute(db);
  const done = new Set((await db.selectFrom('migrations').select('number').execute()).map((r) => r.number));
  for (const [i, statements] of MIGRATIONS.entries()) {
    if (done.has(i + 1)) continue;
    await db.transaction().execute(async (tx) => {
      for (const statement of statements) await sql.raw(statement).execute(tx);
      await tx
        .insertInto('migrations')
        .values({ number: i + 1, at: new Date().toISOString() })
        .execute();
    });
  }
  return db;
}
