import type {
  AccountAnswer,
  AuditEntry,
  GivenPassword,
  NewToken,
  Problem,
  SessionAnswer,
  SessionRow,
  TokenAnswer,
} from '@anthemion/contract';
import { readFileSync } from 'node:fs';
import { get } from 'node:http';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { Bare, PASSWORD } from '../testing/bare.ts';
import { type Caller, signInAt } from '../testing/world.ts';

const HOUR = 3_600_000;
const NEW = 'eleven herons on the slipway';
const patch = (more: Partial<AccountAnswer>) => ({
  fullName: 'Somebody',
  roles: [],
  bound: {},
  admin: false,
  disabled: false,
  ...more,
});

describe('the first account', () => {
  test('promise 9: is made with the code the server printed, once, also by many at once; it keeps the others', async () => {
    const bare = await new Bare().open();
    const { nobody } = bare;
    const account = { name: 'ada', fullName: 'Ada Brenn', password: PASSWORD };
    const post = (body: object) => nobody.call<Problem>('POST', '/api/first-account', body);
    expect((await nobody.call('GET', '/api/session')).body).toEqual({
      user: null,
      mustChange: false,
      firstStart: true,
      demoAccounts: [],
    });
    const code = bare.server.firstCode!;
    expect(code).toMatch(/^[a-z2-9]{5}(-[a-z2-9]{5}){3}$/);
    expect((await post({ ...account, code: 'abcde-abcde-abcde-abcde' })).body.findings[0]).toMatchObject({
      path: '/code',
    });
    expect((await post(account)).body.findings[0]).toMatchObject({ path: '/code' });
    for (const password of ['short', 'password password', 'ada brenn ada brenn', 'aaaaaaaaaaaaaaaa', '123456789012345'])
      expect([password, (await post({ ...account, code, password })).body.findings?.[0]?.path]).toEqual([
        password,
        '/password',
      ]);
    const race = await Promise.all(
      Array.from({ length: 12 }, (_, i) => post({ ...account, code, name: `ada${i}` }).then((a) => a.status)),
    );
    expect(race.filter((s) => s === 200)).toHaveLength(1);
    expect(race.filter((s) => s === 409)).toHaveLength(11);
    expect(await bare.db.selectFrom('users').select('admin').execute()).toEqual([{ admin: 1 }]);
    expect((await post({ ...account, code })).status).toBe(409);
    await bare.reopen();
    expect(bare.server.firstCode).toBeNull();
    await bare.server.close();
    expect(readFileSync(join(bare.data, 'anthemion.sqlite')).includes(PASSWORD)).toBe(false);
    await bare.open();
    await bare.close();
  });
});

describe('accounts', () => {
  const bare = new Bare();
  let keeper: Caller;
  beforeAll(async () => {
    await bare.open();
    keeper = await bare.account('keeper', ['designer', 'operator'], { admin: true });
  });
  afterAll(() => bare.close());
  const reset = async (name: string, password: string): Promise<Caller> => {
    const given = await bare.as(name, password);
    expect((await given.call('POST', '/api/me/password', { current: password, password: NEW })).status).toBe(200);
    return bare.as(name, NEW);
  };

  test('a new account has no role and a password that only opens the door to set another', async () => {
    const made = await keeper.ask<GivenPassword>('POST', '/api/users', { name: 'ben', fullName: 'Ben Aske' });
    const given = await bare.as('ben', made.password);
    expect((await given.call<SessionAnswer>('GET', '/api/session')).body).toMatchObject({
      mustChange: true,
      user: { roles: [], bound: {}, admin: false },
    });
    for (const path of ['/api/pools', '/api/me/sessions', '/api/openapi.json'])
      expect((await given.call('GET', path)).status).toBe(403);
    expect(
      (await given.call<Problem>('POST', '/api/me/password', { current: 'wrong', password: NEW })).body.findings[0],
    ).toMatchObject({ path: '/current' });
    expect(
      (await given.call<Problem>('POST', '/api/me/password', { current: made.password, password: made.password })).body
        .findings[0],
    ).toMatchObject({ path: '/password' });
    const ben = await reset('ben', made.password);
    // The session of the password that was given out is gone.
    expect((await given.call('GET', '/api/me/sessions')).status).toBe(401);
    expect((await ben.call('GET', '/api/pools')).status).toBe(403);
    expect((await ben.call<Problem>('GET', '/api/pools')).body.detail).toMatch(/no role yet/);
    expect(
      (await keeper.call<Problem>('POST', '/api/users', { name: 'ben', fullName: 'B' })).body.findings[0],
    ).toMatchObject({ path: '/name' });
  });

  test('promise 9: a role that is given or taken counts from the next request on, and streams end with it', async () => {
    const made = await keeper.ask<GivenPassword>('POST', '/api/users', { name: 'col', fullName: 'Col' });
    const col = await reset('col', made.password);
    expect((await col.call('GET', '/api/pools')).status).toBe(403);
    await keeper.ask('PATCH', '/api/users/col', patch({ roles: ['onlooker'] }));
    expect((await col.call('GET', '/api/pools')).status).toBe(200);
    const ended = streamEnd(bare.server.url, col.cookie);
    await ended.open;
    await keeper.ask('PATCH', '/api/users/col', patch({ roles: [] }));
    await ended.end;
    expect((await col.call('GET', '/api/pools')).status).toBe(403);
    await keeper.ask('PATCH', '/api/users/col', patch({ roles: ['onlooker'], disabled: true }));
    expect((await col.call('GET', '/api/pools')).status).toBe(401);
    await expect(signInAt(bare.server.url, 'col', NEW)).rejects.toThrow('401');
    await keeper.ask('PATCH', '/api/users/col', patch({ roles: ['onlooker'] }));
    expect((await (await bare.as('col', NEW)).call('GET', '/api/pools')).status).toBe(200);
  });

  test('a password is given anew by who keeps the accounts; its sessions end; an account is deleted with all it holds', async () => {
    const made = await keeper.ask<GivenPassword>('POST', '/api/users', {
      name: 'dag',
      fullName: 'Dag',
      roles: ['onlooker'],
    });
    const dag = await reset('dag', made.password);
    const token = await dag.ask<NewToken>('POST', '/api/me/tokens', { name: 'night', days: 1 });
    const again = await keeper.ask<GivenPassword>('POST', '/api/users/dag/reset');
    expect((await dag.call('GET', '/api/pools')).status).toBe(401);
    await expect(signInAt(bare.server.url, 'dag', NEW)).rejects.toThrow('401');
    expect(
      (await (await bare.as('dag', again.password)).call<SessionAnswer>('GET', '/api/session')).body.mustChange,
    ).toBe(true);
    await keeper.ask('DELETE', '/api/users/dag');
    expect((await bare.byToken(token.token).call('GET', '/api/pools')).status).toBe(401);
    expect((await keeper.call('DELETE', '/api/users/dag')).status).toBe(404);
  });

  test('there is always somebody who keeps the accounts', async () => {
    expect((await keeper.call<Problem>('DELETE', '/api/users/keeper')).status).toBe(409);
    expect((await keeper.call('PATCH', '/api/users/keeper', patch({ admin: false }))).status).toBe(409);
    expect((await keeper.call('PATCH', '/api/users/keeper', patch({ admin: true, disabled: true }))).status).toBe(409);
    expect((await keeper.ask<AccountAnswer[]>('GET', '/api/users')).some((u) => u.name === 'keeper' && u.admin)).toBe(
      true,
    );
  });

  test('sessions are kept here: listed, ended one by one, by sign-out, by idle time and by age; a new word at each sign-in', async () => {
    const eve = await bare.account('eve', ['onlooker']);
    const other = await bare.as('eve');
    expect(other.cookie).not.toBe(eve.cookie);
    const rows = await eve.ask<SessionRow[]>('GET', '/api/me/sessions');
    expect(rows.map((r) => r.own).sort()).toEqual([false, true]);
    expect(JSON.stringify(rows)).not.toContain(eve.cookie.split('=')[1]);
    await eve.ask('DELETE', `/api/me/sessions/${rows.find((r) => !r.own)!.id}`);
    expect((await other.call('GET', '/api/pools')).status).toBe(401);
    expect((await eve.call('DELETE', `/api/me/sessions/${rows.find((r) => !r.own)!.id}`)).status).toBe(404);
    // Somebody else's session cannot be ended by its id.
    const keepers = (await keeper.ask<SessionRow[]>('GET', '/api/me/sessions'))[0]!;
    expect((await eve.call('DELETE', `/api/me/sessions/${keepers.id}`)).status).toBe(404);
    expect((await keeper.ask<SessionRow[]>('GET', '/api/sessions')).some((s) => s.account === 'eve')).toBe(true);

    await eve.ask('DELETE', '/api/session');
    expect((await eve.call('GET', '/api/pools')).status).toBe(401);
    const idle = await bare.as('eve');
    bare.later += HOUR + 1000;
    expect(await idle.call('GET', '/api/pools')).toMatchObject({ status: 401, body: { detail: /too long/ } });
    const old = await bare.as('eve');
    for (let h = 0; h < 13; h++) {
      bare.later += 55 * 60_000;
      await old.call('GET', '/api/pools');
    }
    bare.later += 10 * 60_000;
    expect((await old.call('GET', '/api/pools')).status).toBe(401);
    keeper = await bare.as('keeper');
    expect(await keeper.ask<object>('POST', '/api/sessions/end', { account: 'eve' })).toHaveProperty('ended');
    // A clock that is set back ends what was begun after it.
    const late = await bare.as('eve');
    bare.later -= HOUR;
    expect(await late.call('GET', '/api/pools')).toMatchObject({ status: 401, body: { detail: /clock/ } });
    keeper = await bare.as('keeper');
  });

  test('a cookie that was made up, cut, or from before a revoke signs nobody in', async () => {
    for (const cookie of ['anthemion=made-up', 'anthemion=', `anthemion=${'x'.repeat(5000)}`, 'anthemion=%00%ff;;;='])
      expect((await fetch(`${bare.server.url}/api/pools`, { headers: { cookie } })).status).toBe(401);
  });

  test('tokens are for scripts: they have a scope, an end, their owner’s roles and no more, and never a person’s rights', async () => {
    const fay = await bare.account('fay', ['designer', 'operator']);
    const made = await fay.ask<NewToken>('POST', '/api/me/tokens', { name: 'nightly', roles: ['designer'], days: 2 });
    expect(made.token).toMatch(/^ant_[\w-]{43}$/);
    expect(JSON.stringify(await fay.ask<TokenAnswer[]>('GET', '/api/me/tokens'))).not.toContain(made.token);
    const script = bare.byToken(made.token);
    const pool = (name: string) => ({ name, kind: 'vni', ranges: ['70000-70010'] });
    expect((await script.call('POST', '/api/pools', pool('one'))).status).toBe(200);
    expect((await script.call('POST', '/api/switches/x/read')).status).toBe(403);
    for (const [method, path] of [
      ['GET', '/api/me/sessions'],
      ['POST', '/api/me/tokens'],
      ['GET', '/api/users'],
    ] as const)
      expect((await script.call(method, path, method === 'POST' ? { name: 'x', days: 1 } : undefined)).status).toBe(
        403,
      );
    const looks = bare.byToken((await fay.ask<NewToken>('POST', '/api/me/tokens', { name: 'looks', days: 1 })).token);
    expect((await looks.call('GET', '/api/pools')).status).toBe(200);
    expect((await looks.call('DELETE', '/api/pools/one')).status).toBe(403);
    // The owner loses the role: so does the token.
    await keeper.ask('PATCH', '/api/users/fay', patch({ roles: ['operator'] }));
    expect((await script.call('DELETE', '/api/pools/one')).status).toBe(403);
    await keeper.ask('PATCH', '/api/users/fay', patch({ roles: ['designer'] }));
    expect((await script.call('DELETE', '/api/pools/one')).status).toBe(200);
    const [listed] = (await keeper.ask<TokenAnswer[]>('GET', '/api/tokens')).filter((t) => t.name === 'looks');
    await keeper.ask('DELETE', `/api/tokens/${listed!.id}`);
    expect((await looks.call('GET', '/api/pools')).status).toBe(401);
    bare.later += 49 * HOUR;
    expect(await script.call('GET', '/api/pools')).toMatchObject({ status: 401, body: { detail: /run out/ } });
    bare.later -= 49 * HOUR;
    for (const authorization of ['Bearer', 'Basic x', `Bearer ant_${'x'.repeat(43)}`, 'Bearer  two words'])
      expect((await fetch(`${bare.server.url}/api/pools`, { headers: { authorization } })).status).toBe(401);
  });

  test('the second person is asked for by default; that it was switched off, and by whom, is written down', async () => {
    expect(await keeper.ask('GET', '/api/settings')).toEqual({ secondPerson: true });
    const fay = await bare.as('fay');
    expect((await fay.call('PUT', '/api/settings', { secondPerson: false })).status).toBe(403);
    await keeper.ask('PUT', '/api/settings', { secondPerson: false });
    await keeper.ask('PUT', '/api/settings', { secondPerson: true });
    const log = await keeper.ask<AuditEntry[]>('GET', '/api/audit?action=PUT%20/api/settings');
    expect(log.map((e) => [e.account, e.detail, e.outcome.slice(0, 7)])).toEqual([
      ['keeper', '{"secondPerson":true}', 'done'],
      ['keeper', '{"secondPerson":false}', 'done'],
      ['fay', '', 'refused'],
    ]);
  });
});

describe('tries to sign in', () => {
  const sign = async (url: string, name: string, password: string, from?: string): Promise<number> =>
    (
      await fetch(`${url}/api/session`, {
        method: 'POST',
        headers: { 'content-type': 'application/json', ...(from === undefined ? {} : { 'x-forwarded-for': from }) },
        body: JSON.stringify({ name, password }),
      })
    ).status;
  test('are limited by address, also behind a proxy that is trusted, and by account from everywhere', async () => {
    const bare = await new Bare().open({ signInTries: 5, accountTries: 20, trustedProxies: ['127.0.0.1'] });
    await bare.account('gil', ['onlooker']);
    const { url } = bare.server;
    const statuses: number[] = [];
    for (let i = 0; i < 7; i++) statuses.push(await sign(url, `nobody${i}`, 'wrong', '198.51.100.7'));
    expect(statuses).toEqual([401, 401, 401, 401, 401, 429, 429]);
    // What the client itself puts before the proxy's word does not count, nor does another address suffer.
    expect(await sign(url, 'nobody', 'wrong', '192.0.2.1, 198.51.100.7')).toBe(429);
    expect(await sign(url, 'nobody', 'wrong', '198.51.100.8')).toBe(401);
    // Neighbours within an IPv6 network of one customer are one address.
    for (let i = 0; i < 5; i++) await sign(url, `nobody${i}`, 'wrong', `2001:db8:0:1::${i + 1}`);
    expect(await sign(url, 'nobody', 'wrong', '2001:db8:0:1::99')).toBe(429);
    const many: number[] = [];
    for (let i = 0; i < 22; i++) many.push(await sign(url, 'GIL', 'wrong', `203.0.113.${i + 1}`));
    expect(many.slice(0, 20).every((s) => s === 401)).toBe(true);
    expect(many.slice(20)).toEqual([429, 429]);
    // That a limit was reached stands in the log once, not each try beyond it.
    const over = await bare.db
      .selectFrom('audit')
      .select('outcome')
      .where('outcome', 'like', '%Too many tries%')
      .execute();
    expect(over.map((o) => /your address|this account/.exec(o.outcome)![0])).toEqual([
      'your address',
      'your address',
      'this account',
    ]);
    await bare.close();
  });
  test('a header of forwarding from who is no trusted proxy counts for nothing', async () => {
    const bare = await new Bare().open({ signInTries: 3 });
    const statuses: number[] = [];
    for (let i = 0; i < 5; i++) statuses.push(await sign(bare.server.url, 'x', 'wrong', `198.51.100.${i}`));
    expect(statuses).toEqual([401, 401, 401, 429, 429]);
    await bare.close();
  });
  test('each is in the audit log, with address and outcome and without the password', async () => {
    const bare = await new Bare().open({ trustedProxies: ['127.0.0.1'] });
    const keeper = await bare.account('hal', [], { admin: true });
    await sign(bare.server.url, 'hal', 'a wrong password of mine', '198.51.100.9');
    await sign(bare.server.url, 'hal', PASSWORD, '198.51.100.9');
    const log = await keeper.ask<AuditEntry[]>('GET', '/api/audit?action=POST%20/api/session&limit=2');
    expect(log.map((e) => [e.via, e.address, e.detail, e.outcome])).toEqual([
      ['nobody', '198.51.100.9', '{"name":"hal"}', 'done'],
      ['nobody', '198.51.100.9', '{"name":"hal"}', 'refused: Name and password do not match an account.'],
    ]);
    const all = (await keeper.call<string>('GET', '/api/audit/export')).body;
    expect(all).not.toContain('password of mine');
    expect(all.trim().split('\n').length).toBeGreaterThan(4);
    await bare.close();
  });
});

/** An event stream: when it is open, and when the server ends it. */
function streamEnd(url: string, cookie: string): { readonly open: Promise<void>; readonly end: Promise<void> } {
  let opened = (): void => undefined;
  const open = new Promise<void>((done) => (opened = done));
  const end = new Promise<void>((done) => {
    get(`${url}/api/events`, { headers: { cookie } }, (answer) => {
      opened();
      answer.resume();
      answer.on('end', done);
    });
  });
  return { open, end };
}
