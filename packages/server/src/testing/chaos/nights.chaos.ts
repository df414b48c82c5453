import { demoFleet, FAULTS, startBench, type Fault, type Fleet, type RunningBench } from '@anthemion/bench';
import type {
  BenchAnswer,
  ChangeAnswer,
  ChangeSummary,
  FabricStateAnswer,
  LogLine,
  RolloutAnswer,
} from '@anthemion/contract';
import {
  DOCUMENTS,
  FABRIC_PATTERNS,
  filesFrom,
  layEdits,
  layOut,
  applyEdits,
  emptyIntent,
  MODELS,
  ownedOf,
  POOLS,
  RACK_PATTERNS,
  type Edit,
  type FabricPattern,
} from '@anthemion/core';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gunzipSync } from 'node:zlib';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { makeAccount } from '../../services/accounts.ts';
import { keyAsKept } from '../../services/switchList.ts';
import { openDatabase, openReader } from '../../store/database.ts';
import { putPart } from '../../store/parts.ts';
import { addPool } from '../../store/pools.ts';
import { rowsOf } from '../../store/rollouts.ts';
import { liveOf, meantOf } from '../../store/seats.ts';
import { putSetting } from '../../store/settings.ts';
import { addSwitches } from '../../store/switches.ts';
import { hashOfFiles } from '../../store/texts.ts';
import { mustHold } from '../invariants.ts';
import { Dice, freePort, Patient, sleep, Victim } from './killing.ts';

const KILLS = Number(process.env['ANTHEMION_KILLS'] ?? 10);
const SWITCHES = Number(process.env['ANTHEMION_SWITCHES'] ?? 24);
const SEED = Number(process.env['ANTHEMION_SEED'] ?? 20261125);
const PASSWORD = 'a long password';
const SPINES = 4;
const figures: Record<string, number | string> = {
  seed: SEED,
  date: new Date().toISOString().slice(0, 10),
  switches: SWITCHES,
};

const folder = mkdtempSync(join(tmpdir(), 'chaos-'));
const dice = new Dice(SEED);
let bench: RunningBench;
beforeAll(async () => {
  mkdirSync(join(folder, 'bench'), { recursive: true });
  bench = await startBench({ data: join(folder, 'bench'), fleet: fleet(), token: 't', settleMs: 100 });
});
afterAll(async () => {
  await bench.close();
  rmSync(folder, { recursive: true, force: true });
  const path = process.env['ANTHEMION_FIGURES'];
  if (path !== undefined) writeFileSync(path, JSON.stringify(figures));
});

const PATTERN: FabricPattern = {
  ...FABRIC_PATTERNS[0]!,
  name: 'night',
  spines: { count: SPINES, model: 'TV-S32C' },
  racks: [{ pattern: 'single-48', count: Math.min(SWITCHES, 36) - SPINES }],
  settings: {},
};
/** Two fabrics where one would be larger than its spines bear. */
const FABRICS = SWITCHES > 36 ? ['mole', 'lamp'] : ['mole'];
const SIZES = FABRICS.map((_, i) => (i === 0 ? Math.min(SWITCHES, 36) : SWITCHES - 36));
const patternOf = (i: number): FabricPattern => ({
  ...PATTERN,
  racks: [{ pattern: 'single-48', count: SIZES[i]! - SPINES }],
});
const laidOut = FABRICS.map((name, i) => applyEdits(emptyIntent(name, 'ab'[i]!), layEdits(patternOf(i))).intent);
const serialOf = (fabric: number, seat: string): string => `${FABRICS[fabric]!.toUpperCase()}-${seat}`;
const SERIALS = laidOut.flatMap((intent, f) =>
  layOut(intent).seats.map((s) => ({ serial: serialOf(f, s.id), model: s.model })),
);

function fleet(): Fleet {
  return {
    username: 'anthemion',
    password: 'switch password',
    switches: SERIALS.map((s) => ({ ...s, port: 0, faults: [] })),
    cables: laidOut.flatMap((intent, f) =>
      layOut(intent).links.map((l) => ({
        a: { serial: serialOf(f, l.a.seat), port: l.a.port },
        b: { serial: serialOf(f, l.b.seat), port: l.b.port },
        pulled: false,
      })),
    ),
  };
}
const runningHash = (serial: string): string => {
  const read = (name: string): string => {
    const path = join(folder, 'bench/switches', serial, 'run/running', name);
    return existsSync(path) ? readFileSync(path, 'utf8') : '';
  };
  return hashOfFiles(filesFrom(DOCUMENTS.linux, (kind) => ownedOf(kind, read(kind.name))));
};

/** Kills and starts again, at moments the dice decide, until told to stop. */
class Killer {
  private on = true;
  private readonly work: Promise<void>;
  constructor(victim: Victim, kills: () => number, pause: () => number) {
    const loop = async (): Promise<void> => {
      while (this.on && victim.kills < kills()) {
        await sleep(pause());
        if (!this.on) return;
        await victim.kill();
        await victim.start();
      }
    };
    this.work = loop();
  }
  async stop(): Promise<void> {
    this.on = false;
    await this.work;
  }
}

test('promise 5: killed while it makes the demo data, or brings old data up to date, it ends with all of it', async () => {
  const data = join(folder, 'seed');
  const demo = await startBench({ data: join(folder, 'demo'), fleet: demoFleet('p'), token: 't', settleMs: 100 });
  writeFileSync(join(folder, 'demo/token'), 't');
  writeFileSync(join(folder, 'demo/bench.json'), JSON.stringify({ controlUrl: demo.controlUrl }));
  const seeding = new Victim(
    { ANTHEMION_DATA: data, ANTHEMION_BENCH: join(folder, 'demo'), ANTHEMION_DEMO: '1' },
    await freePort(),
  );
  for (let i = 0; i < Math.max(3, KILLS / 10); i++) {
    await seeding.start(100 + dice.roll(2400));
    await seeding.kill();
  }
  expect(await seeding.start()).toBe(true);
  const ines = new Patient(seeding, 'ines', 'soundings of the outer bank');
  const skerry = await ines.get<FabricStateAnswer>('/api/fabrics/skerry');
  expect(skerry).toMatchObject({ revision: 1, waiting: 0, leaves: 10 });
  const open = (await ines.get<ChangeSummary[]>('/api/changes')).filter((c) => c.state !== 'Withdrawn');
  expect(open.map((c) => c.title).sort()).toEqual(['Build Skerry', 'Chart press in both halls']);
  await seeding.stop();
  await demo.close();

  const old = join(folder, 'old');
  mkdirSync(old);
  writeFileSync(
    join(old, 'anthemion.sqlite'),
    gunzipSync(readFileSync(new URL('../../../fixtures/release-0.1/anthemion.sqlite.gz', import.meta.url))),
  );
  const migrating = new Victim({ ANTHEMION_DATA: old }, await freePort());
  for (let i = 0; i < Math.max(3, KILLS / 10); i++) {
    await migrating.start(150 + dice.roll(900));
    await migrating.kill();
  }
  expect(await migrating.start()).toBe(true);
  await migrating.stop();
  for (const path of [data, old]) {
    const db = openReader(path);
    await mustHold(db);
    await db.destroy();
  }
  figures['kills while seeding'] = seeding.kills;
  figures['kills while migrating'] = migrating.kills;
}, 300_000);

/** The team's side of the story: what is asked for, and asked again after each broken line. */
class Night {
  readonly victim: Victim;
  readonly ines: Patient;
  readonly bo: Patient;
  vlan = 100;
  constructor(victim: Victim) {
    this.victim = victim;
    this.ines = new Patient(victim, 'ines', PASSWORD);
    this.bo = new Patient(victim, 'bo', PASSWORD);
  }

  /** The newest change of this title, made if it is not there. */
  async change(fabric: string, title: string, edits: readonly Edit[]): Promise<string> {
    for (;;) {
      const there = (await this.ines.get<ChangeSummary[]>('/api/changes')).find(
        (c) => c.title === title && c.state !== 'Withdrawn',
      );
      if (!there) {
        await this.ines.attempt('POST', '/api/changes', { fabric, title, reason: '', ticket: '' });
        continue;
      }
      if (there.edits >= edits.length || there.state === 'Live') return there.id;
      expect(there.edits).toBe(0);
      const added = await this.ines.attempt('POST', `/api/changes/${there.id}/edits`, { edits });
      if (added && added.status !== 200) throw new Error(JSON.stringify(added.body));
    }
  }

  /** Sends a change until every switch has it, or until somebody decides to take it back; answers the last rollout. */
  async send(change: string, faults: () => Promise<void>): Promise<RolloutAnswer> {
    for (let tries = 0; ; tries++) {
      const now = await this.ines.get<ChangeAnswer>(`/api/changes/${change}`);
      if (now.state === 'Stale' || now.state === 'Drafting')
        await this.ines.attempt('POST', `/api/changes/${change}/prove`);
      else if (now.state === 'Proven') await this.bo.attempt('POST', `/api/changes/${change}/approve`, {});
      else if (now.state === 'Approved') {
        await faults();
        const begun = await this.ines.attempt<RolloutAnswer>('POST', '/api/rollouts', {
          change,
          undoSeconds: 10,
          stopLine: 3,
        });
        if (begun && begun.status !== 200) throw new Error(JSON.stringify(begun.body));
      } else {
        const rollout = await this.atRest(now.rollout!);
        if (rollout.state === 'done' || rollout.state === 'closed') return rollout;
        await clearFaults();
        const how =
          tries < 6 && dice.roll(4) === 0
            ? 'undo'
            : rollout.switches.some((s) => /refused|back|unknown/.test(s.outcome))
              ? 'retry'
              : 'resume';
        if (rollout.state !== 'undone') await this.ines.attempt('POST', `/api/rollouts/${rollout.id}/${how}`);
      }
    }
  }

  async atRest(id: string): Promise<RolloutAnswer> {
    for (;;) {
      const r = await this.ines.get<RolloutAnswer>(`/api/rollouts/${id}`);
      if (r.state !== 'running' && !r.switches.some((s) => s.outcome === 'under way')) return r;
      await sleep(100);
    }
  }
}

async function setFault(serial: string, fault: Fault, on: boolean): Promise<void> {
  await fetch(`${bench.controlUrl}/faults`, {
    method: 'POST',
    headers: { authorization: 'Bearer t', 'content-type': 'application/json' },
    body: JSON.stringify({ serial, fault, on }),
  });
}
async function clearFaults(): Promise<void> {
  for (const s of bench.fleet.switches) for (const f of s.faults) await setFault(s.serial, f, false);
}

/** Every switch runs what it was confirmed with; nothing reached one twice; the log tells how each one ended. */
async function verify(data: string): Promise<void> {
  const db = openReader(data);
  try {
    await mustHold(db);
    for (const fabric of FABRICS) {
      const meant = new Set((await meantOf(db, fabric)).map((m) => m.hash));
      for (const l of await liveOf(db, fabric)) {
        expect([l.host, runningHash(l.serial)]).toEqual([l.host, l.hash]);
        // As before or as meant: what it was confirmed with is the text of a revision.
        if (l.revision !== null) expect([l.host, meant.has(l.hash)]).toEqual([l.host, true]);
      }
    }
    const rollouts = await db.selectFrom('rollouts').select('id').execute();
    for (const { id } of rollouts) {
      const told = new Set(
        (await db.selectFrom('job_log').select(['item', 'text']).where('job_id', '=', id).execute())
          .filter((l) => /^(as meant|refused, untouched|went back|unknown)/.test(l.text))
          .map((l) => l.item),
      );
      for (const row of await rowsOf(db, id))
        if (row.outcome !== 'waits' && row.outcome !== 'left out')
          expect([id, row.host, told.has(row.host)]).toEqual([id, row.host, true]);
    }
    const answer = (await (
      await fetch(`${bench.controlUrl}/fleet`, { headers: { authorization: 'Bearer t' } })
    ).json()) as BenchAnswer;
    for (const s of answer.switches) expect([s.serial, new Set(s.applied).size]).toEqual([s.serial, s.applied.length]);
  } finally {
    await db.destroy();
  }
}

test(`promises 1 to 5: ${KILLS} kills over ${SWITCHES} switches with faults: every switch as before or as meant, the log complete, the data sound`, async () => {
  const data = join(folder, 'night');
  const db = await openDatabase(data);
  for (const [name, roles] of [
    ['ines', ['designer', 'operator']],
    ['bo', ['approver']],
  ] as const)
    await makeAccount(db, { name, fullName: name, roles, password: PASSWORD }, false, '');
  await putSetting(db, 'secondPerson', 'true');
  for (const m of MODELS) await putPart(db, 'model', m);
  for (const r of RACK_PATTERNS) await putPart(db, 'rack', r);
  for (const p of POOLS) await addPool(db, p, '');
  await addSwitches(
    db,
    bench.fleet.switches.map((s) => ({
      serial: s.serial,
      model: s.model,
      address: '127.0.0.1',
      port: s.port,
      location: '',
      host_key: keyAsKept(s.hostKey ?? ''),
    })),
  );
  await db.destroy();

  const victim = new Victim({ ANTHEMION_DATA: data }, await freePort());
  await victim.start();
  const night = new Night(victim);
  // The switch account is sealed with the server's own key, so it is set through the server.
  await victim.stop();
  const keyed = await openDatabase(data);
  await makeAccount(keyed, { name: 'ops', fullName: 'ops', roles: ['operator'], password: PASSWORD }, true, '');
  await keyed.destroy();
  await victim.start();
  expect(
    (
      await new Patient(victim, 'ops', PASSWORD).attempt('PUT', '/api/switch-accounts/bench', {
        username: 'anthemion',
        password: 'switch password',
        ranges: ['127.0.0.0/8'],
      })
    )?.status,
  ).toBe(200);

  // A third of the kills while the fabrics are made and sent for the first time.
  const early = Math.ceil(KILLS / 3);
  const killer = new Killer(
    victim,
    () => early,
    () => 150 + dice.roll(2600),
  );
  // The fabrics are made, laid out, seated and sent under fire.
  for (const [f, fabric] of FABRICS.entries()) {
    while (!(await night.ines.get<{ name: string }[]>('/api/fabrics')).some((x) => x.name === fabric))
      await night.ines.attempt('POST', '/api/fabrics', {
        name: fabric,
        namePrefix: 'ab'[f]!,
        title: `Build ${fabric}`,
      });
    const change = await night.change(fabric, `Build ${fabric}`, [
      ...layEdits(patternOf(f)),
      ...layOut(laidOut[f]!).seats.map((s): Edit => ({ kind: 'takeSeat', seat: s.id, serial: serialOf(f, s.id) })),
      { kind: 'addVrf', vrf: { name: 'tides', transitVlan: 4001 } },
    ]);
    await night.send(change, () => Promise.resolve());
  }
  await killer.stop();
  const nightKiller = new Killer(
    victim,
    () => KILLS,
    () => 150 + dice.roll(2600),
  );
  let sent = 0;
  const outcomes: Record<string, number> = {};
  while (victim.kills < KILLS) {
    const f = dice.roll(FABRICS.length);
    const racks = [...new Set(Array.from({ length: 1 + dice.roll(5) }, () => 1 + dice.roll(SIZES[f]! - SPINES)))].sort(
      (a, b) => a - b,
    );
    const vlan = night.vlan++;
    const change = await night.change(FABRICS[f]!, `Night ${vlan}`, [
      { kind: 'addNetwork', network: { name: `night-${vlan}`, vrf: 'tides', vlan, subnetLength: 28, racks } },
    ]);
    const rollout = await night.send(change, async () => {
      for (const rack of racks)
        if (dice.roll(3) === 0)
          await setFault(
            serialOf(f, `leaf-${rack}`),
            dice.pick(FAULTS.filter((x) => (x !== 'dies before confirming' && x !== 'slow') || dice.roll(6) === 0)),
            true,
          );
    });
    sent++;
    for (const s of rollout.switches) outcomes[s.outcome] = (outcomes[s.outcome] ?? 0) + 1;
    const log = await night.ines.get<LogLine[]>(`/api/rollouts/${rollout.id}/log`);
    expect(log.length).toBeGreaterThan(rollout.switches.length);
  }
  await nightKiller.stop();
  await clearFaults();
  await victim.stop();
  await verify(data);
  Object.assign(figures, {
    kills: victim.kills,
    'changes sent': sent,
    'switches as meant in the end': outcomes['as meant'] ?? 0,
  });
  // Nothing is left half-way: what every seat is meant to run is what it runs.
  const reader = openReader(data);
  for (const fabric of FABRICS) {
    const meant = new Map((await meantOf(reader, fabric)).map((m) => [m.seat, m.hash]));
    for (const l of await liveOf(reader, fabric))
      expect([l.host, runningHash(l.serial)]).toEqual([l.host, meant.get(l.seat)]);
  }
  await reader.destroy();
}, 3_600_000);
