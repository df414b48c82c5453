import { ROUTES, validateBody, type Role, type Route, type RouteName, type User } from '@anthemion/contract';
import type { Request, Response, Router } from 'express';
import { FIRST_PAGE, type Page, type PageAsked } from '../store/pages.ts';
import { notAllowed, refused, Trouble } from '../trouble.ts';

export interface Call {
  readonly params: Readonly<Record<string, string>>;
  readonly query: Readonly<Record<string, string>>;
  /** The body as its schema cast it. */
  readonly body: unknown;
  /** Who calls; for routes open to anyone it may be a stand-in without roles. */
  readonly user: User;
  /** Version in If-Match; there is one where the route says it must be. */
  readonly version: number | undefined;
  /** Which page of a list. */
  readonly page: PageAsked;
  readonly request: Request;
  readonly response: Response;
}
/** Answers a call with JSON, or with a page of a list; undefined when the handler has answered by itself. */
export type Handler = (call: Call) => Promise<unknown>;
export type Handlers = Partial<Record<RouteName, Handler>>;

const NOBODY: User = { name: '', fullName: '', roles: [], admin: false };
const LARGEST_PAGE = 1000;
const may = (user: User, access: string): boolean =>
  access === 'signed in' || (access === 'admin' ? user.admin : user.roles.includes(access as Role));

/** The caller has seen this version: routes that must have it get it checked before. */
export function seen(call: Call): number {
  if (call.version === undefined) throw new Error('the route does not say that it needs a version');
  return call.version;
}

function versionIn(request: Request, route: Route): number | undefined {
  const given = request.get('if-match');
  if (given === undefined) {
    if (route.ifMatch === 'must')
      throw new Trouble('version unsaid', 'Say which version you have seen: send If-Match, such as "3".');
    return undefined;
  }
  const m = /^"?(\d{1,15})"?$/.exec(given);
  if (!m) throw new Trouble('unreadable', 'If-Match takes the version of the change, such as "3".');
  return Number(m[1]);
}

function pageIn(query: Readonly<Record<string, string>>): PageAsked {
  const limit = query['limit'] === undefined ? FIRST_PAGE.limit : Number(query['limit']);
  if (!Number.isInteger(limit) || limit < 1 || limit > LARGEST_PAGE)
    throw new Trouble('unreadable', `limit is a number from 1 to ${LARGEST_PAGE}.`);
  return { limit, after: query['after'] ?? null };
}

/** The next page's address goes into the Link header (RFC 8288); the answer is the list. */
function sendPage(request: Request, response: Response, page: Page<unknown>): void {
  if (page.next !== null) {
    const url = new URL(request.originalUrl, 'http://here');
    url.searchParams.set('after', page.next);
    response.set('link', `<${url.pathname}${url.search}>; rel="next"`);
  }
  response.json(page.items);
}

/**
 * Serves the handlers under the routes of the contract. Session, role, body, version and page are checked here, by the
 * contract's table, so that no handler can forget it.
 */
export function serveRoutes(
  router: Router,
  handlers: Handlers,
  userOf: (request: Request) => Promise<User | null>,
): void {
  for (const [name, handler] of Object.entries(handlers) as [RouteName, Handler][]) {
    const [method, path] = name.split(' ') as [string, string];
    const route: Route = ROUTES[name];
    const serve = async (request: Request, response: Response): Promise<void> => {
      const user = await userOf(request);
      if (route.access !== 'anyone') {
        if (!user) throw new Trouble('not signed in', 'Sign in first.');
        if (!may(user, route.access))
          throw notAllowed(`This takes the role ${route.access}; ${user.name} has ${user.roles.join(', ') || 'none'}.`);
      }
      const version = versionIn(request, route);
      let body: unknown = request.body;
      if (route.body) {
        const checked = validateBody(route.body, request.body ?? {});
        if ('findings' in checked) throw refused(checked.findings);
        body = checked.value;
      }
      const query = Object.fromEntries(
        Object.entries(request.query).flatMap(([k, v]) => (typeof v === 'string' ? [[k, v]] : [])),
      );
      const page = route.paged ? pageIn(query) : FIRST_PAGE;
      const params = request.params as Record<string, string>;
      const answer = await handler({ params, query, body, user: user ?? NOBODY, version, page, request, response });
      if (response.headersSent || response.writableEnded) return;
      if (route.paged) sendPage(request, response, answer as Page<unknown>);
      else if (answer instanceof Uint8Array) response.type('application/json').send(Buffer.from(answer));
      else response.json(answer ?? { done: true });
    };
    router[method.toLowerCase() as 'get'](path, (request, response, next) => {
      serve(request, response).catch(next);
    });
  }
}
