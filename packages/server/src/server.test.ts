import type {
  ChangeAnswer,
  FabricStateAnswer,
  InventoryAnswer,
  LiveAnswer,
  PoolAnswer,
  Problem,
  RolloutAnswer,
  TextAnswer,
} from '@anthemion/contract';
import { skerryIntent, type Edit, type Network } from '@anthemion/core';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { openWorld, restOf, type Caller, type World } from './testing/world.ts';

let world: World;
let ines: Caller;
let bo: Caller;
beforeAll(async () => {
  world = await openWorld();
  [ines, bo] = [await world.as('ines'), await world.as('bo')];
});
afterAll(() => world.close());

const open = (title: string) =>
  ines.ask<ChangeAnswer>('POST', '/api/changes', { fabric: 'skerry', title, reason: '', ticket: '' });
const network = (name: string, vlan: number, more: Partial<Network> = {}): Edit => ({
  kind: 'addNetwork',
  network: { name, vrf: 'tides', vlan, subnetLength: 24, racks: [1], ...more },
});
const runningOn = (serial: string): string =>
  readFileSync(join(world.folder, 'bench/switches', serial, 'run/running/frr.conf'), 'utf8');
const seating = skerryIntent().seating;

/** Approves a change and rolls it out to the end. */
async function rollOut(change: string, options: object = {}): Promise<RolloutAnswer> {
  await bo.ask('POST', `/api/changes/${change}/approve`, { note: '' });
  const begun = await ines.ask<RolloutAnswer>('POST', '/api/rollouts', { change, undoSeconds: 120, ...options });
  return restOf(ines, begun.id);
}

test('the password of the switches is neither sent nor stored in the clear', async () => {
  const { db } = world.server.house;
  const stored = [
    await db.selectFrom('secrets').selectAll().execute(),
    await db.selectFrom('switch_accounts').selectAll().execute(),
  ];
  expect(JSON.stringify(stored)).toContain('bench');
  expect(JSON.stringify(stored)).not.toContain('a password for tests');
  for (const path of [
    '/api/switches',
    '/api/switch-accounts',
    '/api/session',
    '/api/settings',
    '/api/users',
    '/api/audit',
  ])
    expect(JSON.stringify((await ines.call('GET', path)).body)).not.toMatch(
      /a password for tests|"hash":"[^0-9a-f]|"salt"/,
    );
});

describe('bad input', () => {
  test.each<[string, string, unknown, string, RegExp]>([
    [
      'POST',
      '/api/pools',
      { name: 'clash', kind: 'ipv4', ranges: ['10.255.0.128/25'] },
      '/ranges/0',
      /overlaps 10\.255\.0\.0\/24 of pool loopbacks/,
    ],
    ['POST', '/api/pools', { name: 'bad-as', kind: 'asn', ranges: ['0-10'] }, '/ranges/0', /AS number 0 is reserved/],
    [
      'PUT',
      '/api/pools/loopbacks',
      { name: 'loopbacks', kind: 'ipv4', ranges: ['10.255.0.0/30'] },
      '/ranges/0',
      /would be left outside/,
    ],
    [
      'PUT',
      '/api/rack-patterns/wide',
      { name: 'wide', kind: 'single', leafModel: 'TV-L48F', serverPorts: 'p1-p60', uplinkPorts: 'p61-p64' },
      '/serverPorts',
      /has no port p57/,
    ],
    [
      'PUT',
      '/api/fabric-patterns/huge',
      {
        name: 'huge',
        description: '',
        spines: { count: 4, model: 'TV-S32C' },
        parallel: 1,
        racks: [{ pattern: 'single-48', count: 40 }],
        settings: {},
      },
      '/spines/model',
      /need 40 ports on every spine; TV-S32C has 32/,
    ],
    ['POST', '/api/switches/import', { csv: 'serial,model\nABC1,TV-L48F' }, '/csv', /column address is missing/],
    [
      'POST',
      '/api/switches/import',
      { csv: 'serial,model,address\nABC1,TV-L48F,10.0.0.1\nABC1,TV-L48F,10.0.0.2' },
      '/csv/3/serial',
      /stands on line 2 already/,
    ],
    ['POST', '/api/fabrics', { name: 'skerry', namePrefix: 'zz' }, '/name', /already a fabric skerry/],
    ['POST', '/api/fabrics', { name: 'No Good', namePrefix: 'zz' }, '/name', /lower-case/],
  ])('%s %s %j points to %s', async (method, path, body, pointer, says) => {
    const { status, body: problem, headers } = await ines.call<Problem>(method, path, body);
    expect(status).toBe(422);
    expect(headers.get('content-type')).toContain('application/problem+json');
    expect(problem.findings[0]).toMatchObject({ path: pointer, message: expect.stringMatching(says) as string });
    expect(problem.findings[0]!.cure ?? problem.findings[0]!.message).toMatch(/\w/);
  });

  test('edits: each wrong field is pointed to, nothing is kept of a refused step, and nothing is a 500', async () => {
    const { id } = await open('Wrong things');
    const wrong: [unknown, string, RegExp][] = [
      [network('a', 900, { vni: 0 }), '/edits/0/network/vni', /1 or more/],
      [network('a', 900, { vni: 16777216 }), '/edits/0/network/vni', /16777215 or less/],
      [network('a', 212), '/edits/0/network/vlan', /echo-store/],
      [network('a', 5000), '/edits/0/network/vlan', /4094/],
      [network('a', 900, { subnet: '10.32.0.64/26' }), '', /held by|lies inside/],
      [
        {
          kind: 'putSnippet',
          snippet: { name: 'spin', file: 'frr.conf', on: 'all', text: '{% for i in (1..900000000) %}x{% endfor %}' },
        },
        '/edits/0/snippet/text',
        /takes more than it may/,
      ],
      [{ kind: 'takeSeat', seat: 'leaf-1', serial: 'NOBODY-1' }, '/edits/0/serial', /not among the known/],
      [{ kind: 'conquer' }, '/edits/0/kind', /kind/],
      ['nonsense', '/edits/0', /./],
    ];
    for (const [edit, pointer, says] of wrong) {
      const { status, body } = await ines.call<Problem & ChangeAnswer>('POST', `/api/changes/${id}/edits`, {
        edits: [edit],
      });
      if (pointer === '') {
        // A subnet another network holds is drawn against the pool: the edit stands, the proof names the holder.
        expect(body.proof?.findings.map((f) => f.message).join()).toMatch(says);
        await ines.ask('DELETE', `/api/changes/${id}/edits/1`);
        continue;
      }
      expect([status, body.findings?.[0]?.path]).toEqual([422, pointer]);
      expect(body.findings.map((f) => f.message).join()).toMatch(says);
    }
    const both = await ines.call<Problem>('POST', `/api/changes/${id}/edits`, {
      edits: [network('good', 901), network('bad', 212)],
    });
    expect(both.body.findings[0]!.path).toBe('/edits/1/network/vlan');
    expect((await ines.ask<ChangeAnswer>('GET', `/api/changes/${id}`)).steps).toEqual([]);
    await ines.ask('POST', `/api/changes/${id}/withdraw`);
    expect(
      (
        await fetch(`${world.server.url}/api/session`, {
          method: 'POST',
          headers: { 'content-type': 'application/json' },
          body: '{"name":',
        })
      ).status,
    ).toBe(400);
  });
});

describe('the demo', () => {
  test('Skerry is live and runs on the bench as meant; the draft’s mistake is named with its cure', async () => {
    const skerry = await ines.ask<FabricStateAnswer>('GET', '/api/fabrics/skerry');
    expect(skerry).toMatchObject({ revision: 1, spines: 4, leaves: 10, racks: 8 });
    const changes = await ines.ask<ChangeAnswer[]>('GET', '/api/changes');
    const draft = await ines.ask<ChangeAnswer>(
      'GET',
      `/api/changes/${changes.find((c) => c.state === 'Drafting')!.id}`,
    );
    expect(draft.proof?.findings).toHaveLength(1);
    expect(draft.proof?.findings[0]).toMatchObject({
      rule: 'mtu-carries-vxlan',
      subjects: ['network:chart-press'],
      cure: expect.stringContaining('9166') as string,
    });
    expect(draft.proof?.findings[0]?.place).toMatchObject({ file: 'interfaces' });
    const live = await ines.ask<LiveAnswer>('POST', '/api/fabrics/skerry/read');
    expect(live.seats.map((s) => s.health)).toEqual(Array(14).fill('as meant'));
    expect(live.sessions).toMatchObject({ meant: 40, up: 40, down: [], unread: 0 });
    expect(live.links).toMatchObject({ planned: 40, up: 40, others: [] });
    expect(live.causes).toEqual([]);
  });

  test('text comes with the origin of each line', async () => {
    const text = await ines.ask<TextAnswer>('GET', '/api/fabrics/skerry/text/leaf-7a');
    const lines = text.meant!['interfaces']!.split('\n');
    const at = lines.findIndex((l) => l.includes('vxlan-id 10004'));
    expect(text.origins['interfaces']![at]).toMatchObject({
      subject: 'network:echo-store',
      value: { text: '10004', pool: 'overlay' },
    });
    expect(text.running).toEqual(text.meant);
    const blank = (l: string) => l.trim() === '' || /^[#!]/.test(l.trim());
    for (const [file, origins] of Object.entries(text.origins))
      text.meant![file]!.split('\n').forEach((l, i) => expect([l, blank(l) || origins[i] !== null]).toEqual([l, true]));
  });
});

describe('changes', () => {
  test('two open changes draw different values; the first to go live makes the other stale and rebases it', async () => {
    const first = await open('First');
    const second = await open('Second');
    const a = await ines.edit(first.id, network('storm-log', 920));
    const b = await ines.edit(second.id, network('fog-log', 921), {
      kind: 'changeNetwork',
      name: 'almanac',
      network: { ...skerryIntent().networks.find((n) => n.name === 'almanac')!, mtu: 8000 },
    });
    const drawn = (c: ChangeAnswer) => c.drawn.map((e) => `${e.pool} ${e.value}`);
    expect(drawn(a).filter((v) => drawn(b).includes(v))).toEqual([]);
    expect(a.state).toBe('Proven');
    await ines.edit(first.id, {
      kind: 'changeNetwork',
      name: 'almanac',
      network: { ...skerryIntent().networks.find((n) => n.name === 'almanac')!, mtu: 8500 },
    });
    const self = await ines.attempt<Problem>('POST', `/api/changes/${first.id}/approve`, {});
    expect(self.status).toBe(403);
    const done = await rollOut(first.id);
    expect([done.state, done.reason]).toEqual(['done', '']);
    const stale = await ines.ask<ChangeAnswer>('GET', `/api/changes/${second.id}`);
    expect(stale).toMatchObject({ state: 'Stale', baseRevision: 2, proof: null });
    expect(stale.conflicts.map((c) => c.findings[0]!.message)).toEqual([
      'network almanac was changed by a newer revision after this edit was made.',
    ]);
    expect((await bo.attempt('POST', `/api/changes/${second.id}/approve`, {})).status).toBe(409);
    const kept = await ines.ask<ChangeAnswer>('POST', `/api/changes/${second.id}/edits/2/keep`);
    expect(kept).toMatchObject({ state: 'Proven', conflicts: [] });
    expect(kept.proof!.switches.filter((s) => s.fate === 'changed').map((s) => s.host)).toEqual([
      'sk-lf-01',
      'sk-lf-06',
      'sk-lf-08a',
      'sk-lf-08b',
    ]);
    const overlay = (pools: PoolAnswer[]) => pools.find((p) => p.name === 'overlay')!.held;
    const before = overlay(await ines.ask('GET', '/api/pools'));
    await ines.ask('POST', `/api/changes/${second.id}/withdraw`);
    expect(overlay(await ines.ask('GET', '/api/pools'))).toBe(before - 1);
  });

  test('an approval shows at once, also to a browser that has seen the change before', async () => {
    const { id } = await open('Seen before');
    await ines.edit(id, network('seen', 925));
    const seen = await ines.call('GET', `/api/changes/${id}`);
    expect(seen.headers.get('cache-control')).toBe('no-store');
    await bo.ask('POST', `/api/changes/${id}/approve`, {});
    const again = await ines.call<ChangeAnswer>('GET', `/api/changes/${id}`, undefined, {
      'if-none-match': seen.headers.get('etag') ?? '"2"',
    });
    expect([again.status, again.body.state]).toEqual([200, 'Approved']);
    await ines.ask('POST', `/api/changes/${id}/withdraw`);
  });

  test('an edit against an older version of the change is refused, not lost over another', async () => {
    const { id, version } = await open('Versions');
    await ines.edit(id, network('race', 930));
    expect(
      (
        await ines.call(
          'POST',
          `/api/changes/${id}/edits`,
          { edits: [network('late', 931)] },
          { 'if-match': `"${version}"` },
        )
      ).status,
    ).toBe(412);
    expect((await ines.ask<ChangeAnswer>('GET', `/api/changes/${id}`)).steps.map((s) => s.sentence)).toEqual([
      'Add network race to VRF tides',
    ]);
    const depends = await ines.edit(id, {
      kind: 'connectServer',
      port: { rack: 1, side: 'a', port: 'p30', server: 'racer', untagged: 'race', tagged: [] },
    });
    expect(depends.steps).toHaveLength(2);
    const undo = await ines.attempt<Problem>('DELETE', `/api/changes/${id}/edits/1`);
    expect([undo.status, undo.body.detail]).toEqual([
      409,
      expect.stringContaining('“Connect racer to rack 1 p30 (a)” stands on this edit'),
    ]);
    await ines.ask('DELETE', `/api/changes/${id}/edits/2`);
    expect((await ines.ask<ChangeAnswer>('DELETE', `/api/changes/${id}/edits/1`)).steps).toEqual([]);
    await ines.ask('POST', `/api/changes/${id}/withdraw`);
  });
});

describe('rollouts', () => {
  test('what is rendered runs on the switch; returning to the revision before takes it away again', async () => {
    const { id } = await open('Harbour log');
    await ines.edit(id, network('harbour-log', 940, { racks: [2, 7] }));
    const done = await rollOut(id);
    expect(done.waves.map((w) => w.hosts)).toEqual([['sk-lf-02'], ['sk-lf-07a'], ['sk-lf-07b']]);
    expect(done.switches.map((s) => [s.host, s.outcome])).toEqual([
      ['sk-lf-02', 'as meant'],
      ['sk-lf-07a', 'as meant'],
      ['sk-lf-07b', 'as meant'],
    ]);
    const text = await ines.ask<TextAnswer>('GET', '/api/fabrics/skerry/text/leaf-7b');
    expect(runningOn(seating['leaf-7b']!)).toBe(text.meant!['frr.conf']);
    const { revision } = await ines.ask<FabricStateAnswer>('GET', '/api/fabrics/skerry');
    const { change } = await ines.ask<{ change: string }>('POST', '/api/fabrics/skerry/return', {
      revision: revision - 1,
    });
    const back = await rollOut(change);
    expect(back.state).toBe('done');
    expect(runningOn(seating['leaf-7b']!)).not.toContain(':940');
  });

  test('a second click on “begin” or “retry” does nothing twice', async () => {
    const { id } = await open('Two clicks');
    await ines.edit(id, network('twice', 945, { racks: [2] }));
    await bo.ask('POST', `/api/changes/${id}/approve`, {});
    const fault = (on: boolean) =>
      ines.ask('POST', '/api/bench/faults', { serial: seating['leaf-2'], fault: 'refuses the text', on });
    await fault(true);
    const begin = () => ines.call<RolloutAnswer>('POST', '/api/rollouts', { change: id, undoSeconds: 10 });
    const begun = await Promise.all([begin(), begin()]);
    expect(begun.map((b) => b.status).sort()).toEqual([200, 409]);
    const rollout = begun.find((b) => b.status === 200)!.body.id;
    await restOf(ines, rollout);
    await fault(false);
    const retry = () => ines.call('POST', `/api/rollouts/${rollout}/retry`);
    expect((await Promise.all([retry(), retry()])).map((b) => b.status).sort()).toEqual([200, 409]);
    expect((await restOf(ines, rollout)).state).toBe('done');
  });

  test('each fault ends in a switch that is as before, with the reason; the stop line holds the rest; retry goes on', async () => {
    const { id } = await open('Faulty day');
    await ines.edit(id, network('squall', 950, { racks: [3, 4, 7] }));
    const before = runningOn(seating['leaf-3']!);
    const bench = (path: string, body: unknown) => ines.ask('POST', `/api/bench/${path}`, body);
    const fault = (fault: string, on: boolean) => bench('faults', { serial: seating['leaf-3'], fault, on });
    await fault('refuses the text', true);
    let r = await rollOut(id, { undoSeconds: 10 });
    expect([r.state, r.reason]).toEqual(['stopped', expect.stringContaining('stop line reached in Canary')]);
    expect(r.switches.map((s) => [s.host, s.outcome])).toEqual([
      ['sk-lf-03', 'refused, untouched'],
      ['sk-lf-04', 'waits'],
      ['sk-lf-07a', 'waits'],
      ['sk-lf-07b', 'waits'],
    ]);
    expect(r.switches[0]!.message).toContain('refused by the bench');
    const retry = async (): Promise<RolloutAnswer> => {
      await ines.ask('POST', `/api/rollouts/${r.id}/retry`);
      return restOf(ines, r.id);
    };
    await fault('refuses the text', false);
    await fault('wrong password', true);
    r = await retry();
    expect(r.switches[0]).toMatchObject({
      outcome: 'refused, untouched',
      message: expect.stringContaining('refuses the account') as string,
    });
    await fault('wrong password', false);
    await fault('unreachable', true);
    r = await retry();
    expect(r.switches[0]).toMatchObject({
      outcome: 'refused, untouched',
      message: expect.stringMatching(/no answer|closed/) as string,
    });
    await fault('unreachable', false);
    await fault('dies before confirming', true);
    r = await retry();
    expect(r.switches[0]).toMatchObject({ outcome: 'went back' });
    expect(runningOn(seating['leaf-3']!)).toBe(before);
    await fault('dies before confirming', false);
    await bench('hand-edit', {
      serial: seating['leaf-4'],
      file: 'frr.conf',
      find: 'log syslog informational',
      replace: 'log syslog informational\nlog file /tmp/by-hand.log',
    });
    r = await retry();
    expect(r.switches.map((s) => [s.host, s.outcome])).toEqual([
      ['sk-lf-03', 'as meant'],
      ['sk-lf-04', 'refused, untouched'],
      ['sk-lf-07a', 'as meant'],
      ['sk-lf-07b', 'waits'],
    ]);
    expect(r.switches[1]!.message).toContain('changed it by hand: +1 −0 lines');
    r = await retry();
    expect([r.state, ...r.switches.map((s) => s.outcome)]).toEqual([
      'done',
      'as meant',
      'as meant',
      'as meant',
      'as meant',
    ]);
    expect(runningOn(seating['leaf-4']!)).not.toContain('by-hand');
    expect(
      (await ines.ask<{ text: string }[]>('GET', `/api/rollouts/${r.id}/log?host=sk-lf-04`))
        .map((l) => l.text)
        .join('\n'),
    ).toContain('put back by this retry');
  });

  test('a change whose sessions cannot come up goes back by itself; undo returns the switches that were changed', async () => {
    const { id } = await open('Numbered lines');
    await ines.edit(id, network('gust', 960, { racks: [1, 2] }));
    // Between proof and rollout somebody pulls a cable: down before is excused; pulled in the middle is not.
    await ines.ask('POST', '/api/bench/pull', { serial: seating['leaf-1'], port: 'p49', pulled: true });
    await ines.ask('POST', '/api/bench/faults', { serial: seating['leaf-2'], fault: 'refuses the text', on: true });
    const r = await rollOut(id, { undoSeconds: 10 });
    const log = (await ines.ask<{ text: string }[]>('GET', `/api/rollouts/${r.id}/log?host=sk-lf-01`))
      .map((l) => l.text)
      .join('\n');
    expect(r.switches.map((s) => [s.host, s.outcome])).toContainEqual(['sk-lf-02', 'refused, untouched']);
    if (r.switches.some((s) => s.host === 'sk-lf-01' && s.outcome === 'as meant'))
      expect(log).toContain('down before: p49');
    await ines.ask('POST', '/api/bench/pull', { serial: seating['leaf-1'], port: 'p49', pulled: false });
    await ines.ask('POST', '/api/bench/faults', { serial: seating['leaf-2'], fault: 'refuses the text', on: false });
    const undo = await ines.ask<RolloutAnswer>('POST', `/api/rollouts/${r.id}/undo`);
    const rest = await restOf(ines, undo.id);
    expect(['done', 'undone']).toContain(rest.state);
    for (const seat of ['leaf-1', 'leaf-2']) expect(runningOn(seating[seat]!)).not.toContain(':960');
    expect((await ines.ask<ChangeAnswer>('GET', `/api/changes/${id}`)).state).toBe('Approved');
  });
});

test('a version of a switch’s software that nobody tried is read, and written to only when somebody accepts it', async () => {
  const tamar = await world.as('tamar');
  const serial = seating['leaf-4']!;
  const says = (version: string): void =>
    writeFileSync(
      join(world.folder, 'bench/switches', serial, 'etc/os-release'),
      `NAME="Bench Linux"\nVERSION_ID="${version}"\n`,
    );
  const stand = async (): Promise<InventoryAnswer> =>
    (await tamar.ask<InventoryAnswer[]>('GET', '/api/switches?limit=200')).find((s) => s.serial === serial)!;
  const read = (): Promise<unknown> => tamar.ask('POST', `/api/switches/${serial}/read`);
  // Of that switch alone: no other has to be waited for.
  const change = async (title: string, vlan: number): Promise<string> => {
    const { id } = await open(title);
    await ines.edit(id, network(title.toLowerCase(), vlan, { racks: [4] }));
    await bo.ask('POST', `/api/changes/${id}/approve`, { note: '' });
    return id;
  };
  says('13.0');
  // Not read since, so that nobody knows: the switch itself says so when it is reached.
  const unseen = await change('Unseen', 960);
  const held = await restOf(
    ines,
    (await ines.ask<RolloutAnswer>('POST', '/api/rollouts', { change: unseen, undoSeconds: 10 })).id,
  );
  const row = held.switches.find((s) => s.serial === serial)!;
  expect([held.state, row.outcome]).toEqual(['stopped', 'refused, untouched']);
  expect(row.message).toContain('never tried');
  // From then on it is said where switches are looked at.
  expect(await stand()).toMatchObject({ version: 'Bench Linux 13.0', untried: true });
  await ines.ask('POST', `/api/rollouts/${held.id}/undo`).then((u) => restOf(ines, (u as RolloutAnswer).id));
  await ines.ask('POST', `/api/changes/${unseen}/withdraw`);

  await read();
  expect(await stand()).toMatchObject({ version: 'Bench Linux 13.0', untried: true });
  const known = await change('Known', 961);
  const refused = await ines.attempt<Problem>('POST', '/api/rollouts', { change: known, undoSeconds: 10 });
  expect([refused.status, refused.body.detail]).toEqual([
    409,
    expect.stringMatching(new RegExp(`^${serial} runs Bench Linux 13.0, with which the linux dialect was never tried`)),
  ]);
  expect(
    (
      await (
        await world.as('olu')
      ).attempt('POST', `/api/switches/${serial}/accept-version`, { version: 'Bench Linux 13.0', reason: 'xyz' })
    ).status,
  ).toBe(403);
  // Yes to another version than it runs by now is no yes.
  const other = await tamar.attempt<Problem>('POST', `/api/switches/${serial}/accept-version`, {
    version: 'Bench Linux 12.9',
    reason: 'Tried on a spare one',
  });
  expect([other.status, other.body.detail]).toEqual([409, expect.stringContaining('runs Bench Linux 13.0 by now')]);
  await tamar.ask('POST', `/api/switches/${serial}/accept-version`, {
    version: 'Bench Linux 13.0',
    reason: 'Tried on a spare one',
  });
  expect(
    (
      await tamar.attempt('POST', `/api/switches/${serial}/accept-version`, {
        version: 'Bench Linux 13.0',
        reason: 'again',
      })
    ).status,
  ).toBe(409);
  expect(await stand()).toMatchObject({ untried: false });
  const done = await ines.ask<RolloutAnswer>('POST', '/api/rollouts', { change: known, undoSeconds: 120 });
  expect((await restOf(ines, done.id)).state).toBe('done');
});
