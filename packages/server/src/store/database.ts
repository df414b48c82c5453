import Database from 'better-sqlite3';
import { Kysely, Migrator, SqliteAdapter, SqliteDialect, sql, type LogEvent, type Transaction } from 'kysely';
import { chmodSync, existsSync } from 'node:fs';
import { join } from 'node:path';
import { MIGRATIONS } from './migrations/index.ts';
import { RELEASE } from '../release.ts';
import { StartTrouble, storageTrouble, words } from '../trouble.ts';
import { stepsOf, writeBackup, wrongWith } from './backup.ts';
import { openDataFolder } from './sealingKey.ts';
import { keepStatements } from './statements.ts';
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
export class FolderTaken extends StartTrouble {}

/** Why the data of a folder cannot be opened, with what to do. */
export class DataTrouble extends StartTrouble {}

/**
 * Takes the data folder for this process. The lock is SQLite's own on a file beside the data, so the kernel frees it
 * whatever way the process ends. Throws FolderTaken, before anything is written, when another server has it.
 */
export function takeFolder(data: string): { readonly release: () => void } {
  let held: Database.Database;
  try {
    openDataFolder(data);
    held = new Database(join(data, 'server.lock'), { timeout: 0 });
  } catch (error) {
    throw new DataTrouble(
      `The data folder ${data} cannot be written (${words(error)}). Start the server as its owner, on a disk that can be written.`,
    );
  }
  try {
    held.pragma('locking_mode = exclusive');
    held.exec('begin exclusive');
  } catch (error) {
    held.close();
    if (storageTrouble(error)) throw new DataTrouble(`The data folder ${data} cannot be used (${words(error)}).`);
    throw new FolderTaken(`Another server works on ${data}. Stop it first, or choose another data folder.`);
  }
  return { release: () => held.close() };
}

/** Opens the database of a data folder, and brings its tables up to date; safe to call on every start. */
export async function openDatabase(data: string, hear?: HearQuery): Promise<Db> {
  openDataFolder(data);
  const path = databasePath(data);
  const sqlite = openFile(path);
  try {
    await upToDate(new Kysely<Tables>({ dialect: new Sqlite({ database: sqlite }) }), sqlite, data);
    // After the steps: some of them rebuild what others refer to. From here on every reference is checked.
    sqlite.pragma('foreign_keys = ON');
  } catch (error) {
    sqlite.close();
    throw error;
  }
  return over(sqlite, hear);
}

function openFile(path: string): Database.Database {
  const asOwner = `Start the server as the owner of ${path}, with a disk that can be written.`;
  let sqlite: Database.Database;
  try {
    sqlite = new Database(path);
  } catch (error) {
    throw new DataTrouble(`${path} cannot be opened (${words(error)}). ${asOwner}`);
  }
  try {
    for (const file of [path, `${path}-wal`, `${path}-shm`]) if (existsSync(file)) chmodSync(file, 0o600);
    sqlite.pragma('journal_mode = WAL');
    sqlite.pragma('synchronous = FULL');
    sqlite.pragma('foreign_keys = OFF');
    const wrong = wrongWith(sqlite, false);
    if (wrong.length > 0) throw new DataTrouble(`${path} is damaged (${wrong.join('; ')}). ${RESTORE}`);
    return sqlite;
  } catch (error) {
    sqlite.close();
    if (error instanceof DataTrouble) throw error;
    const { kind } = storageTrouble(error) ?? {};
    if (kind === 'damaged') throw new DataTrouble(`${path} is damaged (${words(error)}). ${RESTORE}`);
    if (kind === 'no room') throw new DataTrouble(`${path} cannot be written (${words(error)}). ${asOwner}`);
    throw error;
  }
}
const RESTORE = 'Nothing was changed. Restore the newest back-up: npm run restore -- FOLDER.';

/** Runs the steps that are missing, after a back-up of what is there; a step that fails leaves everything as it was. */
async function upToDate(db: Db, sqlite: Database.Database, data: string): Promise<void> {
  const done = stepsOf(sqlite);
  const strange = done.filter((s) => !(s in MIGRATIONS));
  if (strange.length > 0)
    throw new DataTrouble(
      `${databasePath(data)} was written by a newer release (it knows ${strange.join(', ')}). Start that release, or restore the back-up it made before it changed the data. Nothing was changed.`,
    );
  const missing = Object.keys(MIGRATIONS).filter((s) => !done.includes(s));
  if (missing.length === 0) return;
  let kept = '';
  if (done.length > 0) {
    const at = new Date().toISOString();
    kept = join(data, 'back-ups', `before-${missing[0]}-${at.replaceAll(/[:.]/g, '-')}`);
    await writeBackup(data, kept, { release: RELEASE, at, withKey: false });
  }
  await adoptOldNumbers(db);
  const { error, results } = await new Migrator({
    db,
    provider: { getMigrations: () => Promise.resolve({ ...MIGRATIONS }) },
  }).migrateToLatest();
  if (error === undefined) return;
  const at = results?.find((r) => r.status === 'Error')?.migrationName ?? missing[0];
  throw new DataTrouble(
    `The data could not be brought up to date: step ${at} says “${words(error)}”. It is as it was${
      kept === '' ? '' : `, and a back-up lies in ${kept}`
    }. Start the release that wrote it.`,
  );
}

/** A second connection that only reads, for a worker. */
export function openReader(data: string, hear?: HearQuery): Db {
  const sqlite = new Database(databasePath(data), { readonly: true, fileMustExist: true });
  sqlite.pragma('query_only = ON');
  return over(sqlite, hear);
}
const over = (sqlite: Database.Database, hear?: HearQuery): Db =>
  new Kysely<Tables>({ dialect: new Sqlite({ database: keepStatements(sqlite) }), ...heard(hear) });

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
