import type { BenchAnswer, ChangeAnswer, FabricStateAnswer, RolloutAnswer, TextAnswer } from '@anthemion/contract';
import { skerryIntent } from '@anthemion/core';
import { spawn, type ChildProcess } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { bundled } from '../testing/bundledProgram.ts';
import { Caller, openWorld, restOf, signInAt, type World } from '../testing/world.ts';

let world: World;
let child: ChildProcess | null = null;
beforeAll(async () => {
  world = await openWorld();
});
afterAll(async () => {
  child?.kill('SIGKILL');
  await world.close().catch(() => undefined);
});

/** Starts the server as a process of its own on the world's data; answers with its address. */
function startChild(): Promise<string> {
  const started = spawn(process.execPath, [bundled('server')], {
    env: {
      ...process.env,
      ANTHEMION_DATA: join(world.folder, 'data'),
      ANTHEMION_PORT: '0',
      ANTHEMION_BENCH: join(world.folder, 'bench'),
      ANTHEMION_DEMO: '1',
      ANTHEMION_LOG_LEVEL: 'silent',
    },
  });
  child = started;
  return new Promise((done, fail) => {
    let out = '';
    started.stdout.on('data', (d: Buffer) => {
      out += d.toString();
      const url = /server ready: (\S+)/.exec(out)?.[1];
      if (url) done(url);
    });
    started.stderr.on('data', (d: Buffer) => (out += d.toString()));
    started.once('exit', () => fail(new Error(out)));
  });
}
const killed = async (): Promise<void> => {
  const gone = new Promise((done) => child!.once('exit', done));
  child!.kill('SIGKILL');
  await gone;
};

test('killed in the middle, again and again, a rollout goes on: nothing is applied twice, every switch is as before or as meant', async () => {
  const ines = await world.as('ines');
  const bo = await world.as('bo');
  const { id } = await ines.ask<ChangeAnswer>('POST', '/api/changes', {
    fabric: 'skerry',
    title: 'A stormy night',
    reason: '',
    ticket: '',
  });
  await ines.edit(id, {
    kind: 'addNetwork',
    network: { name: 'night-log', vrf: 'tides', vlan: 970, subnetLength: 24, racks: [1, 2, 3, 4, 7, 8] },
  });
  await bo.ask('POST', `/api/changes/${id}/approve`, { note: '' });
  const seating = skerryIntent().seating;
  const frr = (seat: string): string =>
    readFileSync(join(world.folder, 'bench/switches', seating[seat]!, 'run/running/frr.conf'), 'utf8');
  const seats = ['leaf-1', 'leaf-2', 'leaf-3', 'leaf-4', 'leaf-7a', 'leaf-7b', 'leaf-8a', 'leaf-8b'];
  const before = new Map(seats.map((s) => [s, frr(s)]));
  const meant = new Map<string, string>();
  for (const s of seats)
    meant.set(s, (await ines.ask<TextAnswer>('GET', `/api/fabrics/skerry/text/${s}?change=${id}`)).meant!['frr.conf']!);
  await world.server.close();

  let url = await startChild();
  let caller = new Caller(() => url, await signInAt(url, 'ines', 'soundings of the outer bank'));
  const begun = await caller.ask<RolloutAnswer>('POST', '/api/rollouts', { change: id, undoSeconds: 120, stopLine: 8 });
  // Each kill waits for another moment of the work, so that every kind of step is cut off once.
  const moments: ((r: RolloutAnswer) => boolean)[] = [
    (r) => r.switches.some((s) => s.step !== null && s.stepsDone >= 1),
    (r) => r.switches.some((s) => s.step === 'apply' || s.step === 'settle'),
    (r) =>
      r.switches.filter((s) => s.outcome === 'as meant').length >= 1 && r.switches.some((s) => s.step === 'settle'),
    (r) => r.switches.filter((s) => s.outcome === 'as meant').length >= 4,
  ];
  let kills = 0;
  for (const moment of moments) {
    let r: RolloutAnswer;
    do r = await caller.ask<RolloutAnswer>('GET', `/api/rollouts/${begun.id}`);
    while (!moment(r) && r.state === 'running');
    if (r.state !== 'running') break;
    await killed();
    kills++;
    for (const s of seats) expect([before.get(s), meant.get(s)]).toContain(frr(s));
    url = await startChild();
    caller = new Caller(() => url, await signInAt(url, 'ines', 'soundings of the outer bank'));
  }
  expect(kills).toBeGreaterThanOrEqual(3);
  const rest = await restOf(caller, begun.id);
  expect(rest.switches.map((s) => [s.host, s.outcome, s.message])).toEqual(
    rest.switches.map((s) => [s.host, 'as meant', 'as meant']),
  );
  expect(rest.state).toBe('done');
  for (const s of seats) expect(frr(s)).toBe(meant.get(s));
  const bench = await caller.ask<BenchAnswer>('GET', '/api/bench');
  for (const s of seats)
    expect(bench.switches.find((b) => b.serial === seating[s])!.applied).toEqual([`${begun.id}-1`]);
  expect((await caller.ask<FabricStateAnswer>('GET', '/api/fabrics/skerry')).revision).toBe(2);
});
