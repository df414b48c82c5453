import Database from 'better-sqlite3';
import {
  chmodSync,
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gunzipSync } from 'node:zlib';
import type {
  ChangeAnswer,
  ChangeSummary,
  FabricStateAnswer,
  RolloutSummary,
  SecretAnswer,
  SwitchAccountAnswer,
  SwitchHealth,
  TextAnswer,
} from '@anthemion/contract';
import { blankConfig, emptyIntent, linux, MODELS } from '@anthemion/core';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { startServer, type RunningServer } from '../server.ts';
import { mustHold } from '../testing/invariants.ts';
import { Caller, signInAt } from '../testing/world.ts';
import { checkBackup } from './backup.ts';
import { healthOf } from '../workers/tasks/watch.ts';
import { FolderTaken, openDatabase, takeFolder, type Db } from './database.ts';
import { readDocument, UPGRADERS, versionOf, writeDocument, type DocumentKind } from './documents.ts';
import { MIGRATIONS } from './migrations/index.ts';
import { sealingKey } from './sealingKey.ts';
import { keepText, pruneTexts, textOf } from './texts.ts';

const folder = mkdtempSync(join(tmpdir(), 'upgrade-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** Data as a release left it, in a folder of its own. */
function unpack(release: string, name: string): string {
  const data = join(folder, name);
  mkdirSync(data);
  const kept = (file: string): URL => new URL(`../../fixtures/release-${release}/${file}`, import.meta.url);
  writeFileSync(join(data, 'anthemion.sqlite'), gunzipSync(readFileSync(kept('anthemion.sqlite.gz'))));
  if (existsSync(kept('secrets.key'))) copyFileSync(kept('secrets.key'), join(data, 'secrets.key'));
  return data;
}
const as = async (server: RunningServer, name: string, password: string): Promise<Caller> =>
  new Caller(() => server.url, await signInAt(server.url, name, password));

/** How each seat of Skerry stands by the texts that are kept alone; its switches are far away from this test. */
async function standsBy(db: Db): Promise<Map<string, SwitchHealth>> {
  const rows = await db
    .selectFrom('meant as m')
    .leftJoin('switch_live as l', 'l.seat', 'm.seat')
    .leftJoin('switches as s', 's.serial', 'l.serial')
    .select(['m.seat', 'm.hash as meant', 'l.hash as confirmed', 's.running'])
    .where('m.fabric', '=', 'skerry')
    .execute();
  return new Map(rows.map((r) => [r.seat, healthOf(r.meant, r.confirmed ?? undefined, r.running, undefined)]));
}

const AT_FIRST = 'soundings-2026';
describe.each([
  {
    release: '0.1',
    fog: 'Stale',
    steps: '002-promises',
    password: AT_FIRST,
    account: ['switches', '127.0.0.0/24', 'nothing'],
  },
  {
    release: '0.2',
    fog: 'Proven',
    steps: '003-trust',
    password: AT_FIRST,
    account: ['switches', '127.0.0.0/24', 'password'],
  },
  {
    release: '0.3',
    fog: 'Proven',
    steps: '004-live',
    password: 'soundings of the outer bank',
    account: ['bench', '127.0.0.0/8', 'password'],
  },
])('data of release $release', ({ release, fog, steps, password, account }) => {
  let data: string;
  let server: RunningServer;
  let ines: Caller;
  beforeAll(async () => {
    data = unpack(release, `old-${release}`);
    server = await startServer({ data, port: 0, logLevel: 'silent', signInTries: 100 });
    ines = await as(server, 'ines', password);
  });
  afterAll(() => server.close());

  test('opens; what was live is live, and every switch is known with what it was confirmed with', async () => {
    const skerry = await ines.ask<FabricStateAnswer>('GET', '/api/fabrics/skerry');
    expect(skerry).toMatchObject({ revision: 2, spines: 4, leaves: 10, racks: 8 });
    expect(skerry.intent.networks.map((n) => n.name)).toContain('kelp-watch');
    expect(skerry.intent.secrets).toEqual([]);
    // Its last rollout was stopped: where some switches had it by then, they run ahead of what is live.
    const stand = [...(await standsBy(server.house.db)).values()];
    expect(skerry.waiting).toBe(stand.filter((h) => h === 'waiting').length);
    // What was meant the first release did not keep: it is what this one writes, which has two documents more for every switch.
    expect(new Set(stand)).toEqual(
      new Set(release === '0.3' ? ['as meant'] : release === '0.1' ? ['waiting'] : ['waiting', 'as meant']),
    );
    await mustHold(server.house.db);
  });
  test('what every switch runs, and ran before something was sent to it, is a back-up of it', async () => {
    const { db } = server.house;
    const ran = await db.selectFrom('ran_texts').selectAll().orderBy('id').execute();
    const newest = new Map(ran.map((r) => [r.serial, r.hash]));
    const running = await db
      .selectFrom('switches')
      .select(['serial', 'running'])
      .where('running', 'is not', null)
      .execute();
    expect(running.length).toBeGreaterThan(10);
    for (const { serial, running: hash } of running) expect([serial, newest.get(serial)]).toEqual([serial, hash]);
    const sent = await db
      .selectFrom('rollout_switches')
      .select(['serial', 'before'])
      .where('before', 'is not', null)
      .execute();
    for (const { serial, before } of sent) expect(ran.some((r) => r.serial === serial && r.hash === before)).toBe(true);
    expect(ran.length).toBeGreaterThan(running.length);
  });
  test('a back-up of before lies beside, whole and checked', async () => {
    const [made] = readdirSync(join(data, 'back-ups'));
    expect(made).toMatch(new RegExp(`^before-${steps}-`));
    const manifest = await checkBackup(join(data, 'back-ups', made!), Object.keys(MIGRATIONS));
    expect(manifest.steps).not.toContain(steps);
    const old = new Database(join(data, 'back-ups', made!, 'anthemion.sqlite'), { readonly: true });
    // What its step makes is not there yet.
    expect(old.prepare("select count(*) as n from sqlite_master where name = 'visits'").get()).toEqual({ n: 0 });
    old.close();
  });
  test('what was open is open; an edit is made on it, and proved', async () => {
    const changes = await ines.ask<ChangeSummary[]>('GET', '/api/changes');
    expect(Object.fromEntries(changes.map((c) => [c.title, c.state]))).toMatchObject({
      'Build Skerry': 'Live',
      'Kelp watch': 'Live',
      'Squall log': 'Rolling out',
      'Fog bell': fog,
      'Chart press in both halls': 'Stale',
    });
    const change = changes.find((c) => c.title === 'Fog bell')!;
    expect(await ines.ask('POST', `/api/changes/${change.id}/prove`)).toMatchObject({ state: 'Proven' });
  });
  test('accounts sign in with what they had; the account on switches goes on, for the networks its switches are in', async () => {
    expect(
      (await server.house.db.selectFrom('users').select(['name', 'bound', 'disabled']).execute()).map((u) => [
        u.name,
        u.bound,
        u.disabled,
      ]),
    ).toContainEqual(['bo', '{}', 0]);
    expect(await ines.ask('GET', '/api/settings')).toEqual({ secondPerson: true });
    const accounts = await ines.ask<SwitchAccountAnswer[]>('GET', '/api/switch-accounts');
    const [name, range, kept] = account;
    expect(accounts).toMatchObject([{ name, ranges: [range], with: kept }]);
    const secrets = await ines.ask<SecretAnswer[]>('GET', '/api/secrets');
    expect(secrets.map((x) => x.name)).toEqual(release === '0.3' ? ['harbour-bgp'] : []);
    // Secrets of the first releases were kept by their own place only: nothing of them is anywhere else now.
    expect(await server.house.db.selectFrom('secrets').select('name').execute()).toEqual([{ name: 'digest-key' }]);
  });
});

describe('data of release 0.4', () => {
  test('its intents get what they could not say; what is live stays live, and what was open is proved on as it was', async () => {
    const server = await startServer({ data: unpack('0.4', 'old-0.4'), port: 0, logLevel: 'silent', signInTries: 100 });
    try {
      const ines = await as(server, 'ines', 'soundings of the outer bank');
      const { intent } = await ines.ask<FabricStateAnswer>('GET', '/api/fabrics/skerry');
      expect(intent).toMatchObject({
        outside: [],
        settings: { leafName: '{prefix}-lf-{rack}{side}', underlayFamilies: 'ipv4' },
        pools: { subnet: 'skerry-tenants', subnet6: '', loopback6: '' },
      });
      // Nothing that is live would be sent otherwise.
      expect(new Set((await standsBy(server.house.db)).values())).toEqual(new Set(['as meant']));
      const fog = (await ines.ask<ChangeSummary[]>('GET', '/api/changes')).find((c) => c.title === 'Fog bell')!;
      const change = await ines.edit(fog.id, {
        kind: 'setSpines',
        others: [{ number: 2, model: 'BW-L32D' }],
        models: MODELS.filter((m) => m.name === 'BW-L32D'),
      });
      expect(change.state).toBe('Proven');
      const { intent: next } = await ines.ask<FabricStateAnswer>('GET', `/api/fabrics/skerry?change=${fog.id}`);
      expect(next.spines).toMatchObject({ count: 3, others: [{ number: 2, model: 'BW-L32D' }] });
      expect(next.racks.find((r) => r.number === 2)?.place).toBe('Lamp hall');
      expect((await ines.ask<FabricStateAnswer>('GET', '/api/fabrics/holm')).intent).toMatchObject({ outside: [] });
      await mustHold(server.house.db);
    } finally {
      await server.close();
    }
  });
});

describe('data of release 0.1', () => {
  test('a rollout that was not finished has no pin, and says what can be done', async () => {
    const server = await startServer({ data: unpack('0.1', 'unpinned'), port: 0, logLevel: 'silent' });
    const ines = await as(server, 'ines', 'soundings-2026');
    const rollouts = await ines.ask<RolloutSummary[]>('GET', '/api/rollouts');
    const stopped = rollouts.find((r) => r.state === 'stopped')!;
    expect(await ines.attempt('POST', `/api/rollouts/${stopped.id}/retry`)).toMatchObject({
      status: 409,
      body: { detail: 'It was begun by an older release: undo it, then begin again.' },
    });
    await server.close();
  });
});

describe('a newer release that writes the same intent with other lines', () => {
  test('makes nothing drift: what it would change is a change to propose, and nothing else sends it', async () => {
    const data = unpack('0.2', 'templates');
    // The release of then wrote a line more on one switch that runs as meant.
    let server = await startServer({ data, port: 0, logLevel: 'silent' });
    const { db } = server.house;
    const before = await (
      await as(server, 'ines', 'soundings-2026')
    ).ask<FabricStateAnswer>('GET', '/api/fabrics/skerry');
    const stand = await standsBy(db);
    const seat = before.seats.find((s) => stand.get(s.seat) === 'as meant')!;
    const row = await db.selectFrom('meant').selectAll().where('seat', '=', seat.seat).executeTakeFirstOrThrow();
    const files = (await textOf(db, row.hash))!;
    // Since then the router of a tenant shares load over AS numbers, and the bridge says its MTU: a line in each. Two
    // documents say what is started, and what the kernel is told.
    const { daemons, 'sysctl.conf': sysctl } = linux.render(blankConfig('any')).files;
    const more = `${daemons}${sysctl}`.split('\n').length - 1;
    const lines = new Map<string, number>();
    for (const { seat: of, hash: h } of await db.selectFrom('meant').select(['seat', 'hash']).execute()) {
      const text = (await textOf(db, h))!;
      const count = (file: string, what: RegExp): number => text[file]!.split(what).length - 1;
      lines.set(of, count('frr.conf', /^router bgp \d+ vrf /m) + count('interfaces', /^iface bridge$/m) + more);
    }
    const changed = [...lines.keys()];
    expect(changed.length).toBeGreaterThan(1);
    const hash = await keepText(db, { ...files, 'frr.conf': `${files['frr.conf']!}! a line of the older release\n` });
    await db.updateTable('meant').set({ hash }).where('seat', '=', seat.seat).execute();
    await db.updateTable('revision_texts').set({ hash }).where('seat', '=', seat.seat).execute();
    await db.updateTable('switch_live').set({ hash }).where('serial', '=', seat.serial!).execute();
    await db.updateTable('switches').set({ running: hash }).where('serial', '=', seat.serial!).execute();
    await db.updateTable('fabrics').set({ written_by: '0.2.0' }).execute();
    await server.close();
    server = await startServer({ data, port: 0, logLevel: 'silent', signInTries: 100 });
    const ines = await as(server, 'ines', 'soundings-2026');
    const skerry = async (): Promise<FabricStateAnswer> => ines.ask('GET', '/api/fabrics/skerry');
    for (let i = 0; i < 200 && (await skerry()).releaseWrites === 0; i++) await new Promise((go) => setTimeout(go, 25));
    const after = await skerry();
    expect(after.releaseWrites).toBe(changed.length);
    expect(after.waiting).toBe(before.waiting);
    expect((await standsBy(server.house.db)).get(seat.seat)).toBe('as meant');

    const open = (title: string) =>
      ines.ask<ChangeAnswer>('POST', '/api/changes', { fabric: 'skerry', title, reason: '', ticket: '' });
    const empty = (await open('Lines of the new release')).id;
    const proved = await ines.ask<ChangeAnswer>('POST', `/api/changes/${empty}/prove`);
    expect(proved.state).toBe('Proven');
    const differ = proved.proof!.switches.filter((s) => s.fate !== 'same');
    expect(differ.map((s) => [s.seat, s.added, s.removed]).sort()).toEqual(
      changed.map((of) => [of, lines.get(of), of === seat.seat ? 1 : 0]).sort(),
    );
    expect(proved.proof!.findings.map((f) => f.rule)).toContain('release-writes');
    // A change of something else says that it carries them along.
    const other = await ines.edit((await open('Something else')).id, {
      kind: 'placeRack',
      number: 1,
      place: 'Lamp hall',
    });
    expect(other.proof!.findings.map((f) => f.rule)).toContain('release-writes');
    // The text page shows what was sent beside what would be.
    const text = await ines.ask<TextAnswer>('GET', `/api/fabrics/skerry/text/${seat.seat}`);
    expect([
      text.live!['frr.conf']!.includes('a line of the older release'),
      text.running!['frr.conf'],
      text.meant!['frr.conf']!.includes('a line of'),
    ]).toEqual([true, text.live!['frr.conf'], false]);
    await server.close();
  });
});

describe('an upgrade that cannot be', () => {
  test('a step that fails leaves the old state, says so, and leaves the back-up', async () => {
    const data = unpack('0.2', 'fails');
    const raw = new Database(join(data, 'anthemion.sqlite'));
    raw.exec("create table tokens (mine text); insert into tokens values ('kept')");
    raw.close();
    await expect(startServer({ data, port: 0, logLevel: 'silent' })).rejects.toThrow(
      /step 003-trust says .*tokens already exists.*It is as it was, and a back-up lies in .*before-003-trust-.* Start the release that wrote it\./,
    );
    const after = new Database(join(data, 'anthemion.sqlite'), { readonly: true });
    expect(after.prepare('select name from kysely_migration order by name').all()).toEqual([
      { name: '001-first' },
      { name: '002-promises' },
    ]);
    expect(after.prepare('select mine from tokens').all()).toEqual([{ mine: 'kept' }]);
    expect(after.prepare("select count(*) as n from sqlite_master where name in ('sessions', 'audit')").get()).toEqual({
      n: 0,
    });
    after.close();
  });
  test('data of a newer release is left alone', async () => {
    const data = join(folder, 'from-later');
    await (await openDatabase(data)).destroy();
    const raw = new Database(join(data, 'anthemion.sqlite'));
    raw.exec("insert into kysely_migration values ('900-later', '')");
    raw.pragma('wal_checkpoint(truncate)');
    raw.close();
    const before = readFileSync(join(data, 'anthemion.sqlite'));
    await expect(openDatabase(data)).rejects.toThrow(
      /written by a newer release \(it knows 900-later\).*Nothing was changed/,
    );
    expect(readFileSync(join(data, 'anthemion.sqlite')).equals(before)).toBe(true);
    expect(() => readDocument('intent', JSON.stringify({ schemaVersion: 99 }))).toThrow(
      /has version 99; this release knows 18/,
    );
  });
  test('every stored document says its version, and comes back from each version there was', () => {
    for (const kind of Object.keys(UPGRADERS) as DocumentKind[]) {
      const written = JSON.parse(writeDocument(kind, { name: 'x' } as never)) as Record<string, unknown>;
      expect([kind, written['schemaVersion']]).toEqual([kind, versionOf(kind)]);
    }
    const today = emptyIntent('skerry', 'sk');
    const { secrets: _, ...first } = today;
    expect(readDocument('intent', JSON.stringify(first))).toEqual(today);
    expect(readDocument('intent', writeDocument('intent', today))).toEqual(today);
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
