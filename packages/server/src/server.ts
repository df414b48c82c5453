import { createServer, type Server } from 'node:http';
import { createServer as createTlsServer } from 'node:https';
import { readFileSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { pino, type Logger } from 'pino';
import { Events } from './events/events.ts';
import { buildApp } from './http/app.ts';
import { measured } from './http/metrics.ts';
import { Rehearsals } from './jobs/rehearsals.ts';
import { JobEngine } from './jobs/engine.ts';
import { rolloutJob } from './jobs/rollout/rolloutJob.ts';
import { BenchDoor } from './reach/benchDoor.ts';
import { Reach } from './reach/reach.ts';
import { RELEASE } from './release.ts';
import { seedDemo } from './seed/seedDemo.ts';
import { FirstCode } from './services/accounts.ts';
import { noted } from './services/audit.ts';
import { Changes } from './services/changes.ts';
import { Live } from './watch/live.ts';
import { Presence } from './watch/presence.ts';
import { Reading } from './watch/reading.ts';
import { Desks } from './services/desk.ts';
import { Finding } from './services/finding.ts';
import type { House } from './services/house.ts';
import { Rollouts } from './services/rollouts.ts';
import { Sessions } from './services/sessions.ts';
import { keepTidy, settleOldFabrics, weighRelease } from './services/upkeep.ts';
import { DEFAULTS, type Settings } from './settings/settings.ts';
import { anyAccount } from './store/accounts.ts';
import { newestAt } from './store/audit.ts';
import { openDatabase, takeFolder } from './store/database.ts';
import { Sealing } from './store/sealing.ts';
import { sealingKey } from './store/sealingKey.ts';
import { settingOf, takeSetting } from './store/settings.ts';
import { StartTrouble, words } from './trouble.ts';
import { CompilePool } from './workers/compilePool.ts';

export interface ServerOptions extends Partial<Settings> {
  /** Folder for the database and keys. */
  readonly data: string;
  readonly port: number;
  /** Built interface to serve; none in tests of the API. */
  readonly web?: string;
  /** A bench beside the server, and its folder where the demo data is made from it. */
  readonly bench?: { readonly url: string; readonly token: string; readonly folder: string };
  readonly demo?: boolean;
  /** The time, where a test sets it. */
  readonly now?: () => Date;
  /** The program that holds rehearsals and its arguments; absent = the one that comes with the server. */
  readonly rehearsal?: readonly string[];
}

export interface RunningServer {
  readonly url: string;
  readonly house: House;
  readonly changes: Changes;
  readonly rollouts: Rollouts;
  readonly rehearsals: Rehearsals;
  readonly sealing: Sealing;
  /** What opens the first account; null once there is one. */
  readonly firstCode: string | null;
  /** Reads certificate and key again, for the connections to come. */
  readonly readCertificate: () => void;
  readonly close: () => Promise<void>;
}

/**
 * So long an idle connection stays open, in ms. It has to be longer than a browser or a proxy waits before it uses one
 * again, also when this machine stands still for some seconds: who ends a connection first while the other sends on it
 * makes a request fail that nobody refused.
 */
const KEPT_MS = 75_000;
/** How long answers under way may take once the server is told to end, milliseconds. */
const LAST_ANSWERS_MS = 5_000;
/** A clock may be this much behind what was written last. */
const CLOCK_SLACK_MS = 5 * 60_000;

/** Starts the whole server: folder, database, workers, jobs, HTTP. */
export async function startServer(options: ServerOptions): Promise<RunningServer> {
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

const HIDDEN = [
  'req.headers.cookie',
  'req.headers.authorization',
  'res.headers["set-cookie"]',
  '*.password',
  '*.privateKey',
  '*.passphrase',
  '*.value',
];

async function start(
  options: ServerOptions,
  endings: (() => unknown)[],
  close: () => Promise<void>,
): Promise<RunningServer> {
  const settings: Settings = { ...DEFAULTS, logLevel: 'warn', ...options };
  const log = pino({ level: settings.logLevel, redact: HIDDEN });
  const now = options.now ?? ((): Date => new Date());
  const tls = certificateOf(settings);
  const db = await openDatabase(settings.data);
  endings.push(() => db.destroy());
  const key = sealingKey(settings.data, await settingOf(db, 'sealedWith'));
  const sealing = await Sealing.open(db, key, now);
  const compiler = new CompilePool(settings.data);
  endings.push(() => compiler.close());
  const house: House = { db, compiler, desks: new Desks(), events: new Events(), log, now };
  const finding = new Finding(house);
  endings.push(() => finding.stop());
  await lookAtClock(house);
  const restored = await takeSetting(db, 'restored');
  if (restored !== null) await noted(house, { action: 'restore', fabric: '', subject: restored, outcome: 'done' });
  await noted(house, { action: 'start', fabric: '', subject: `release ${RELEASE}`, outcome: 'done' });
  endings.push(() => noted(house, { action: 'stop', fabric: '', subject: '', outcome: 'done' }).catch(() => undefined));
  const sessions = new Sessions(house, {
    idle: settings.sessionIdleMinutes * 60_000,
    whole: settings.sessionHours * 3_600_000,
  });
  const reach = new Reach(db, sealing, now);
  const engine = new JobEngine(house);
  const live = new Live(house, { state: settings.readStateSeconds, text: settings.readTextSeconds });
  const reading = new Reading(house, reach, live, { atOnce: settings.readAtOnce });
  engine.register(rolloutJob(house, reach, undefined, (serial) => reading.readSoon([serial])));
  endings.push(() => engine.stop());
  const changes = new Changes(house);
  const rollouts = new Rollouts(house, engine, async (fabric) => {
    const { links, sessions } = await live.of(fabric);
    return links.up === links.planned && sessions.up === sessions.meant;
  });
  const rehearsals = new Rehearsals(house, options.rehearsal);
  await rehearsals.takeUp();
  endings.push(() => rehearsals.stop());
  await settleOldFabrics(house);
  const bench = options.bench ? new BenchDoor(options.bench.url, options.bench.token) : null;
  if (options.demo && options.bench && bench)
    await seedDemo({ house, changes, reach, sealing, bench }, options.bench.folder);
  const firstCode = (await anyAccount(db)) ? null : new FirstCode();
  const health = measured(house, settings.data);
  const app = buildApp({
    house,
    settings,
    sessions,
    sealing,
    firstCode,
    changes,
    rollouts,
    rehearsals,
    reach,
    live,
    reading,
    presence: new Presence(house),
    bench,
    demo: options.demo ?? false,
    health,
    web: options.web,
  });
  const http = tls ? createTlsServer(tls, app) : createServer(app);
  http.keepAliveTimeout = KEPT_MS;
  await new Promise<void>((done, fail) => {
    http.listen(settings.port, settings.listen, done);
    http.once('error', fail);
  });
  endings.push(() => {
    sessions.stop();
    return ended(http);
  });
  await engine.resumeAll();
  await reading.start();
  endings.push(() => reading.stop());
  endings.push(keepTidy(house, sessions));
  finding.catchUp();
  void weighRelease(house).catch((error: unknown) =>
    log.error({ err: error }, 'what this release would write could not be compared with what is live'),
  );
  const { port } = http.address() as AddressInfo;
  return {
    url: `${tls ? 'https' : 'http'}://${settings.listen.includes(':') ? `[${settings.listen}]` : settings.listen}:${port}`,
    house,
    changes,
    rollouts,
    rehearsals,
    sealing,
    firstCode: firstCode?.text ?? null,
    readCertificate: () => readAgain(http, settings, log),
    close,
  };
}

function certificateOf({ tlsCert, tlsKey }: Settings): { readonly cert: Buffer; readonly key: Buffer } | null {
  if (tlsCert === '') return null;
  const read = (path: string): Buffer => {
    try {
      return readFileSync(path);
    } catch (error) {
      throw new StartTrouble(`${path} cannot be read: ${words(error)}.`);
    }
  };
  return { cert: read(tlsCert), key: read(tlsKey) };
}

function readAgain(http: Server, settings: Settings, log: Logger): void {
  if (!('setSecureContext' in http)) return;
  try {
    (http as ReturnType<typeof createTlsServer>).setSecureContext(certificateOf(settings)!);
    log.info('certificate and key were read again');
  } catch (error) {
    log.error({ err: error }, 'certificate and key could not be read again; the old ones go on');
  }
}

/** Takes no new connections, lets answers under way go out, and then hangs up on what is left: streams. */
async function ended(http: Server): Promise<void> {
  const closed = new Promise<void>((done) => http.close(() => done()));
  http.closeIdleConnections();
  const rest = setTimeout(() => http.closeAllConnections(), LAST_ANSWERS_MS);
  await closed;
  clearTimeout(rest);
}

/** A clock behind what was written last would end sessions and disorder the log: it is said, and the server goes on. */
async function lookAtClock(house: House): Promise<void> {
  const newest = await newestAt(house.db);
  const behind = newest === null ? 0 : Date.parse(newest) - house.now().getTime();
  if (behind <= CLOCK_SLACK_MS) return;
  const text = `the clock is ${Math.round(behind / 60_000)} minutes behind the newest entry of the audit log (${newest}); set it right`;
  house.log.warn(text);
  await noted(house, { action: 'clock', fabric: '', subject: '', outcome: text });
}
