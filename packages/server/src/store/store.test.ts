import { randomBytes } from 'node:crypto';
import { mkdtempSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { Kysely, sql, SqliteDialect } from 'kysely';
import { afterAll, describe, expect, test } from 'vitest';
import { openDatabase } from './database.ts';
import { hashPassword, passwordMatches } from '../services/passwordHash.ts';
import { keyId, seal, sealingKey, unseal } from './sealingKey.ts';
import { keepStatements } from './statements.ts';
import { keepText, textOf } from './texts.ts';

const folder = mkdtempSync(join(tmpdir(), 'store-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

describe('database', () => {
  test('is made from empty, opens again with what it holds, and keeps a pool’s value to one holder', async () => {
    const path = join(folder, 'a');
    const db = await openDatabase(path);
    await db.insertInto('pools').values({ name: 'kept', json: '{}', created_at: '' }).execute();
    await db.destroy();
    const again = await openDatabase(path);
    expect((await again.selectFrom('pools').select('name').execute()).map((r) => r.name)).toEqual(['kept']);
    const row = (key: string, pool: string) => ({
      kind: 'vni' as const,
      pool,
      value: '10',
      fabric: 'f',
      key,
      change_id: null,
      drawn_by: null,
      lo: 10,
      hi: 10,
    });
    await again.insertInto('ledger').values(row('a', 'p')).execute();
    await expect(again.insertInto('ledger').values(row('b', 'p')).execute()).rejects.toThrow(/UNIQUE/);
    // But what a network holds may have another name of its own.
    const own = (key: string) => ({ ...row(key, 'p'), value: '11', lo: 11, hi: 11 });
    await again.insertInto('ledger').values(own('network:one/subnet')).execute();
    await again.insertInto('ledger').values(own('network:one/further-11')).execute();
    for (const other of ['network:on/subnet', 'network:one-more/subnet', 'vrf:one/subnet', 'seat:one/a'])
      await expect(again.insertInto('ledger').values(own(other)).execute()).rejects.toThrow(/UNIQUE/);
    await again
      .insertInto('ledger')
      .values({ ...row('seat:one/a', 'p'), value: '12', lo: 12, hi: 12 })
      .execute();
    const beside = { ...row('seat:one/b', 'p'), value: '12', lo: 12, hi: 12 };
    await expect(again.insertInto('ledger').values(beside).execute()).rejects.toThrow(/UNIQUE/);
    // Chosen values of no pool may meet: two fabrics may both use VNI 10.
    await again
      .insertInto('ledger')
      .values([row('c', ''), row('d', '')])
      .execute();
    await expect(
      again
        .insertInto('changes')
        .values({
          id: 'x',
          fabric: 'none',
          title: '',
          reason: '',
          ticket: '',
          author: '',
          state: '',
          base_revision: 0,
          version: 1,
          proof: null,
          proof_version: null,
          proof_digest: null,
          proof_touches: null,
          proven_at: null,
          conflicts: '[]',
          created_at: '',
          updated_at: '',
        })
        .execute(),
    ).rejects.toThrow(/FOREIGN KEY/);
    await again.destroy();
  });
  test('the same text is kept once', async () => {
    const db = await openDatabase(join(folder, 'texts'));
    const hash = await keepText(db, { interfaces: 'x' });
    expect(await keepText(db, { interfaces: 'x' })).toBe(hash);
    expect(await textOf(db, hash)).toEqual({ interfaces: 'x' });
    expect([await textOf(db, null), await textOf(db, 'none')]).toEqual([null, null]);
    expect(await db.selectFrom('texts').select('hash').execute()).toHaveLength(1);
    await db.destroy();
  });
});

describe('kept statements', () => {
  test('answer as new ones, also of tables that were changed since; of very many the longest unused go', async () => {
    const sqlite = new Database(':memory:');
    let read = 0;
    const db = new Kysely<{ t: Record<string, number> }>({
      dialect: new SqliteDialect({
        database: keepStatements({
          close: () => sqlite.close(),
          prepare: (text) => {
            read++;
            return sqlite.prepare(text);
          },
        }),
      }),
    });
    const all = () => db.selectFrom('t').selectAll().execute();
    const times = async (n: number): Promise<number> => {
      read = 0;
      for (let i = 0; i < n; i++) await all();
      return read;
    };
    await sql`create table t (a)`.execute(db);
    await db.insertInto('t').values({ a: 1 }).execute();
    expect(await times(50)).toBe(1);
    expect(await all()).toEqual([{ a: 1 }]);
    await sql`alter table t add column b default 2`.execute(db);
    expect(await all()).toEqual([{ a: 1, b: 2 }]);
    // One after another: what is asked in between stays.
    read = 0;
    for (let i = 0; i < 1000; i++) {
      await sql`select ${sql.lit(i)}`.execute(db);
      await all();
    }
    expect(read).toBe(1000);
    for (let i = 0; i < 1000; i++) await sql`select ${sql.lit(i)}`.execute(db);
    expect(await times(1)).toBe(1);
    await db.destroy();
  });
});

describe('secrets', () => {
  test('a key is made once, for its owner only; what is sealed opens with it and with no other, and not when altered', () => {
    const key = sealingKey(folder, null);
    expect(sealingKey(folder, keyId(key))).toEqual(key);
    expect(statSync(join(folder, 'secrets.key')).mode & 0o077).toBe(0);
    const sealed = seal(key, 'slack water');
    expect(sealed).not.toContain('slack');
    expect(seal(key, 'slack water')).not.toBe(sealed);
    expect(unseal(key, sealed)).toBe('slack water');
    expect(() => unseal(randomBytes(32), sealed)).toThrow();
    const [nonce, tag, body] = sealed.split('.') as [string, string, string];
    const flipped = Buffer.from(body, 'base64');
    flipped[0]! ^= 1;
    expect(() => unseal(key, [nonce, tag, flipped.toString('base64')].join('.'))).toThrow();
  });
  test('passwords are salted and matched', async () => {
    const [a, b] = [await hashPassword('a long password'), await hashPassword('a long password')];
    expect(a.hash).not.toBe(b.hash);
    expect([await passwordMatches('a long password', a), await passwordMatches('another password', a)]).toEqual([
      true,
      false,
    ]);
  });
});
