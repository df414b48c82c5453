import Database from 'better-sqlite3';
import { createHash } from 'node:crypto';
import {
  chmodSync,
  closeSync,
  copyFileSync,
  createReadStream,
  existsSync,
  fsyncSync,
  mkdirSync,
  openSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { StartTrouble } from '../trouble.ts';

/** What stands beside the database in a back-up. */
export interface Manifest {
  readonly format: 1;
  /** Release that wrote it. */
  readonly release: string;
  readonly at: string;
  /** Migrations its data has been through. */
  readonly steps: readonly string[];
  readonly bytes: number;
  readonly sha256: string;
  /** Id of the key its secrets are sealed with; null = nothing is sealed. */
  readonly keyId: string | null;
  /** The key lies in the back-up, which must then be kept like a key. */
  readonly holdsKey: boolean;
}

const DATABASE = 'anthemion.sqlite';
const MANIFEST = 'manifest.json';
const KEY = 'secrets.key';

async function digest(path: string): Promise<string> {
  const hash = createHash('sha256');
  for await (const part of createReadStream(path)) hash.update(part as Buffer);
  return hash.digest('hex');
}

const sync = (path: string): void => {
  const file = openSync(path, 'r');
  fsyncSync(file);
  closeSync(file);
};

const rowsOf = (db: Database.Database, question: string): Record<string, unknown>[] =>
  db.prepare(question).all() as Record<string, unknown>[];
const hasTable = (db: Database.Database, name: string): boolean =>
  db.prepare("select 1 from sqlite_master where type = 'table' and name = ?").get(name) !== undefined;

/** Migrations a database has been through, oldest first. */
export function stepsOf(db: Database.Database): string[] {
  if (hasTable(db, 'kysely_migration'))
    return rowsOf(db, 'select name from kysely_migration order by name').map((r) => String(r['name']));
  return hasTable(db, 'migrations') ? ['001-first'] : [];
}

/** Id of the key a database is sealed with. */
function sealedWithIn(db: Database.Database): string | null {
  if (!hasTable(db, 'settings')) return null;
  const row = rowsOf(db, "select value from settings where key = 'sealedWith'")[0];
  return row === undefined ? null : String(row['value']);
}

/** What SQLite finds wrong with a database file; empty = nothing. `deep` reads every page. */
export function wrongWith(db: Database.Database, deep: boolean): string[] {
  const said = db.pragma(deep ? 'integrity_check(5)' : 'quick_check(5)') as Record<string, string>[];
  const lines = said.map((r) => Object.values(r)[0] ?? '').filter((line) => line !== 'ok');
  const broken = db.pragma('foreign_key_check') as unknown[];
  return broken.length > 0 ? [...lines, `${broken.length} references lead nowhere`] : lines;
}

/**
 * Writes a back-up of a data folder, also while a server works on it: a consistent copy of the database, checked after it is
 * written, with a manifest; the sealing key only where it is asked for. The folder appears whole or not at all.
 */
export async function writeBackup(
  data: string,
  to: string,
  { release, at, withKey }: { readonly release: string; readonly at: string; readonly withKey: boolean },
): Promise<Manifest> {
  if (existsSync(to)) throw new StartTrouble(`${to} is there already; name another folder.`);
  const beside = `${to}.part`;
  rmSync(beside, { recursive: true, force: true });
  mkdirSync(beside, { recursive: true, mode: 0o700 });
  try {
    const copy = join(beside, DATABASE);
    const source = new Database(join(data, DATABASE), { readonly: true, fileMustExist: true });
    try {
      // One statement on one view of the data: whoever writes meanwhile neither waits nor makes it begin again.
      source.prepare('vacuum into ?').run(copy);
    } finally {
      source.close();
    }
    chmodSync(copy, 0o600);
    const db = new Database(copy);
    let manifest: Manifest;
    try {
      // The copy stands by itself: no log beside it, and nobody is signed in by it.
      db.pragma('journal_mode = DELETE');
      if (hasTable(db, 'sessions')) db.exec('delete from sessions');
      const wrong = wrongWith(db, true);
      if (wrong.length > 0)
        throw new StartTrouble(`The back-up is not sound, so it was not kept: ${wrong.join('; ')}.`);
      manifest = {
        format: 1,
        release,
        at,
        steps: stepsOf(db),
        bytes: 0,
        sha256: '',
        keyId: sealedWithIn(db),
        holdsKey: withKey,
      };
    } finally {
      db.close();
    }
    sync(copy);
    manifest = { ...manifest, bytes: statSync(copy).size, sha256: await digest(copy) };
    if (withKey) {
      copyFileSync(join(data, KEY), join(beside, KEY));
      chmodSync(join(beside, KEY), 0o600);
    }
    writeFileSync(join(beside, MANIFEST), `${JSON.stringify(manifest, null, 2)}\n`, { mode: 0o600 });
    sync(join(beside, MANIFEST));
    renameSync(beside, to);
    sync(dirname(resolve(to)));
    return manifest;
  } catch (error) {
    rmSync(beside, { recursive: true, force: true });
    throw error;
  }
}

/** Reads and checks a back-up: its manifest, its sum, its soundness, and whether this release knows its data. */
export async function checkBackup(from: string, known: readonly string[]): Promise<Manifest> {
  const path = join(from, MANIFEST);
  if (!existsSync(path)) throw new StartTrouble(`${from} is no back-up: it has no ${MANIFEST}.`);
  let manifest: Manifest;
  try {
    manifest = JSON.parse(readFileSync(path, 'utf8')) as Manifest;
  } catch {
    throw new StartTrouble(`${path} cannot be read; the back-up is damaged. Take another one.`);
  }
  const strange = manifest.steps.filter((s) => !known.includes(s));
  if (manifest.format !== 1 || strange.length > 0)
    throw new StartTrouble(
      `The back-up was written by release ${manifest.release}, which knows more than this one (${strange.join(', ')}). Install that release, then restore.`,
    );
  const copy = join(from, DATABASE);
  if (!existsSync(copy) || (await digest(copy)) !== manifest.sha256)
    throw new StartTrouble(
      `${copy} is not what was written on ${manifest.at}; the back-up is damaged. Take another one.`,
    );
  const db = new Database(copy, { readonly: true });
  try {
    const wrong = wrongWith(db, true);
    if (wrong.length > 0) throw new StartTrouble(`${copy} is not sound: ${wrong.join('; ')}. Take another back-up.`);
  } finally {
    db.close();
  }
  return manifest;
}

/** What is wrong with the database of a folder that nobody works on, every page read; empty = nothing. */
export function soundness(data: string): string[] {
  const db = new Database(join(data, DATABASE), { readonly: true });
  try {
    return wrongWith(db, true);
  } finally {
    db.close();
  }
}

/**
 * Puts a checked back-up in the place of a data folder's database. What was there is kept in a folder beside, which is the
 * answer. Work that was under way when the back-up was made is halted, so that nothing old is sent by itself.
 */
export function putBack(from: string, data: string, at: string, withKey: boolean): string | null {
  mkdirSync(data, { recursive: true, mode: 0o700 });
  const fresh = join(data, `${DATABASE}.restored`);
  copyFileSync(join(from, DATABASE), fresh);
  chmodSync(fresh, 0o600);
  const db = new Database(fresh);
  try {
    db.pragma('journal_mode = DELETE');
    if (hasTable(db, 'settings'))
      db.prepare("insert or replace into settings values ('restored', ?)").run(`${from}, put back on ${at}`);
    if (hasTable(db, 'jobs'))
      db.prepare("update jobs set state = 'paused', reason = ? where state = 'running'").run(
        `restored from a back-up on ${at}: look at the switches before it goes on`,
      );
  } finally {
    db.close();
  }
  sync(fresh);
  const kept = join(data, `before-restore-${at.replaceAll(/[:.]/g, '-')}`);
  const there = [DATABASE, `${DATABASE}-wal`, `${DATABASE}-shm`, ...(withKey ? [KEY] : [])].filter((f) =>
    existsSync(join(data, f)),
  );
  if (there.length > 0) {
    mkdirSync(kept, { mode: 0o700 });
    for (const file of there) renameSync(join(data, file), join(kept, file));
  }
  if (withKey) copyFileSync(join(from, KEY), join(data, KEY));
  renameSync(fresh, join(data, DATABASE));
  sync(resolve(data));
  return there.length > 0 ? kept : null;
}
