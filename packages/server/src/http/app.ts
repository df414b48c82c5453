import { openApi, ROUTES } from '@anthemion/contract';
import compression from 'compression';
import express, { type ErrorRequestHandler, type Express, type Request } from 'express';
import helmet from 'helmet';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { pinoHttp } from 'pino-http';
import type { BenchDoor } from '../reach/benchDoor.ts';
import type { Reach } from '../reach/reach.ts';
import type { Live } from '../watch/live.ts';
import type { Presence } from '../watch/presence.ts';
import type { Reading } from '../watch/reading.ts';
import type { FirstCode } from '../services/accounts.ts';
import type { Changes } from '../services/changes.ts';
import type { House } from '../services/house.ts';
import type { Rehearsals } from '../jobs/rehearsals.ts';
import type { Rollouts } from '../services/rollouts.ts';
import type { Sessions } from '../services/sessions.ts';
import { hostsOf, isSecure, type Settings } from '../settings/settings.ts';
import type { Sealing } from '../store/sealing.ts';
import { storageTrouble, Trouble } from '../trouble.ts';
import { accountHandlers } from './accounts.ts';
import { auditHandlers } from './audit.ts';
import { changeHandlers } from './changes.ts';
import { fabricHandlers } from './fabrics.ts';
import { onlyHosts, onlyOwnPages } from './guards.ts';
import { healthRoutes, type Health } from './health.ts';
import { signInLimits } from './limits.ts';
import { partsHandlers } from './parts.ts';
import { FAULT, problemOf } from './problem.ts';
import { rolloutHandlers } from './rollouts.ts';
import { serveRoutes, type Handlers } from './routes.ts';
import { secretHandlers } from './secrets.ts';
import { switchHandlers } from './switches.ts';
import { watchHandlers } from './watch.ts';

const YEAR_S = 31_536_000;

export interface AppParts {
  readonly house: House;
  readonly settings: Settings;
  readonly sessions: Sessions;
  readonly sealing: Sealing;
  readonly firstCode: FirstCode | null;
  readonly changes: Changes;
  readonly rollouts: Rollouts;
  readonly rehearsals: Rehearsals;
  readonly reach: Reach;
  readonly live: Live;
  readonly reading: Reading;
  readonly presence: Presence;
  readonly bench: BenchDoor | null;
  readonly demo: boolean;
  readonly health: Health;
  /** Built interface to serve; none in tests of the API. */
  readonly web: string | undefined;
}

export function buildApp(parts: AppParts): Express {
  const { house, settings, sessions } = parts;
  const secure = isSecure(settings);
  const app = express();
  app.disable('x-powered-by');
  app.set('trust proxy', settings.trustedProxies.length > 0 ? [...settings.trustedProxies] : false);
  // State moves without the body's version moving (an approval, say), so nothing of the API may be kept by a browser.
  app.set('etag', false);
  app.use(helmet(headers(secure)));
  healthRoutes(app, parts.health, settings);
  app.use(pinoHttp({ logger: house.log, useLevel: 'debug', quietReqLogger: true }));
  app.use(onlyHosts(hostsOf(settings)));
  app.use('/api', parts.health.count);
  app.use('/api', (_request, response, next) => {
    response.set('cache-control', 'no-store');
    next();
  });
  app.use('/api', onlyOwnPages(settings.publicUrl));
  // A stream is sent message by message; what gathers bytes to compress them would hold them back.
  app.use(
    compression({
      filter: (request: Request, response) => !isStream(request) && compression.filter(request, response),
    }),
  );
  const handlers: Handlers = {
    ...accountHandlers({ ...parts, cookies: { secure } }),
    ...auditHandlers(house),
    ...secretHandlers(house, parts.sealing, parts.reading),
    ...partsHandlers(house),
    ...switchHandlers(house, parts.reach, parts.reading, parts.bench),
    ...fabricHandlers(house, parts.changes),
    ...watchHandlers(parts),
    ...changeHandlers(house, parts.changes, parts.rehearsals),
    ...rolloutHandlers(house, parts.rollouts, sessions),
    'GET /api/openapi.json': () => Promise.resolve(openApi()),
  };
  const unserved = Object.keys(ROUTES).filter((name) => !(name in handlers));
  if (unserved.length > 0) throw new Error(`routes of the contract without a handler: ${unserved.join(', ')}`);
  serveRoutes(app, handlers, {
    house,
    sessions,
    cookies: { secure },
    limits: signInLimits({ perAddress: settings.signInTries, perAccount: settings.accountTries }),
  });
  app.use('/api', (_request, _response, next) => next(new Trouble('not there', 'There is no such route.')));
  if (parts.web !== undefined && existsSync(parts.web)) serveInterface(app, parts.web);
  app.use(errorHandler(house));
  return app;
}

const isStream = (request: Request): boolean => request.path.endsWith('/events');

const headers = (secure: boolean): Parameters<typeof helmet>[0] => ({
  contentSecurityPolicy: {
    directives: {
      defaultSrc: ["'self'"],
      styleSrc: ["'self'", "'unsafe-inline'"],
      imgSrc: ["'self'", 'data:'],
      fontSrc: ["'self'"],
      workerSrc: ["'self'", 'blob:'],
      frameAncestors: ["'none'"],
      formAction: ["'self'"],
      baseUri: ["'none'"],
      objectSrc: ["'none'"],
      upgradeInsecureRequests: secure ? [] : null,
    },
  },
  strictTransportSecurity: secure ? { maxAge: YEAR_S, includeSubDomains: false } : false,
});

function serveInterface(app: Express, web: string): void {
  app.use(express.static(web, { index: false, maxAge: '1y', immutable: true }));
  app.get('/{*any}', (_request, response) =>
    response.set('cache-control', 'no-cache').sendFile(join(web, 'index.html')),
  );
}

const errorHandler =
  ({ log }: House): ErrorRequestHandler =>
  (error: Error & { status?: number }, _request, response, next) => {
    if (response.headersSent) return next(error);
    const trouble =
      error instanceof Trouble
        ? error
        : (storageTrouble(error) ??
          (error.status !== undefined && error.status < 500
            ? new Trouble('unreadable', `The request cannot be read: ${error.message.slice(0, 200)}`)
            : null));
    if (!trouble) log.error({ err: error }, 'unexpected');
    else if (trouble.kind === 'no room' || trouble.kind === 'damaged') log.error({ err: error }, trouble.message);
    const body = trouble ? problemOf(trouble) : FAULT;
    response.status(body.status).type('application/problem+json').send(JSON.stringify(body));
  };
