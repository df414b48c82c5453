import type { AuditCheck, PoolAnswer } from '@anthemion/contract';
import Database from 'better-sqlite3';
import { sql } from 'kysely';
import { spawn, spawnSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import {
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from 'vitest';
import { startServer } from '../server.ts';
import { FolderTaken } from '../store/database.ts';
import { keyId, nextKey, seal, sealingKey, unseal } from '../store/sealingKey.ts';
import { bundled } from '../testing/bundledProgram.ts';
import { Bare } from '../testing/bare.ts';
import { backup } from './backup.ts';
import { resetPassword } from './resetPassword.ts';
import { restore } from './restore.ts';

const folder = mkdtempSync(join(tmpdir(), 'commands-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const now = (): Date => new Date();
const pool = (i: number) => ({ name: `pool-${i}`, kind: 'vni', ranges: [`${100_000 + i * 10}-${100_005 + i * 10}`] });
const databaseOf = (data: string): string => join(data, 'anthemion.sqlite');
const run = (...args: string[]) => spawnSync(process.execPath, [bundled('keep'), ...args], { encoding: 'utf8' });

describe('back-up and restore', () => {
  test('a back-up made while people work is whole, holds all that was acknowledged before, and comes back', async () => {
    const bare = await new Bare().open();
    const keeper = await bare.account('keeper', ['designer'], { admin: true });
    for (let i = 0; i < 20; i++) await keeper.ask('POST', '/api/pools', pool(i));
    let [asked, going] = [20, true];
    const working = (async () => {
      while (going) await keeper.ask('POST', '/api/pools', pool(asked++));
    })();
    const made = await backup(bare.data, join(folder, 'one'), false, now());
    going = false;
    await working;
    expect(made.said).toMatch(/checked\.\nThe sealing key \(\w{12}\) is not in it/);
    expect(readdirSync(made.folder).sort()).toEqual(['anthemion.sqlite', 'manifest.json']);
    for (const file of readdirSync(made.folder)) expect(statSync(join(made.folder, file)).mode & 0o777).toBe(0o600);
    // Not over one that is there, and not into a folder a server works on.
    await expect(backup(bare.data, made.folder, false, now())).rejects.toThrow(/is there already/);
    await expect(restore(bare.data, made.folder, now())).rejects.toThrow(FolderTaken);

    const other = new Bare(join(folder, 'two'));
    const said = await restore(other.data, made.folder, now());
    const id = keyId(sealingKey(bare.data, null));
    expect(said).toContain(`It needs the sealing key ${id}: put that file at ${join(other.data, 'secrets.key')}`);
    await expect(other.open()).rejects.toThrow(/secrets\.key is missing, and the data is sealed with key/);
    copyFileSync(join(bare.data, 'secrets.key'), join(other.data, 'secrets.key'));
    await other.open();
    const again = await other.as('keeper');
    const pools = await again.ask<PoolAnswer[]>('GET', '/api/pools');
    expect(pools.length).toBeGreaterThanOrEqual(20);
    expect(pools.length).toBeLessThanOrEqual(asked);
    expect(await again.ask<AuditCheck>('GET', '/api/audit/check')).toMatchObject({ brokenAt: null });
    expect(await again.ask('GET', '/api/audit?action=restore')).toMatchObject([{ account: 'server', outcome: 'done' }]);
    // Whoever was signed in when it was made has to sign in again.
    expect((await fetch(`${other.server.url}/api/pools`, { headers: keeper.headers() })).status).toBe(401);
    await other.server.close();

    // Over what is there: it is kept beside. With the key in it, nothing else is needed.
    const withKey = await backup(bare.data, join(folder, 'with-key'), true, now());
    expect(withKey.said).toMatch(/It holds the sealing key/);
    rmSync(join(other.data, 'secrets.key'));
    const second = await restore(other.data, withKey.folder, now());
    expect(second).toMatch(/What was there before lies in .*before-restore-/);
    expect(second).not.toMatch(/It needs/);
    await other.open();
    await other.close();
    await bare.close();
  });

  test('a back-up that was damaged, is none, or is of a newer release is refused, and what is there stays', async () => {
    const bare = await new Bare().open();
    await bare.account('keeper', [], { admin: true });
    const made = (await backup(bare.data, join(folder, 'sound'), false, now())).folder;
    await bare.server.close();
    const before = readFileSync(databaseOf(bare.data));
    const copy = (name: string): string => {
      const to = join(folder, name);
      mkdirSync(to);
      for (const f of readdirSync(made)) copyFileSync(join(made, f), join(to, f));
      return to;
    };
    const flipped = copy('flipped');
    const bytes = readFileSync(databaseOf(flipped));
    bytes[bytes.length >> 1]! ^= 0xff;
    writeFileSync(databaseOf(flipped), bytes);
    await expect(restore(bare.data, flipped, now())).rejects.toThrow(/is not what was written on .*damaged/);
    const newer = copy('newer');
    const manifest = JSON.parse(readFileSync(join(newer, 'manifest.json'), 'utf8')) as {
      steps: string[];
      release: string;
    };
    writeFileSync(
      join(newer, 'manifest.json'),
      JSON.stringify({ ...manifest, release: '9.0.0', steps: [...manifest.steps, '900-later'] }),
    );
    await expect(restore(bare.data, newer, now())).rejects.toThrow(
      /release 9\.0\.0, which knows more than this one \(900-later\)/,
    );
    await expect(restore(bare.data, folder, now())).rejects.toThrow(/is no back-up: it has no manifest/);
    const cut = copy('cut');
    writeFileSync(join(cut, 'manifest.json'), '{"format":');
    await expect(restore(bare.data, cut, now())).rejects.toThrow(/cannot be read; the back-up is damaged/);
    expect(readFileSync(databaseOf(bare.data)).equals(before)).toBe(true);
    rmSync(bare.data, { recursive: true });
  });

  test('from the command line: the folder by its settings, one line where something is wrong', async () => {
    const bare = await new Bare().open();
    const to = join(folder, 'by-command');
    const made = run('backup', '--data', bare.data, '--to', to);
    expect([made.status, made.stdout]).toEqual([
      0,
      expect.stringMatching(/^Back-up in .*by-command, \d+ bytes, checked\./),
    ]);
    const taken = run('rotate-key', '--data', bare.data);
    expect([taken.status, taken.stderr]).toEqual([
      1,
      expect.stringMatching(/^Another server works on .*Stop it first.*\n$/),
    ]);
    expect(run('restore', '--data', bare.data).stderr).toMatch(/^Say which back-up/);
    expect(run('--nonsense').status).toBe(1);
    await bare.close();
  });

  test('a password can be given anew on the machine itself; the account is asked for its own', async () => {
    const bare = await new Bare().open();
    await bare.account('keeper', [], { admin: true });
    await bare.server.close();
    const said = await resetPassword(bare.data, 'keeper', now);
    await expect(resetPassword(bare.data, 'nobody', now)).rejects.toThrow('There is no account nobody.');
    await bare.open();
    const keeper = await bare.as('keeper', /with {2}(\S+)/.exec(said)![1]!);
    expect((await keeper.call('GET', '/api/session')).body).toMatchObject({ mustChange: true });
    await bare.close();
  });
});

describe('a rotation that is cut off', () => {
  test('leaves key and data that belong together, wherever it was cut', () => {
    const data = mkdtempSync(join(folder, 'rotate-'));
    const old = sealingKey(data, null);
    // Before the data was sealed with it: the new key goes.
    nextKey(data);
    expect(sealingKey(data, keyId(old))).toEqual(old);
    expect(existsSync(join(data, 'secrets.key.next'))).toBe(false);
    // After: it takes the place of the old one.
    const { key } = nextKey(data);
    expect(sealingKey(data, keyId(key))).toEqual(key);
    expect(unseal(sealingKey(data, keyId(key)), seal(key, 'slack water'))).toBe('slack water');
  });
});

describe('faults', () => {
  const open = async (): Promise<Bare> => {
    const bare = await new Bare().open();
    await bare.account('keeper', ['designer'], { admin: true });
    return bare;
  };
  test('a full disk is said as such, reads go on, nothing acknowledged is lost, and it goes on when there is room', async () => {
    const bare = await open();
    const keeper = await bare.as('keeper');
    await keeper.ask('POST', '/api/pools', pool(1));
    const pages = Number((await sql<{ page_count: number }>`pragma page_count`.execute(bare.db)).rows[0]!.page_count);
    await sql.raw(`pragma max_page_count = ${pages}`).execute(bare.db);
    const made: number[] = [1];
    let full;
    for (let i = 2; i < 400 && full === undefined; i++) {
      const answer = await keeper.call<{ detail: string }>('POST', '/api/pools', pool(i));
      if (answer.status === 200) made.push(i);
      else full = answer;
    }
    expect(full).toMatchObject({
      status: 507,
      body: {
        title: 'Nothing can be written',
        detail: expect.stringMatching(/disk of the server is full.*can be read/) as string,
      },
    });
    expect((await keeper.ask<PoolAnswer[]>('GET', '/api/pools')).map((p) => p.name).sort()).toEqual(
      made.map((i) => `pool-${i}`).sort(),
    );
    await sql.raw('pragma max_page_count = 1073741823').execute(bare.db);
    await keeper.ask('POST', '/api/pools', pool(999));
    expect(await keeper.ask<AuditCheck>('GET', '/api/audit/check')).toMatchObject({ brokenAt: null });
    await bare.close();
  });
  test('a folder that cannot be written is said as such, and reads go on', async () => {
    const bare = await open();
    const keeper = await bare.as('keeper');
    await sql.raw('pragma query_only = on').execute(bare.db);
    expect((await keeper.call<{ detail: string }>('POST', '/api/pools', pool(1))).body.detail).toMatch(
      /cannot be written: nothing was changed/,
    );
    expect((await keeper.call('GET', '/api/pools')).status).toBe(200);
    expect((await fetch(`${bare.server.url}/readyz`)).status).toBe(200);
    await sql.raw('pragma query_only = off').execute(bare.db);
    await bare.close();
  });
  test.skipIf(spawnSync('unshare', ['-m', 'true']).status !== 0)(
    'a start on a read-only folder says so in one line',
    async () => {
      const bare = await open();
      await bare.server.close();
      const mounted = 'mount --bind "$1" "$1" && mount -o remount,ro,bind "$1" && exec "$2" "$3"';
      const done = spawnSync(
        'unshare',
        ['-m', 'sh', '-c', mounted, 'sh', bare.data, process.execPath, bundled('server')],
        {
          env: { ...process.env, ANTHEMION_DATA: bare.data, ANTHEMION_PORT: '0' },
          encoding: 'utf8',
        },
      );
      expect(done.stderr.trim().split('\n')).toHaveLength(1);
      expect(done.stderr).toMatch(/cannot be written .*Start the server as its owner/);
      rmSync(bare.data, { recursive: true });
    },
  );
  test('a file that is damaged in the middle: nothing starts on it, and it says what to do; met at work, it is said too', async () => {
    const bare = await open();
    await bare.furnish();
    const keeper = await bare.as('keeper');
    for (let i = 1; i < 60; i++) await keeper.ask('POST', '/api/pools', pool(i));
    await bare.server.close();
    const path = databaseOf(bare.data);
    const whole = readFileSync(path);
    // Where the parts lie, so that signing in still works in the second half of this.
    const raw = new Database(path, { readonly: true });
    const pages = raw.prepare("select pageno, pgsize from dbstat where name = 'parts'").all() as {
      pageno: number;
      pgsize: number;
    }[];
    raw.close();
    const breaking = (file: Buffer): Buffer => {
      const broken = Buffer.from(file);
      for (const { pageno, pgsize } of pages) randomBytes(pgsize).copy(broken, (pageno - 1) * pgsize);
      return broken;
    };
    const broken = breaking(whole);
    writeFileSync(path, broken);
    await expect(startServer({ data: bare.data, port: 0, logLevel: 'silent' })).rejects.toThrow(
      /is damaged .*Nothing was changed\. Restore the newest back-up: npm run restore/,
    );
    expect(readFileSync(path).equals(broken)).toBe(true);
    writeFileSync(path, 'this is no database at all, but it is long enough to be one. '.repeat(100));
    await expect(startServer({ data: bare.data, port: 0, logLevel: 'silent' })).rejects.toThrow(/is damaged/);

    writeFileSync(path, whole);
    await bare.open();
    const again = await bare.as('keeper');
    await sql.raw('pragma wal_checkpoint(truncate)').execute(bare.db);
    const now = readFileSync(path);
    writeFileSync(path, breaking(now));
    await sql.raw('pragma shrink_memory').execute(bare.db);
    const met = await again.call<{ title: string }>('GET', '/api/parts');
    expect([met.status, met.body.title]).toEqual([503, 'The data is damaged']);
    writeFileSync(path, now);
    await bare.server.close().catch(() => undefined);
    rmSync(bare.data, { recursive: true });
  });
  test('a missing or foreign key file is said with the key that is needed; a clock that was set back is said and written down', async () => {
    const bare = await open();
    await bare.server.close();
    const path = join(bare.data, 'secrets.key');
    renameSync(path, `${path}.away`);
    await expect(bare.open()).rejects.toThrow(
      /secrets\.key is missing, and the data is sealed with key \w{12}\. Put the file back/,
    );
    writeFileSync(path, `${randomBytes(32).toString('base64')}\n`);
    await expect(bare.open()).rejects.toThrow(
      /holds key \w{12}, but the data is sealed with key \w{12}\. Put the right file there/,
    );
    renameSync(`${path}.away`, path);
    bare.later = -7 * 86_400_000;
    await bare.open();
    const keeper = await bare.as('keeper');
    const log = await keeper.call<{ outcome: string }[]>('GET', '/api/audit?action=clock');
    expect(log.body[0]!.outcome).toMatch(/the clock is \d+ minutes behind the newest entry/);
    await bare.close();
  });
});

test('started on an empty folder it prints the code of the first account, once; SIGTERM ends it cleanly', async () => {
  const data = join(folder, 'fresh');
  const begin = async (): Promise<{ out: string; url: string; stop: () => Promise<number | null> }> => {
    const child = spawn(process.execPath, [bundled('server')], {
      env: { ...process.env, ANTHEMION_DATA: data, ANTHEMION_PORT: '0', ANTHEMION_LOG_LEVEL: 'silent' },
    });
    const ended = new Promise<number | null>((done) => child.once('exit', done));
    let out = '';
    await new Promise<void>((done) =>
      child.stdout.on('data', (part: Buffer) => {
        out += part.toString();
        if (out.includes('server ready')) done();
      }),
    );
    return {
      out,
      url: /server ready: (\S+)/.exec(out)![1]!,
      stop: () => {
        child.kill('SIGTERM');
        return ended;
      },
    };
  };
  const first = await begin();
  const code = /with the code {2}(\S+)/.exec(first.out)![1]!;
  const made = await fetch(`${first.url}/api/first-account`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ code, name: 'ada', fullName: 'Ada Brenn', password: 'seven gulls over the breakwater' }),
  });
  expect(made.status).toBe(200);
  expect(await first.stop()).toBe(0);
  const second = await begin();
  expect(second.out).not.toMatch(/code/);
  expect(await second.stop()).toBe(0);
  const db = new Database(databaseOf(data), { readonly: true });
  expect(db.prepare("select action, outcome from audit where kind = 'noted' order by n").all()).toEqual(
    ['start', 'stop', 'start', 'stop'].map((action) => ({ action, outcome: 'done' })),
  );
  db.close();
});
