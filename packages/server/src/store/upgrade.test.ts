import { chmodSync, mkdirSync, mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gunzipSync } from 'node:zlib';
import type { ChangeSummary, FabricStateAnswer, RolloutSummary } from '@anthemion/contract';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { startServer, type RunningServer } from '../server.ts';
import { mustHold } from '../testing/invariants.ts';
import { Caller, signInAt } from '../testing/world.ts';
import { FolderTaken, openDatabase, takeFolder } from './database.ts';
import { sealingKey } from './secrets.ts';
import { keepText, pruneTexts } from './texts.ts';

const folder = mkdtempSync(join(tmpdir(), 'upgrade-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

describe('data of release 0.1', () => {
  const data = join(folder, 'old');
  let server: RunningServer;
  let ines: Caller;
  beforeAll(async () => {
    mkdirSync(data);
    const kept = new URL('../../fixtures/release-0.1/anthemion.sqlite.gz', import.meta.url);
    writeFileSync(join(data, 'anthemion.sqlite'), gunzipSync(readFileSync(kept)));
    server = await startServer({ data, port: 0, logLevel: 'silent' });
    ines = new Caller(() => server.url, await signInAt(server.url, 'ines', 'soundings-2026'));
  });
  afterAll(() => server.close());

  test('opens; what was live is live, and every switch is known with what it was confirmed with', async () => {
    const skerry = await ines.ask<FabricStateAnswer>('GET', '/api/fabrics/skerry');
    expect(skerry).toMatchObject({ revision: 2, spines: 4, leaves: 10, racks: 8, waiting: 2 });
    expect(skerry.intent.networks.map((n) => n.name)).toContain('kelp-watch');
    // Its last rollout was stopped half-way: two switches run ahead of what is live, the others as meant.
    const health = Object.fromEntries(skerry.seats.map((s) => [s.seat, s.health]));
    expect(health).toMatchObject({
      'leaf-1': 'as meant',
      'leaf-3': 'waiting',
      'leaf-4': 'as meant',
      'leaf-7a': 'waiting',
    });
    await mustHold(server.house.db);
  });
  test('what was proven is proved again; a rollout that was not finished has no pin, and says what can be done', async () => {
    const changes = await ines.ask<ChangeSummary[]>('GET', '/api/changes');
    expect(Object.fromEntries(changes.map((c) => [c.title, c.state]))).toEqual({
      'Build Skerry': 'Live',
      'Kelp watch': 'Live',
      'Squall log': 'Rolling out',
      'Fog bell': 'Stale',
      'Chart press in both halls': 'Stale',
    });
    const fog = changes.find((c) => c.title === 'Fog bell')!;
    expect(await ines.ask('POST', `/api/changes/${fog.id}/prove`)).toMatchObject({ state: 'Proven' });
    const rollouts = await ines.ask<RolloutSummary[]>('GET', '/api/rollouts');
    const stopped = rollouts.find((r) => r.state === 'stopped')!;
    expect(await ines.attempt('POST', `/api/rollouts/${stopped.id}/retry`)).toMatchObject({
      status: 409,
      body: { detail: 'It was begun by an older release: undo it, then begin again.' },
    });
  });
});

describe('one server on a data folder', () => {
  test('a second one is refused before it writes anything', async () => {
    const data = join(folder, 'taken');
    const first = await startServer({ data, port: 0, logLevel: 'silent' });
    const before = statSync(join(data, 'anthemion.sqlite')).mtimeMs;
    await expect(startServer({ data, port: 0 })).rejects.toThrow(FolderTaken);
    expect(statSync(join(data, 'anthemion.sqlite')).mtimeMs).toBe(before);
    await first.close();
    const again = await startServer({ data, port: 0, logLevel: 'silent' });
    await again.close();
  });
  test('the lock is free as soon as its holder is gone', () => {
    const data = join(folder, 'free');
    mkdirSync(data);
    const held = takeFolder(data);
    expect(() => takeFolder(data)).toThrow(FolderTaken);
    held.release();
    takeFolder(data).release();
  });
});

describe('keys', () => {
  test.each([
    ['empty', ''],
    ['short', Buffer.from('short').toString('base64')],
    ['one byte short', Buffer.alloc(31, 1).toString('base64')],
    ['one byte long', Buffer.alloc(33, 1).toString('base64')],
    ['no base64', 'x'.repeat(44)],
  ])('a key file that is %s is refused, with what to do', async (_what, text) => {
    const data = mkdtempSync(join(folder, 'key-'));
    writeFileSync(join(data, 'secrets.key'), text);
    await expect(startServer({ data, port: 0 })).rejects.toThrow(/secrets\.key does not hold a key of 32 bytes/);
    expect(readFileSync(join(data, 'secrets.key'), 'utf8')).toBe(text);
  });
  test('folder and files are for their owner only, also those of an older release', async () => {
    const data = mkdtempSync(join(folder, 'modes-'));
    const key = sealingKey(data, null);
    chmodSync(join(data, 'secrets.key'), 0o644);
    const db = await openDatabase(data);
    await db.destroy();
    expect(sealingKey(data, null)).toEqual(key);
    for (const file of ['secrets.key', 'anthemion.sqlite']) expect(statSync(join(data, file)).mode & 0o777).toBe(0o600);
    expect(statSync(data).mode & 0o777).toBe(0o700);
  });
});

test('texts that nothing refers to go, the others stay', async () => {
  const db = await openDatabase(join(folder, 'prune'));
  const used = await keepText(db, { interfaces: 'used' });
  for (const n of [1, 2, 3]) await keepText(db, { interfaces: `loose ${n}` });
  await db
    .insertInto('switches')
    .values({
      serial: 's',
      model: 'm',
      address: 'a',
      port: 22,
      location: '',
      host_key: null,
      version: null,
      running: used,
      read_at: null,
      trouble: null,
    })
    .execute();
  expect([await pruneTexts(db, 2), await pruneTexts(db, 2), await pruneTexts(db, 2)]).toEqual([2, 1, 0]);
  expect((await db.selectFrom('texts').select('hash').execute()).map((r) => r.hash)).toEqual([used]);
  await db.destroy();
});
