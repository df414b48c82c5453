import { openApi, ROUTES } from '@anthemion/contract';
import cookieSession from 'cookie-session';
import express, { type ErrorRequestHandler, type Express } from 'express';
import { rateLimit } from 'express-rate-limit';
import helmet from 'helmet';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { pinoHttp } from 'pino-http';
import type { BenchDoor } from '../reach/benchDoor.ts';
import type { Reach } from '../reach/reach.ts';
import type { Changes } from '../services/changes.ts';
import type { House } from '../services/house.ts';
import type { Rollouts } from '../services/rollouts.ts';
import { Trouble } from '../trouble.ts';
import { accountHandlers, userReader } from './accounts.ts';
import { changeHandlers } from './changes.ts';
import { fabricHandlers } from './fabrics.ts';
import { partsHandlers } from './parts.ts';
import { FAULT, problemOf } from './problem.ts';
import { rolloutHandlers } from './rollouts.ts';
import { serveRoutes, type Handlers } from './routes.ts';
import { switchHandlers } from './switches.ts';

const SIGN_IN_TRIES = 10;
const BODY_LIMIT = '8mb';
const SESSION_MS = 12 * 3_600_000;

export interface AppParts {
  readonly house: House;
  readonly changes: Changes;
  readonly rollouts: Rollouts;
  readonly reach: Reach;
  readonly bench: BenchDoor | null;
  readonly demo: boolean;
  /** Signs the session cookies. */
  readonly cookieKey: Buffer;
  /** Built interface to serve; none in tests of the API. */
  readonly web: string | undefined;
  /** Sign-in tries a minute and address. */
  readonly signInTries: number | undefined;
}

export function buildApp(parts: AppParts): Express {
  const { house } = parts;
  const app = express();
  app.disable('x-powered-by');
  // State moves without the body's version moving (an approval, say), so nothing of the API may be kept by a browser.
  app.set('etag', false);
  app.use('/api', (_request, response, next) => {
    response.set('cache-control', 'no-store');
    next();
  });
  app.use(pinoHttp({ logger: house.log, useLevel: 'debug', quietReqLogger: true }));
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
      keys: [parts.cookieKey.toString('base64')],
      httpOnly: true,
      sameSite: 'strict',
      secure: false,
      maxAge: SESSION_MS,
    }) as unknown as express.RequestHandler,
  );
  // Other sites cannot send JSON without being asked first; forms are refused.
  app.use('/api', (request, _response, next) => {
    const hasBody = Number(request.get('content-length') ?? 0) > 0;
    next(
      hasBody && !request.is('application/json')
        ? new Trouble('unreadable', 'Bodies are JSON: send content-type application/json.')
        : undefined,
    );
  });
  app.use(express.json({ limit: BODY_LIMIT }));
  limitSignIn(app, parts.signInTries ?? SIGN_IN_TRIES);
  const handlers: Handlers = {
    ...accountHandlers(house, parts.demo),
    ...partsHandlers(house),
    ...switchHandlers(house, parts.reach, parts.bench),
    ...fabricHandlers(house, parts.changes, parts.reach),
    ...changeHandlers(house, parts.changes),
    ...rolloutHandlers(house, parts.rollouts),
    'GET /api/openapi.json': () => Promise.resolve(openApi()),
  };
  const unserved = Object.keys(ROUTES).filter((name) => !(name in handlers));
  if (unserved.length > 0) throw new Error(`routes of the contract without a handler: ${unserved.join(', ')}`);
  serveRoutes(app, handlers, userReader(house));
  app.use('/api', (_request, _response, next) => next(new Trouble('not there', 'There is no such route.')));
  if (parts.web !== undefined && existsSync(parts.web)) serveInterface(app, parts.web);
  app.use(errorHandler(house));
  return app;
}

function limitSignIn(app: Express, tries: number): void {
  const limit = rateLimit({
    windowMs: 60_000,
    limit: tries,
    standardHeaders: 'draft-8',
    legacyHeaders: false,
    skipSuccessfulRequests: true,
    handler: (_q, _s, next) => next(new Trouble('too many', 'Too many tries to sign in; wait a minute.')),
  });
  app.post('/api/session', limit);
  app.post('/api/first-account', limit);
}

function serveInterface(app: Express, web: string): void {
  app.use(express.static(web, { index: false, maxAge: '1y', immutable: true }));
  app.get('/{*any}', (_request, response) =>
    response.set('cache-control', 'no-cache').sendFile(join(web, 'index.html')),
  );
}

const errorHandler =
  ({ log }: House): ErrorRequestHandler =>
  (error: Error & { status?: number; type?: string }, _request, response, next) => {
    if (response.headersSent) return next(error);
    const trouble =
      error instanceof Trouble
        ? error
        : error.type === 'entity.too.large'
          ? new Trouble('too large', `The body is larger than ${BODY_LIMIT}.`)
          : error.status !== undefined && error.status < 500
            ? new Trouble('unreadable', `The request cannot be read: ${error.message}`)
            : null;
    if (!trouble) log.error({ err: error }, 'unexpected');
    const body = trouble ? problemOf(trouble) : FAULT;
    response.status(body.status).type('application/problem+json').send(JSON.stringify(body));
  };
