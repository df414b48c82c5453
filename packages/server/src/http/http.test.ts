import { spawnSync } from 'node:child_process';
import { once } from 'node:events';
import { createServer, type AddressInfo } from 'node:net';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  EVENT_TOPICS,
  ROUTES,
  type ChangeAnswer,
  type Problem,
  type RolloutAnswer,
  type RoutingAnswer,
  type SessionAnswer,
} from '@anthemion/contract';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { startServer, type RunningServer } from '../server.ts';
import { makeAccount } from '../services/accounts.ts';
import { beginFabric } from '../services/fabrics.ts';
import { putSetting } from '../store/settings.ts';
import { bundled } from '../testing/bundledProgram.ts';
import { Caller, signInAt } from '../testing/world.ts';
import { buildEdits, INES, serialOf } from '../testing/smallHouse.ts';
import { addSwitches } from '../store/switches.ts';
import { addPool } from '../store/pools.ts';
import { POOLS, type Answer } from '@anthemion/core';

const folder = mkdtempSync(join(tmpdir(), 'http-'));
let server: RunningServer;
let ines: Caller;
let bo: Caller;
let change: string;
beforeAll(async () => {
  server = await startServer({ data: join(folder, 'data'), port: 0, logLevel: 'silent' });
  const { db } = server.house;
  for (const [name, roles] of [
    ['ines', ['designer', 'operator']],
    ['bo', ['approver', 'designer']],
    ['kit', ['designer', 'scripter']],
  ] as const)
    await makeAccount(db, { name, fullName: name, roles, password: 'a long password' }, false, '');
  await putSetting(db, 'secondPerson', 'true');
  for (const p of POOLS) await addPool(db, p, '');
  await addSwitches(
    db,
    ['spine-1', 'leaf-1', 'leaf-2', 'leaf-3'].map((s) => ({
      serial: serialOf('tarn', s),
      model: 'TV-S32C',
      address: '127.0.0.1',
      port: 1,
      location: '',
    })),
  );
  const begun = await beginFabric(server.house, { name: 'tarn', namePrefix: 'tn', title: '' }, INES);
  change = begun.change;
  const as = async (name: string) => new Caller(() => server.url, await signInAt(server.url, name, 'a long password'));
  [ines, bo] = [await as('ines'), await as('bo')];
  await ines.edit(change, ...buildEdits('tarn'));
});
afterAll(async () => {
  await server.close();
  rmSync(folder, { recursive: true, force: true });
});

describe('questions to the network', () => {
  const asked = (question: string, of: string | null = change) =>
    ines.call<Answer>(
      'GET',
      `/api/fabrics/tarn/ask?question=${encodeURIComponent(question)}${of === null ? '' : `&change=${of}`}`,
    );

  test('of a change, with the lines of its texts; of what is live, which is nothing yet', async () => {
    const answer = (await asked('routes tn-lf-01')).body;
    if (answer.ask !== 'routes') throw new Error(answer.ask);
    const far = answer.routes.find((r) => r.kind === 'bgp')!;
    expect([far.unsure, far.ways[0]!.path.length > 0]).toEqual([null, true]);
    expect(far.because[0]!.place).toMatchObject({ host: 'tn-lf-01', file: 'frr.conf' });
    expect(await asked('routes tn-lf-01', null)).toMatchObject({ status: 422 });
  });

  test('what a change makes otherwise, each answer with the edit that did it', async () => {
    const answer = (await asked('differs')).body;
    if (answer.ask !== 'differs') throw new Error(answer.ask);
    expect(answer.total).toBeGreaterThan(4);
    expect(answer.rows.every((r) => r.was === '' && (r.by ?? '') !== '')).toBe(true);
    expect((await asked('differs', null)).body).toMatchObject({ total: 0 });
  });

  test.each([
    ['', /a question is/],
    ['routes', /a question is/],
    ['routes nowhere', /there is no switch nowhere/],
    ['hears vni 16777216', /a question is/],
    [`reach ${'x'.repeat(300)} y`, /there is no server/],
  ])('“%s” is refused at the field, with how one asks', async (question, why) => {
    const { status, body } = await asked(question);
    expect([status, (body as unknown as Problem).detail]).toEqual([422, expect.stringMatching(why)]);
  });
});

describe('who speaks with whom', () => {
  const routing = (query: string) => ines.call<RoutingAnswer>('GET', `/api/fabrics/tarn/routing${query}`);

  test('of a change, of one switch of it, and of what is live, which is nothing yet', async () => {
    const { body } = await routing(`?change=${change}`);
    const all = body.neighbours.length;
    expect([all > 1, body.counts]).toEqual([true, { up: all, down: 0, uncertain: 0 }]);
    expect(body.policies.map((p) => p.name)).toEqual(['CONNECTED', 'LOOPBACKS']);
    const one = (await routing(`?change=${change}&of=tn-lf-01`)).body;
    expect(one.neighbours).toEqual(body.neighbours.filter((r) => [r.a.host, r.b!.host].includes('tn-lf-01')));
    expect([one.counts.up, one.neighbours.length < all]).toEqual([one.neighbours.length, true]);
    expect((await routing('')).body).toEqual({
      counts: { up: 0, down: 0, uncertain: 0 },
      neighbours: [],
      policies: [],
    });
    expect((await routing('?change=nothing')).status).toBe(404);
  });
});

describe('versions', () => {
  const must = Object.entries(ROUTES).flatMap(([name, r]) => ('ifMatch' in r && r.ifMatch === 'must' ? [name] : []));
  test('what alters or approves a change rests on a version that was seen', () => {
    expect(must).toEqual([
      'PATCH /api/changes/:id',
      'DELETE /api/changes/:id/edits/:position',
      'POST /api/changes/:id/edits/:position/keep',
      'POST /api/changes/:id/approve',
      'POST /api/changes/:id/ask',
      'POST /api/changes/:id/withdraw',
    ]);
  });
  test.each(must)(
    '%s without a version is refused (428), with an old one too (412), and nothing is done',
    async (name) => {
      const [method, path] = name.replace(':id', change).replace(':position', '1').split(' ') as [string, string];
      const caller = name.includes('approve') ? bo : ines;
      const body = method === 'PATCH' ? { title: 'Another', reason: '', ticket: '' } : {};
      const before = await ines.ask<ChangeAnswer>('GET', `/api/changes/${change}`);
      expect((await caller.call(method, path, body)).status).toBe(428);
      expect((await caller.call(method, path, body, { 'if-match': '"1"' })).status).toBe(412);
      expect((await caller.call(method, path, body, { 'if-match': 'W/"x"' })).status).toBe(400);
      expect(await ines.ask('GET', `/api/changes/${change}`)).toEqual(before);
    },
  );
  test('the second-person rule: the author, and whoever had a hand in it, cannot approve; retitling asks again', async () => {
    const denied = await bo.attempt<Problem>('POST', `/api/changes/${change}/approve`, {});
    // Bo has not touched it yet, so may; but first an edit of Bo's.
    expect(denied.status).toBe(200);
    const seen = await bo.ask<ChangeAnswer>('PATCH', `/api/changes/${change}`, {
      title: 'Build it',
      reason: '',
      ticket: '',
    });
    expect([seen.state, seen.approvals, seen.hands]).toEqual(['Proven', [], ['bo', 'ines']]);
    expect(await bo.attempt('POST', `/api/changes/${change}/approve`, {})).toMatchObject({
      status: 403,
      body: { detail: expect.stringContaining('bo had a hand in this change') as string },
    });
  });
});

describe('lists', () => {
  test('come in pages; the Link header leads to the next one', async () => {
    const titles = Array.from({ length: 7 }, (_, i) => `Listed ${i}`);
    for (const title of titles)
      await ines.ask('POST', '/api/changes', { fabric: 'tarn', title, reason: '', ticket: '' });
    const got: string[] = [];
    let path = '/api/changes?limit=3';
    let pages = 0;
    for (; path; pages++) {
      const page = await ines.call<ChangeAnswer[]>('GET', path);
      expect(page.body.length).toBeLessThanOrEqual(3);
      got.push(...page.body.map((c) => c.title));
      path = /^<([^>]+)>; rel="next"/.exec(page.headers.get('link') ?? '')?.[1] ?? '';
    }
    expect(pages).toBe(3);
    expect(got.sort()).toEqual(['Build it', ...titles].sort());
    for (const bad of ['0', '1001', 'x', '1.5'])
      expect((await ines.call('GET', `/api/changes?limit=${bad}`)).status).toBe(400);
    for (const [name, route] of Object.entries(ROUTES))
      if ('paged' in route && route.access === 'signed in') {
        const filled = name.split(' ')[1]!.replace(':name', 'tarn').replace(':id', 'x');
        expect([name, (await ines.call('GET', `${filled}?limit=1`)).status]).toEqual([name, 200]);
      }
  });
});

test('text that runs programs on the switch takes a role of its own', async () => {
  const { id } = await ines.ask<ChangeAnswer>('POST', '/api/changes', {
    fabric: 'tarn',
    title: 'Script',
    reason: '',
    ticket: '',
  });
  await ines.edit(id, ...buildEdits('tarn').slice(0, 2));
  const snippet = (more: object) => ({
    edits: [
      {
        kind: 'putSnippet',
        snippet: { name: 'odd', file: 'interfaces', on: 'all', text: "{{ 'post' }}-up reboot", ...more },
      },
    ],
  });
  const edits = `/api/changes/${id}/edits`;
  expect(await ines.call('POST', edits, snippet({}))).toMatchObject({
    status: 422,
    body: { findings: [{ rule: 'text-runs-elsewhere', path: '/edits/0/snippet/text' }] },
  });
  expect(await ines.call('POST', edits, snippet({ runsElsewhere: true }))).toMatchObject({
    status: 422,
    body: { findings: [{ rule: 'snippet-permission', path: '/edits/0/snippet/runsElsewhere' }] },
  });
  const kit = new Caller(() => server.url, await signInAt(server.url, 'kit', 'a long password'));
  expect((await kit.call('POST', edits, snippet({ runsElsewhere: true }))).status).toBe(200);
  // Not even then does code of a template engine pass.
  expect(await kit.call('POST', edits, snippet({ text: "{{ '$' }}{{ '{1}' }}", runsElsewhere: true }))).toMatchObject({
    status: 422,
    body: { findings: [{ rule: 'text-refused' }] },
  });
  expect(await kit.call('POST', edits, snippet({ text: "{% include '../data/cookie.key' %}" }))).toMatchObject({
    status: 422,
  });
});

test('what changes is told to everybody who listens, by name', async () => {
  const cookie = await signInAt(server.url, 'bo', 'a long password');
  const stream = await fetch(`${server.url}/api/events`, { headers: { cookie } });
  const reader = stream.body!.getReader();
  const { id } = await ines.ask<ChangeAnswer>('POST', '/api/changes', {
    fabric: 'tarn',
    title: 'Heard',
    reason: '',
    ticket: '',
  });
  expect(new TextDecoder().decode((await reader.read()).value)).toBe(
    `data: {"topic":"changes","id":"${id}","fabric":"tarn"}\n\n`,
  );
  await reader.cancel();
  expect((await fetch(`${server.url}/api/events`)).status).toBe(401);
});

test('promise 7: what is told between the answers of a page and the begin of its stream is told at its begin', async () => {
  const cookie = await signInAt(server.url, 'bo', 'a long password');
  const bo = new Caller(() => server.url, cookie);
  const { told } = await bo.ask<SessionAnswer>('GET', '/api/session');
  const { id } = await ines.ask<ChangeAnswer>('POST', '/api/changes', {
    fabric: 'tarn',
    title: 'Missed',
    reason: '',
    ticket: '',
  });
  const first = async (after: number, count: number): Promise<string[]> => {
    const stream = await fetch(`${server.url}/api/events?after=${after}`, { headers: { cookie } });
    const reader = stream.body!.getReader();
    let said = '';
    while (said.split('\n\n').length <= count) said += new TextDecoder().decode((await reader.read()).value);
    await reader.cancel();
    return said.split('\n\n').slice(0, count);
  };
  expect(await first(told!, 1)).toEqual([`data: {"topic":"changes","id":"${id}","fabric":"tarn"}`]);
  // A number of another run, or of long ago: everything may be otherwise.
  const everything = EVENT_TOPICS.map((topic) => `data: {"topic":"${topic}"}`);
  for (const strange of [told! - 5000, told! + 5000])
    expect(await first(strange, everything.length)).toEqual(everything);
});

describe('promise 5: what fails beside the work ends nothing', () => {
  test('an answer that cannot be made in the event stream: the stream goes on, and so does the server', async () => {
    const fabric = await ines.ask<ChangeAnswer>('GET', `/api/changes/${change}`);
    const kit = new Caller(() => server.url, await signInAt(server.url, 'kit', 'a long password'));
    expect(fabric.state).toBe('Proven');
    await putSetting(server.house.db, 'secondPerson', 'false');
    await bo.ask('POST', `/api/changes/${change}/approve`, {});
    // Nobody listens where the switches should be: the rollout begins, and stops by itself.
    const begun = await ines.ask<RolloutAnswer>('POST', '/api/rollouts', { change, undoSeconds: 10 });
    const faults: unknown[] = [];
    const note = (error: unknown): void => void faults.push(error);
    process.on('unhandledRejection', note);
    const whole = server.rollouts.answer.bind(server.rollouts);
    let calls = 0;
    server.rollouts.answer = (id) => (++calls === 2 ? Promise.reject(new Error('no disk')) : whole(id));
    const stream = await fetch(`${server.url}/api/rollouts/${begun.id}/events`, {
      headers: { cookie: await signInAt(server.url, 'ines', 'a long password') },
    });
    const reader = stream.body!.getReader();
    // The first message is the one that fails; the next one comes.
    await new Promise((done) => setTimeout(done, 150));
    server.house.events.tell('rollouts', begun.id);
    expect(new TextDecoder().decode((await reader.read()).value)).toContain(`"id":"${begun.id}"`);
    await reader.cancel();
    server.rollouts.answer = whole;
    process.off('unhandledRejection', note);
    expect(faults).toEqual([]);
    expect((await kit.call('GET', '/api/session')).status).toBe(200);
  });
  test('a connection is kept for longer than a proxy before us keeps its own, so none is cut while it is used', async () => {
    const answer = await fetch(`${server.url}/api/session`);
    const seconds = Number(/timeout=(\d+)/.exec(answer.headers.get('keep-alive') ?? '')?.[1]);
    expect(seconds).toBeGreaterThan(60);
  });
  test('a port in use is said in one line', async () => {
    const holder = createServer().listen(0, '127.0.0.1');
    await once(holder, 'listening');
    const { port } = holder.address() as AddressInfo;
    const run = (data: string) =>
      spawnSync(process.execPath, [bundled('server')], {
        encoding: 'utf8',
        env: { ...process.env, ANTHEMION_DATA: data, ANTHEMION_PORT: String(port) },
      });
    const second = run(join(folder, 'port'));
    expect([second.status, second.stderr]).toEqual([
      1,
      `Port ${port} is in use. Stop what listens there, or set ANTHEMION_PORT.\n`,
    ]);
    const taken = run(join(folder, 'data'));
    expect([taken.status, taken.stderr]).toEqual([
      1,
      `Another server works on ${join(folder, 'data')}. Stop it first, or choose another data folder.\n`,
    ]);
    holder.close();
  });
});
