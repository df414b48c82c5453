import type { Express, RequestHandler } from 'express';
import { createHash, timingSafeEqual } from 'node:crypto';
import { isLoopback, type Settings } from '../settings/settings.ts';

/** What watches the server asks for. */
export interface Health {
  /** Can it do its work: is the database there, can it be written? Words, or null = yes. */
  readonly trouble: () => Promise<string | null>;
  /** Prometheus text. */
  readonly metrics: () => Promise<string>;
  /** Counts a request and the time of its answer. */
  readonly count: RequestHandler;
}

/**
 * `/healthz`: the process answers. `/readyz`: it can do its work, else 503 and one line why. `/metrics`: Prometheus text, with
 * the token of the settings, or without one from this machine only, and never through a proxy.
 */
export function healthRoutes(app: Express, health: Health, settings: Pick<Settings, 'metricsToken'>): void {
  app.get('/healthz', (_request, response) => void response.type('text/plain').send('ok\n'));
  app.get('/readyz', (_request, response, next) => {
    health.trouble().then((trouble) => {
      response
        .status(trouble === null ? 200 : 503)
        .type('text/plain')
        .send(`${trouble ?? 'ready'}\n`);
    }, next);
  });
  app.get('/metrics', mayMeasure(settings.metricsToken), (_request, response, next) => {
    health.metrics().then((text) => response.type('text/plain; version=0.0.4').send(text), next);
  });
}

const digest = (text: string): Buffer => createHash('sha256').update(text).digest();
const mayMeasure =
  (token: string): RequestHandler =>
  (request, response, next) => {
    const direct =
      isLoopback(request.socket.remoteAddress ?? '') &&
      request.get('x-forwarded-for') === undefined &&
      request.get('forwarded') === undefined &&
      request.get('sec-fetch-site') === undefined;
    const may =
      token === '' ? direct : timingSafeEqual(digest(request.get('authorization') ?? ''), digest(`Bearer ${token}`));
    if (may) next();
    else response.status(403).type('text/plain').send('Metrics are not open to you.\n');
  };
