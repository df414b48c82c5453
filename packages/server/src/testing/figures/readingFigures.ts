import { createFleet, saveFleet, setText, startBench, type Fleet } from '@anthemion/bench';
import { cablesBySerial, layOut } from '@anthemion/core';
import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { startServer } from '../../server.ts';
import { setSwitchAccount } from '../../services/switchAccounts.ts';
import { openDatabase } from '../../store/database.ts';
import { textOf } from '../../store/texts.ts';
import { freePort, sleep } from '../chaos/killing.ts';
import { fillFabric, pairIntent } from './largeHouse.ts';

/** What reading 256 switches once a minute costs the server as built; prints a row as JSON. */
const RACKS = 120;
const SPINES = 16;
const SECONDS = Number(process.env['READING_SECONDS'] ?? 120);
const TICKS_A_SECOND = 100;
const folder = mkdtempSync(join(tmpdir(), 'reading-'));
const data = join(folder, 'data');
const intent = pairIntent('holm', 'ho', RACKS, SPINES);
const layout = layOut(intent);
const fleet: Fleet = {
  username: 'anthemion',
  password: 'a password for figures',
  switches: layout.seats.map((s) => ({ serial: intent.seating[s.id]!, model: s.model, port: 0, faults: [] })),
  cables: cablesBySerial(intent, layout).map((c) => ({ ...c, pulled: false })),
};
const benchData = join(folder, 'bench');
createFleet(benchData, fleet);
let db = await openDatabase(data);
await fillFabric(db, 'holm', 'ho', RACKS, SPINES);
const meant = await db.selectFrom('switch_live').select(['serial', 'hash']).execute();
for (const { serial, hash } of meant) setText(benchData, serial, (await textOf(db, hash))!);
const bench = await startBench({ data: benchData, fleet, token: 't', settleMs: 0 });
saveFleet(benchData, fleet);
for (const s of fleet.switches)
  await db
    .updateTable('switches')
    .set({ port: s.port, host_key: (s.hostKey ?? '').replace('SHA256:', ''), refused: 0 })
    .where('serial', '=', s.serial)
    .execute();
await db.destroy();
const once = await startServer({ data, port: 0, logLevel: 'silent', readStateSeconds: 3600 });
await setSwitchAccount(
  once.house,
  once.sealing,
  'bench',
  {
    username: fleet.username,
    password: fleet.password,
    privateKey: '',
    passphrase: '',
    ranges: ['127.0.0.0/8'],
    note: '',
  },
  'ines',
);
await once.close();

const child = spawn(process.execPath, [new URL('../../../../../dist/server.js', import.meta.url).pathname], {
  env: {
    ...process.env,
    NODE_ENV: 'production',
    ANTHEMION_DATA: data,
    ANTHEMION_PORT: String(await freePort()),
    ANTHEMION_LOG_LEVEL: 'warn',
  },
  stdio: ['ignore', 'ignore', 'inherit'],
});
/** CPU of the server so far, all its threads, seconds. */
const spent = (): number => {
  const fields = readFileSync(`/proc/${child.pid}/stat`, 'utf8').split(') ')[1]!.split(' ');
  return (Number(fields[11]) + Number(fields[12])) / TICKS_A_SECOND;
};
try {
  // The first round signs in everywhere and reads every text: it is not what a day is made of.
  await sleep(40_000);
  const before = spent();
  await sleep(SECONDS * 1000);
  const cores = (spent() - before) / SECONDS;
  db = await openDatabase(data);
  const read = await db
    .selectFrom('switch_seen')
    .select((e) => e.fn.countAll<number>().as('n'))
    .where('at', '>', new Date(Date.now() - 90_000).toISOString())
    .where('at', '<', '2099')
    .executeTakeFirst();
  const wrong = await db
    .selectFrom('switches')
    .select((e) => e.fn.countAll<number>().as('n'))
    .where('trouble', 'is not', null)
    .executeTakeFirst();
  await db.destroy();
  process.stdout.write(
    JSON.stringify([
      ['Reading 256 switches, state every 60 s, text every 10 min: cores', cores.toFixed(3), '≤ 0.3'],
      ['… switches read within the last 90 s, and in trouble', `${read?.n ?? 0}, ${wrong?.n ?? 0}`, '256, 0'],
    ]),
  );
} finally {
  const gone = new Promise((done) => child.once('exit', done));
  child.kill('SIGTERM');
  await gone;
  await bench.close();
  rmSync(folder, { recursive: true, force: true });
}
