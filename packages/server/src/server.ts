import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { pino } from 'pino';
import { Events } from './events/events.ts';
import { buildApp } from './http/app.ts';
import { JobEngine } from './jobs/engine.ts';
import { rolloutJob } from './jobs/rollout/rolloutJob.ts';
import { BenchDoor } from './reach/benchDoor.ts';
import { Reach } from './reach/reach.ts';
import { seedDemo } from './seed/seedDemo.ts';
import { Changes } from './services/changes.ts';
import { Desks } from './services/desk.ts';
import type { House } from './services/house.ts';
import { Rollouts } from './services/rollouts.ts';
import { keepPruning, settleOldFabrics } from './services/upkeep.ts';
import { openDatabase, takeFolder } from './store/database.ts';
import { loadKey, openDataFolder } from './store/secrets.ts';
import { CompilePool } from './workers/compilePool.ts';

export interface ServerOptions {
  /** Folder for the database and keys. */
  readonly data: string;
  readonly port: number;
  /** Built interface to serve; none in tests of the API. */
  readonly web?: string;
  /** A bench beside the server, and its folder where the demo data is made from it. */
  readonly bench?: { readonly url: string; readonly token: string; readonly folder: string };
  readonly demo?: boolean;
  readonly logLevel?: string;
  /** Sign-in tries a minute and address. */
  readonly signInTries?: number;
}

export interface RunningServer {
  readonly url: string;
  readonly house: House;
  readonly changes: Changes;
  readonly rollouts: Rollouts;
  readonly close: () => Promise<void>;
}

/** Starts the whole server: folder, database, workers, jobs, HTTP on loopback. */
export async function startServer(options: ServerOptions): Promise<RunningServer> {
  openDataFolder(options.data);
  const folder = takeFolder(options.data);
  const endings: (() => unknown)[] = [() => folder.release()];
  const close = async (): Promise<void> => {
    for (const end of endings.reverse()) await end();
    endings.length = 0;
  };
  try {
    return await start(options, endings, close);
  } catch (error) {
    await close();
    throw error;
  }
}

async function start(
  options: ServerOptions,
  endings: (() => unknown)[],
  close: () => Promise<void>,
): Promise<RunningServer> {
  const log = pino({
    level: options.logLevel ?? 'warn',
    redact: ['req.headers.cookie', 'req.headers.authorization', 'res.headers["set-cookie"]', '*.password'],
  });
  const now = (): Date => new Date();
  const [cookieKey, sealingKey] = [loadKey(options.data, 'cookie'), loadKey(options.data, 'secrets')];
  const db = await openDatabase(options.data);
  endings.push(() => db.destroy());
  const compiler = new CompilePool(options.data);
  endings.push(() => compiler.close());
  const house: House = { db, compiler, desks: new Desks(), events: new Events(), log, now };
  const reach = new Reach(db, sealingKey, now);
  const engine = new JobEngine(house);
  engine.register(rolloutJob(house, reach));
  endings.push(() => engine.stop());
  const changes = new Changes(house);
  const rollouts = new Rollouts(house, engine);
  await settleOldFabrics(house);
  if (options.demo && options.bench) await seedDemo({ house, changes, reach }, options.bench.folder);
  const app = buildApp({
    house,
    changes,
    rollouts,
    reach,
    bench: options.bench ? new BenchDoor(options.bench.url, options.bench.token) : null,
    demo: options.demo ?? false,
    cookieKey,
    web: options.web,
    signInTries: options.signInTries,
  });
  const http = await new Promise<Server>((done, fail) => {
    const server = app.listen(options.port, '127.0.0.1');
    server.once('listening', () => done(server));
    server.once('error', fail);
  });
  endings.push(() => {
    http.closeAllConnections();
    return new Promise((done) => http.close(done));
  });
  await engine.resumeAll();
  endings.push(keepPruning(house));
  return {
    url: `http://127.0.0.1:${(http.address() as AddressInfo).port}`,
    house,
    changes,
    rollouts,
    close,
  };
}
