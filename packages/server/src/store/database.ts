import Database from 'better-sqlite3';
import { Kysely, Migrator, SqliteAdapter, SqliteDialect, sql, type LogEvent, type Transaction } from 'kysely';
import { chmodSync, existsSync } from 'node:fs';
import { join } from 'node:path';
import { MIGRATIONS } from './migrations/index.ts';
import { openDataFolder } from './secrets.ts';
import type { Tables } from './tables.ts';

export type { Tables } from './tables.ts';
export type Db = Kysely<Tables>;
export type Tx = Transaction<Tables>;
/** What a function needs that only reads. */
export type Reads = Pick<Db, 'selectFrom'>;
/** What a function needs that writes, inside a transaction or by itself. */
export type Writes = Pick<Db, 'selectFrom' | 'insertInto' | 'updateTable' | 'deleteFrom'>;

/** SQLite alters tables inside transactions, which its adapter denies: steps that bring data up to date are whole or not at all. */
class WholeSteps extends SqliteAdapter {
  override get supportsTransactionalDdl(): boolean {
    return true;
  }
}
class Sqlite extends SqliteDialect {
  override createAdapter(): SqliteAdapter {
    return new WholeSteps();
  }
}

/** Told every query that is run, where somebody measures. */
export type HearQuery = (query: { readonly sql: string; readonly parameters: readonly unknown[] }) => void;
const heard = (hear?: HearQuery) => (hear ? { log: (event: LogEvent) => hear(event.query) } : {});

export const databasePath = (data: string): string => join(data, 'anthemion.sqlite');

/** Another server works on this data folder. */
export class FolderTaken extends Error {}

/**
 * Takes the data folder for this process. The lock is SQLite's own on a file beside the data, so the kernel frees it
 * whatever way the process ends. Throws FolderTaken, before anything is written, when another server has it.
 */
export function takeFolder(data: string): { readonly release: () => void } {
  const held = new Database(join(data, 'server.lock'), { timeout: 0 });
  try {
    held.pragma('locking_mode = exclusive');
    held.exec('begin exclusive');
  } catch {
    held.close();
    throw new FolderTaken(`Another server works on ${data}. Stop it first, or choose another data folder.`);
  }
  return { release: () => held.close() };
}

/** Opens the database of a data folder, and brings its tables up to date; safe to call on every start. */
export async function openDatabase(data: string, hear?: HearQuery): Promise<Db> {
  openDataFolder(data);
  const path = databasePath(data);
  const sqlite = new Database(path);
  for (const file of [path, `${path}-wal`, `${path}-shm`]) if (existsSync(file)) chmodSync(file, 0o600);
  sqlite.pragma('journal_mode = WAL');
  sqlite.pragma('synchronous = FULL');
  sqlite.pragma('foreign_keys = OFF');
  const db = new Kysely<Tables>({ dialect: new Sqlite({ database: sqlite }), ...heard(hear) });
  await adoptOldNumbers(db);
  const { error } = await new Migrator({
    db,
    provider: { getMigrations: () => Promise.resolve({ ...MIGRATIONS }) },
  }).migrateToLatest();
  if (error !== undefined) {
    await db.destroy();
    throw error instanceof Error ? error : new Error('the data could not be brought up to date');
  }
  // After the steps: some of them rebuild what others refer to. From here on every reference is checked.
  const broken = sqlite.pragma('foreign_key_check') as unknown[];
  if (broken.length > 0) throw new Error(`${broken.length} references in ${path} lead nowhere`);
  sqlite.pragma('foreign_keys = ON');
  return db;
}

/** A second connection that only reads, for a worker. */
export function openReader(data: string, hear?: HearQuery): Db {
  const sqlite = new Database(databasePath(data), { readonly: true, fileMustExist: true });
  sqlite.pragma('query_only = ON');
  return new Kysely<Tables>({ dialect: new Sqlite({ database: sqlite }), ...heard(hear) });
}

/** Release 0.1 numbered its steps in a table of its own. */
async function adoptOldNumbers(db: Db): Promise<void> {
  const has = async (table: string): Promise<boolean> =>
    (await sql`select 1 from sqlite_master where type = 'table' and name = ${table}`.execute(db)).rows.length > 0;
  if (!(await has('migrations'))) return;
  await db.transaction().execute(async (tx) => {
    await sql`create table if not exists kysely_migration (name varchar(255) not null primary key, timestamp varchar(255) not null)`.execute(
      tx,
    );
    await sql`insert or ignore into kysely_migration select '001-first', at from migrations where number = 1`.execute(
      tx,
    );
    await sql`drop table migrations`.execute(tx);
  });
}
