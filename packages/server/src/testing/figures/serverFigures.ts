import { demoFleet, startBench } from '@anthemion/bench';
import type { ChangeAnswer, RolloutAnswer } from '@anthemion/contract';
import { layEdits } from '@anthemion/core';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { performance } from 'node:perf_hooks';
import { sql } from 'kysely';
import { freePort, Patient, sleep, Victim } from '../chaos/killing.ts';
import { Changes } from '../../services/changes.ts';
import { startServer } from '../../server.ts';
import { openDatabase } from '../../store/database.ts';
import { addFabric } from '../../store/fabrics.ts';
import { addPool } from '../../store/pools.ts';
import { addSession } from '../../store/sessions.ts';
import { Bare } from '../bare.ts';
import { ms, say, BY, type FigureRow } from './figure.ts';
import { WIDE } from './largeHouse.ts';
import { pastedFigures } from './pastedFigures.ts';
import { storeFigures } from './storeFigures.ts';
import { Caller, signInAt } from '../world.ts';
import { houseOver } from '../houseOver.ts';
import { CompilePool } from '../../workers/compilePool.ts';

/** What `npm run figures -- server` measures; prints rows of what, value and aim as JSON. */
const rows: FigureRow[] = [];
const folder = mkdtempSync(join(tmpdir(), 'figures-'));

async function editors(): Promise<void> {
  const data = join(folder, 'editors');
  const db = await openDatabase(data);
  for (const p of WIDE) await addPool(db, p, '');
  const compiler = new CompilePool(data);
  const house = houseOver(db, compiler);
  const changes = new Changes(house);
  const ids: string[] = [];
  for (let i = 0; i < 10; i++) {
    await addFabric(db, `fabric-${i}`, `f${i}`, '');
    ids.push(
      await changes.open({ fabric: `fabric-${i}`, title: 'Edits', reason: '', ticket: '' }, BY, [
        ...layEdits(),
        { kind: 'addVrf', vrf: { name: 'tides', transitVlan: 4001 } },
      ]),
    );
  }
  say('50 editors on ten changes …');
  const EACH = 8;
  const cpu = process.cpuUsage();
  const main = performance.eventLoopUtilization();
  const took: number[] = [];
  await Promise.all(
    Array.from({ length: 50 }, async (_, e) => {
      for (let i = 0; i < EACH; i++) {
        const before = performance.eventLoopUtilization();
        await changes.addEdits(
          ids[e % 10]!,
          [
            {
              kind: 'addNetwork',
              network: {
                name: `by-${e}-${i}`,
                vrf: 'tides',
                vlan: 10 + Math.floor(e / 10) * EACH + i,
                subnetLength: 26,
                racks: [1],
              },
            },
          ],
          { name: `editor-${e}`, mayScript: false },
        );
        took.push(performance.eventLoopUtilization(before).active / 50);
      }
    }),
  );
  const spent = process.cpuUsage(cpu);
  const { active } = performance.eventLoopUtilization(main);
  let steps = 0;
  const names = new Set<string>();
  for (const id of ids)
    for (const s of (await changes.answer(id)).steps)
      if (s.edit.kind === 'addNetwork') {
        steps++;
        names.add(s.edit.network.name);
      }
  const doubled =
    await sql`select 1 from ledger a join ledger b on a.pool = b.pool and a.pool <> '' and a.id < b.id and a.lo <= b.hi and b.lo <= a.hi`.execute(
      db,
    );
  rows.push(
    [
      '50 editors on ten changes, 400 edits: edits there, each once',
      `${steps} of ${50 * EACH}, ${steps - names.size} twice`,
      '400 of 400, 0 twice',
    ],
    ['… values held twice', String(doubled.rows.length), '0'],
    ['… CPU an edit, all threads', ms((spent.user + spent.system) / 1000 / steps), 'under 1 s'],
    ['… answering thread busy an edit, mean', ms(active / steps), ''],
  );
  await compiler.close();
  await db.destroy();
}

async function readers(): Promise<void> {
  const benchFolder = join(folder, 'bench');
  const bench = await startBench({ data: benchFolder, fleet: demoFleet('p'), token: 't', settleMs: 200 });
  writeFileSync(join(benchFolder, 'token'), 't');
  const server = await startServer({
    data: join(folder, 'readers'),
    port: 0,
    demo: true,
    bench: { url: bench.controlUrl, token: 't', folder: benchFolder },
    logLevel: 'silent',
  });
  const as = async (n: string, p: string) => new Caller(() => server.url, await signInAt(server.url, n, p));
  const [ines, bo] = [await as('ines', 'soundings of the outer bank'), await as('bo', 'lighthouse above slack water')];
  const { id } = await ines.ask<ChangeAnswer>('POST', '/api/changes', {
    fabric: 'skerry',
    title: 'Readers',
    reason: '',
    ticket: '',
  });
  await ines.edit(id, {
    kind: 'addNetwork',
    network: { name: 'readers', vrf: 'tides', vlan: 990, subnetLength: 24, racks: [1, 2, 3, 4, 5, 6, 7, 8] },
  });
  await bo.ask('POST', `/api/changes/${id}/approve`, {});
  const begun = await ines.ask<RolloutAnswer>('POST', '/api/rollouts', { change: id, undoSeconds: 120 });
  say('200 readers while a rollout runs …');
  let [answers, errors] = [0, 0];
  const paths = [
    '/api/fabrics/skerry',
    '/api/fabrics',
    '/api/changes',
    '/api/rollouts',
    `/api/rollouts/${begun.id}`,
    '/api/switches',
    '/api/ledger',
    '/api/fabrics/skerry/text/leaf-3',
    '/api/fabrics/skerry/revisions',
    '/api/pools',
  ];
  await Promise.all(
    Array.from({ length: 200 }, async (_, r) => {
      for (let i = 0; i < 5; i++) {
        const { status } = await ines.call('GET', paths[(r + i) % paths.length]!);
        answers++;
        if (status !== 200) errors++;
      }
    }),
  );
  let state = 'running';
  while (state === 'running') {
    await sleep(200);
    state = (await ines.ask<RolloutAnswer>('GET', `/api/rollouts/${begun.id}`)).state;
  }
  rows.push([
    `200 readers while a rollout runs (it ended ${state}): errors in ${answers} answers`,
    String(errors),
    '0',
  ]);
  await server.close();
  await bench.close();
}

async function memory(): Promise<void> {
  const benchFolder = join(folder, 'demo');
  mkdirSync(benchFolder, { recursive: true });
  const bench = await startBench({ data: benchFolder, fleet: demoFleet('p'), token: 't', settleMs: 200 });
  writeFileSync(join(benchFolder, 'token'), 't');
  writeFileSync(join(benchFolder, 'bench.json'), JSON.stringify({ controlUrl: bench.controlUrl }));
  const victim = new Victim(
    {
      ANTHEMION_DATA: join(folder, 'memory'),
      ANTHEMION_BENCH: benchFolder,
      ANTHEMION_DEMO: '1',
      NODE_ENV: 'production',
    },
    await freePort(),
  );
  await victim.start();
  const resident = (): number =>
    Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${victim.pid}/status`, 'utf8'))![1]) / 1024;
  const ines = new Patient(victim, 'ines', 'soundings of the outer bank');
  const open = await ines.attempt<ChangeAnswer>('POST', '/api/changes', {
    fabric: 'skerry',
    title: 'Many edits',
    reason: '',
    ticket: '',
  });
  const id = open!.body.id;
  const start = resident();
  say('2,000 edits on the demo …');
  let largest = start;
  for (let i = 0; i < 1000; i++) {
    const edit = {
      kind: 'addNetwork',
      network: { name: `edit-${i % 40}`, vrf: 'tides', vlan: 500 + (i % 40), subnetLength: 28, racks: [1 + (i % 8)] },
    };
    const made = await ines.attempt<ChangeAnswer>('POST', `/api/changes/${id}/edits`, { edits: [edit] });
    if (made?.status !== 200) throw new Error(JSON.stringify(made?.body));
    const last = made.body.steps.at(-1)!.position;
    await ines.attempt('DELETE', `/api/changes/${id}/edits/${last}`);
    if (i % 50 === 0) {
      await ines.get(`/api/fabrics/skerry?change=${id}`);
      largest = Math.max(largest, resident());
    }
  }
  rows.push(
    ['resident memory of the server on the demo, at the start', `${Math.round(start)} MB`, ''],
    ['… after 2,000 edits', `${Math.round(resident())} MB`, 'under 600 MB'],
    ['… at most', `${Math.round(Math.max(largest, resident()))} MB`, ''],
  );
  await victim.stop();
  await bench.close();
}

/** 1,000 people are signed in; who keeps the accounts lists them and ends them all. */
async function sessions(): Promise<void> {
  const bare = await new Bare().open();
  const keeper = await bare.account('keeper', ['onlooker'], { admin: true });
  const when = new Date().toISOString();
  await bare.account('many', ['onlooker']);
  for (let i = 0; i < 999; i++)
    await addSession(bare.db, {
      id: `session-${i}`,
      hash: String(i).padStart(64, '0'),
      account: 'many',
      began_at: when,
      seen_at: when,
      address: '192.0.2.1',
      agent: 'figures',
    });
  const cpu = async (work: () => Promise<unknown>): Promise<number> => {
    const before = process.cpuUsage();
    await work();
    const { user, system } = process.cpuUsage(before);
    return (user + system) / 1000;
  };
  await keeper.ask('GET', '/api/sessions?limit=1');
  const listed = await cpu(() => keeper.ask('GET', '/api/sessions?limit=1000'));
  const ended = await cpu(() => keeper.ask('POST', '/api/sessions/end', { account: 'many' }));
  rows.push([
    '1,000 live sessions listed and ended, both sides of the wire',
    `${ms(listed)} + ${ms(ended)} of CPU`,
    'under 100 ms',
  ]);
  await bare.close();
}

const store = async (): Promise<void> => void rows.push(...(await storeFigures(join(folder, 'large'))));
const pasted = async (): Promise<void> => void rows.push(...(await pastedFigures(join(folder, 'pasted'))));
const PARTS = { store, pasted, editors, readers, sessions, memory };
const only = process.argv.slice(2).filter((a) => a in PARTS);
for (const [name, measure] of Object.entries(PARTS)) if (only.length === 0 || only.includes(name)) await measure();
rmSync(folder, { recursive: true, force: true });
process.stdout.write(JSON.stringify(rows));
process.exit(0);
