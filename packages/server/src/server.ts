import { openApi, ROUTES } from '@anthemion/contract';
import cookieSession from 'cookie-session';
import express, { type ErrorRequestHandler, type Express } from 'express';
import { rateLimit } from 'express-rate-limit';
import helmet from 'helmet';
import { existsSync } from 'node:fs';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import { pino, type Logger } from 'pino';
import { pinoHttp } from 'pino-http';
import { Changes } from './changes/changes.ts';
import type { ServerContext } from './context.ts';
import { changeHandlers } from './http/changes.ts';
import { fabricHandlers } from './http/fabrics.ts';
import { partsHandlers } from './http/parts.ts';
import { HttpProblem } from './http/problem.ts';
import { rolloutHandlers } from './http/rollouts.ts';
import { serveRoutes, type Handlers } from './http/routes.ts';
import { sessionHandlers, userReader } from './http/sessions.ts';
import { RolloutRunner } from './jobs/rolloutRunner.ts';
import { BenchDoor } from './reach/benchDoor.ts';
import { Reach } from './reach/reach.ts';
import { seedDemo } from './seed/seedDemo.ts';
import { openDatabase } from './store/database.ts';
import { loadKey } from './store/secrets.ts';
import { Compiler } from './workers/compiler.ts';

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
  readonly context: ServerContext;
  readonly close: () => Promise<void>;
}

const SIGN_IN_TRIES = 10;
const BODY_LIMIT = '8mb';

/** Starts the whole server: database, worker, jobs, HTTP on loopback. */
export async function startServer(options: ServerOptions): Promise<RunningServer> {
  const log = pino({
    level: options.logLevel ?? 'warn',
    redact: ['req.headers.cookie', 'req.headers.authorization', 'res.headers["set-cookie"]', '*.password'],
  });
  const db = await openDatabase(join(options.data, 'anthemion.sqlite'));
  const compiler = new Compiler();
  const reach = new Reach(db, loadKey(options.data, 'secrets'));
  const changes = new Changes(db, compiler);
  const runner = new RolloutRunner(db, compiler, reach, changes, log);
  const bench = options.bench ? new BenchDoor(options.bench.url, options.bench.token) : null;
  const context: ServerContext = {
    db,
    log,
    compiler,
    reach,
    runner,
    bench,
    demo: options.demo ?? false,
    now: () => new Date(),
  };
  if (options.demo && options.bench) await seedDemo(context, changes, options.bench.folder);
  const app = buildApp(context, changes, options, log);
  await runner.resumeAll();
  const http = await new Promise<Server>((done, fail) => {
    const server = app.listen(options.port, '127.0.0.1');
    server.once('listening', () => done(server));
    server.once('error', fail);
  });
  return {
    url: `http://127.0.0.1:${(http.address() as AddressInfo).port}`,
    context,
    close: async () => {
      http.closeAllConnections();
      await new Promise((done) => http.close(done));
      await runner.stop();
      await compiler.close();
      await db.destroy();
    },
  };
}

function buildApp(context: ServerContext, changes: Changes, options: ServerOptions, log: Logger): Express {
  const app = express();
  app.disable('x-powered-by');
  // State moves without the body's version moving (an approval, say), so nothing of the API may be kept by a browser.
  app.set('etag', false);
  app.use('/api', (_request, response, next) => {
    response.set('cache-control', 'no-store');
    next();
  });
  app.use(pinoHttp({ logger: log, useLevel: 'debug', quietReqLogger: true }));
  app.use(
    helmet({
      contentSecurityPolicy: {
        directives: {
          defaultSrc: ["'self'"],
          styleSrc: ["'self'", "'unsafe-inline'"],
          imgSrc: ["'self'", 'data:'],
          fontSrc: ["'self'"],
          workerSrc: ["'self'", 'blob:'],
          upgradeInsecureRequests: null,
        },
      },
      strictTransportSecurity: false,
    }),
  );
  app.use(
    cookieSession({
      name: 'anthemion',
      keys: [loadKey(options.data, 'cookie').toString('base64')],
      httpOnly: true,
      sameSite: 'strict',
      secure: false,
      maxAge: 12 * 3_600_000,
    }) as unknown as express.RequestHandler,
  );
  // Other sites cannot send JSON without being asked first; forms are refused.
  app.use('/api', (request, _response, next) => {
    const hasBody = Number(request.get('content-length') ?? 0) > 0;
    next(
      hasBody && !request.is('application/json')
        ? new HttpProblem(400, 'Bodies are JSON: send content-type application/json.')
        : undefined,
    );
  });
  app.use(express.json({ limit: BODY_LIMIT }));
  const limit = rateLimit({
    windowMs: 60_000,
    limit: options.signInTries ?? SIGN_IN_TRIES,
    standardHeaders: 'draft-8',
    legacyHeaders: false,
    skipSuccessfulRequests: true,
    handler: (_q, _s, next) => next(new HttpProblem(429, 'Too many tries to sign in; wait a minute.')),
  });
  app.post('/api/session', limit);
  app.post('/api/first-account', limit);
  const handlers: Handlers = {
    ...sessionHandlers(context),
    ...partsHandlers(context),
    ...fabricHandlers(context, changes),
    ...changeHandlers(context, changes),
    ...rolloutHandlers(context),
    'GET /api/openapi.json': async () => openApi(),
  };
  const unserved = Object.keys(ROUTES).filter((name) => !(name in handlers));
  if (unserved.length > 0) throw new Error(`routes of the contract without a handler: ${unserved.join(', ')}`);
  serveRoutes(app, handlers, userReader(context.db, context.now));
  app.use('/api', (_request, _response, next) => next(new HttpProblem(404, 'There is no such route.')));
  if (options.web !== undefined && existsSync(options.web)) {
    app.use(express.static(options.web, { index: false, maxAge: '1y', immutable: true }));
    app.get('/{*any}', (_request, response) =>
      response.set('cache-control', 'no-cache').sendFile(join(options.web!, 'index.html')),
    );
  }
  const onError: ErrorRequestHandler = (
    error: Error & { status?: number; type?: string },
    _request,
    response,
    next,
  ) => {
    if (response.headersSent) return next(error);
    const known =
      error instanceof HttpProblem
        ? error
        : error.type === 'entity.too.large'
          ? new HttpProblem(413, `The body is larger than ${BODY_LIMIT}.`)
          : error.status !== undefined && error.status < 500
            ? new HttpProblem(400, `The request cannot be read: ${error.message}`)
            : new HttpProblem(500, 'The server made a mistake; nothing was changed.');
    if (known.status >= 500 && !(error instanceof HttpProblem)) log.error({ err: error }, 'unexpected');
    response.status(known.status).type('application/problem+json').send(JSON.stringify(known.body));
  };
  app.use(onError);
  return app;
}
