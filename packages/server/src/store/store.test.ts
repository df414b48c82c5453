import { mkdtempSync, readFileSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from 'vitest';
import { startServer } from '../server.ts';
import { openDatabase } from './database.ts';
import { hashPassword, loadKey, passwordMatches, seal, unseal } from './secrets.ts';
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

describe('secrets', () => {
  test('a key is made once, for its owner only; what is sealed opens with it and with no other, and not when altered', () => {
    const key = loadKey(folder, 'mine');
    expect(loadKey(folder, 'mine')).toEqual(key);
    expect(statSync(join(folder, 'mine.key')).mode & 0o077).toBe(0);
    const sealed = seal(key, 'slack water');
    expect(sealed).not.toContain('slack');
    expect(seal(key, 'slack water')).not.toBe(sealed);
    expect(unseal(key, sealed)).toBe('slack water');
    expect(() => unseal(loadKey(folder, 'other'), sealed)).toThrow();
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

test('outside the demo the first start makes the first account, once; it keeps the others', async () => {
  const data = join(folder, 'first');
  const server = await startServer({ data, port: 0, logLevel: 'silent' });
  const call = async (method: string, path: string, body?: unknown, cookie = '') => {
    const answer = await fetch(`${server.url}${path}`, {
      method,
      headers: { cookie, ...(body ? { 'content-type': 'application/json' } : {}) },
      ...(body ? { body: JSON.stringify(body) } : {}),
    });
    return {
      status: answer.status,
      body: (await answer.json()) as Record<string, unknown>,
      cookie: answer.headers
        .getSetCookie()
        .map((c) => c.split(';')[0])
        .join('; '),
    };
  };
  expect((await call('GET', '/api/session')).body).toMatchObject({ user: null, firstStart: true, demoAccounts: [] });
  const account = { name: 'ada', fullName: 'Ada Brenn', password: 'ebb and flow' };
  expect((await call('POST', '/api/first-account', { ...account, password: 'short' })).body).toMatchObject({
    findings: [{ path: '/password' }],
  });
  const made = await call('POST', '/api/first-account', { ...account, roles: ['designer'] });
  expect(made.status).toBe(200);
  expect((await call('POST', '/api/first-account', { ...account, name: 'eve' })).status).toBe(409);
  expect((await call('POST', '/api/users', { ...account, name: 'ben', roles: ['onlooker'] }, made.cookie)).status).toBe(
    200,
  );
  expect((await call('POST', '/api/users', { ...account, name: 'ben' }, made.cookie)).body).toMatchObject({
    findings: [{ path: '/name' }],
  });
  const ben = await call('POST', '/api/session', { name: 'ben', password: account.password });
  expect((await call('GET', '/api/users', undefined, ben.cookie)).status).toBe(403);
  expect((await call('PUT', '/api/settings', { secondPerson: true }, made.cookie)).status).toBe(200);
  expect((await call('GET', '/api/settings', undefined, ben.cookie)).body).toEqual({ secondPerson: true });
  expect((await call('GET', '/api/openapi.json')).body).toMatchObject({ openapi: '3.1.0' });
  expect((await call('GET', '/api/nothing')).status).toBe(404);
  // A cookie somebody made up does not sign in.
  expect(
    (await call('GET', '/api/pools', undefined, 'anthemion=eyJuYW1lIjoiYWRhIn0=; anthemion.sig=made-up')).status,
  ).toBe(401);
  await server.close();
  expect(readFileSync(join(data, 'anthemion.sqlite')).includes('ebb and flow')).toBe(false);
});
