import { mayCall, ROLES, ROUTES, sees, type Route, type RouteName, type User } from '@anthemion/contract';
import type { Request, Response, Router } from 'express';
import { asked, ended, type Asker } from '../services/audit.ts';
import type { House } from '../services/house.ts';
import type { Caller, NoCaller, Sessions } from '../services/sessions.ts';
import { changeOf } from '../store/changes.ts';
import { fabricOf } from '../store/fabrics.ts';
import { FIRST_PAGE, type Page, type PageAsked } from '../store/pages.ts';
import { rolloutOf } from '../store/rollouts.ts';
import { notAllowed, notThere, storageTrouble, Trouble } from '../trouble.ts';
import { readBody } from './body.ts';
import { identify, type CookieWays } from './identity.ts';
import type { SignInLimits } from './limits.ts';

export interface Call {
  readonly params: Readonly<Record<string, string>>;
  readonly query: Readonly<Record<string, string>>;
  /** The body as its schema cast it. */
  readonly body: unknown;
  /** Who calls; for routes open to anyone it may be a stand-in without roles. */
  readonly user: User;
  /** By what they call; null = nobody is known. */
  readonly caller: Caller | null;
  /** The fabric it is about, where the route says where that is named. */
  readonly fabric: string | null;
  /** Version in If-Match; there is one where the route says it must be. */
  readonly version: number | undefined;
  /** Which page of a list. */
  readonly page: PageAsked;
  /** Address it comes from, behind trusted proxies the one they name. */
  readonly address: string;
  /** May they still, at this moment? For answers that go on. */
  readonly stillMay: () => Promise<boolean>;
  readonly request: Request;
  readonly response: Response;
}
/** Answers a call with JSON, or with a page of a list; undefined when the handler has answered by itself. */
export type Handler = (call: Call) => Promise<unknown>;
export type Handlers = Partial<Record<RouteName, Handler>>;

/** What the serving of every route needs. */
export interface Door {
  readonly house: House;
  readonly sessions: Sessions;
  readonly cookies: CookieWays;
  readonly limits: SignInLimits;
}

const NOBODY: User = { name: '', fullName: '', roles: [], bound: {}, admin: false };
const LARGEST_PAGE = 1000;
const LONGEST_MARK = 400;
/** What can be done with a password that was given out: set another, or leave. */
const WITH_GIVEN_PASSWORD: ReadonlySet<RouteName> = new Set([
  'GET /api/session',
  'DELETE /api/session',
  'POST /api/me/password',
]);
/** Calls where somebody guesses at a password. */
const GUESSED: ReadonlySet<RouteName> = new Set([
  'POST /api/session',
  'POST /api/first-account',
  'POST /api/me/password',
]);

/** The caller has seen this version: routes that must have it get it checked before. */
export function seen(call: Call): number {
  if (call.version === undefined) throw new Error('the route does not say that it needs a version');
  return call.version;
}

/** The fabric of a call: routes that are about one get it found before. */
export function fabricIn(call: Call): string {
  if (call.fabric === null) throw new Error('the route does not say where its fabric is named');
  return call.fabric;
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
  const after = query['after'] ?? null;
  if (after !== null && after.length > LONGEST_MARK) throw new Trouble('unreadable', 'after is no mark of a page.');
  return { limit, after };
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

const rolesOf = (user: User, fabric: string | null): string =>
  [...user.roles, ...(fabric !== null && Object.hasOwn(user.bound, fabric) ? user.bound[fabric]! : [])].join(', ') ||
  'none';

/** Refuses who may not, in words that say what is missing. */
function demand(user: User, route: Route, fabric: string | null): void {
  if (mayCall(user, route.access, fabric)) return;
  const where = fabric === null ? '' : ` on ${fabric}`;
  if ((ROLES as readonly string[]).includes(route.access))
    throw notAllowed(`This takes the role ${route.access}${where}; ${user.name} has ${rolesOf(user, fabric)}.`);
  throw notAllowed(
    route.access === 'admin'
      ? 'This takes an account that keeps the others.'
      : route.access === 'auditing'
        ? 'This takes an account that keeps the others, or an onlooker everywhere.'
        : `${user.name} has no role yet; ask who keeps the accounts.`,
  );
}

/** Could they on some fabric? Those who could on none need not be told what there is. */
const couldSomewhere = (user: User, route: Route): boolean =>
  [null, ...Object.keys(user.bound)].some((f) => mayCall(user, route.access, f));

/** The fabric that a path or a body names, by itself or by a change or rollout of it; checked to be seen by the caller. */
async function findFabric(
  house: House,
  where: NonNullable<Route['fabric']>,
  user: User,
  params: Readonly<Record<string, string>>,
  body: unknown,
): Promise<string> {
  const { db } = house;
  const said = body as { fabric?: string; change?: string };
  const owned = async (what: string, id: string, find: () => Promise<{ fabric: string }>): Promise<string> => {
    const { fabric } = await find();
    if (!sees(user, fabric)) throw notThere(`${what} ${id}`);
    return fabric;
  };
  switch (where) {
    case 'path':
    case 'body': {
      const name = where === 'path' ? params['name']! : said.fabric!;
      if (!sees(user, name)) throw notThere(`fabric ${name}`);
      return (await fabricOf(db, name)).name;
    }
    case 'change':
      return owned('change', params['id']!, () => changeOf(db, params['id']!));
    case 'body change':
      return owned('change', said.change!, () => changeOf(db, said.change!));
    case 'rollout':
      return owned('rollout', params['id']!, () => rolloutOf(db, params['id']!));
  }
}

const fabricFirst = (route: Route): boolean => route.fabric !== undefined && !route.fabric.startsWith('body');

/** Fields of the body that the contract lets into the audit log. */
function detailOf(route: Route, body: unknown): string {
  const picked = Object.fromEntries(
    (route.logs ?? []).flatMap((key) => {
      const value = (body as Record<string, unknown> | undefined)?.[key];
      return value === undefined || value === '' ? [] : [[key, value]];
    }),
  );
  return Object.keys(picked).length === 0 ? '' : JSON.stringify(picked);
}

const isCaller = (caller: Caller | NoCaller | null): caller is Caller => caller !== null && caller.user !== null;

/** Does the call alter anything, so that it belongs into the audit log? */
const alters = (name: RouteName, route: Route): boolean => !name.startsWith('GET ') && route.quiet !== true;

/**
 * Serves the handlers under the routes of the contract. Who calls, what they may, size, build and schema of the body,
 * version, page, and the entry in the audit log are all seen to here, by the contract's table, so that no handler can
 * forget it.
 */
export function serveRoutes(router: Router, handlers: Handlers, door: Door): void {
  const { house, sessions, cookies, limits } = door;
  for (const [name, handler] of Object.entries(handlers) as [RouteName, Handler][]) {
    const [method, path] = name.split(' ') as [string, string];
    const route: Route = ROUTES[name];

    const serve = async (request: Request, response: Response): Promise<void> => {
      const found = await identify(sessions, cookies, request);
      const caller = isCaller(found) ? found : null;
      const user = caller?.user ?? NOBODY;
      const params = request.params as Record<string, string>;
      const who: Asker = { account: user.name, via: caller?.via ?? 'nobody', address: request.ip ?? '' };
      const what = { action: name, fabric: '', subject: Object.values(params).join(' '), detail: '' };

      /** Tries over the limit are refused; that it was reached is written down once, not every try beyond it. */
      const within = async (limit: Promise<void>): Promise<void> => {
        try {
          await limit;
        } catch (error) {
          if (error instanceof Trouble && limits.firstOver(request))
            await ended(house, await asked(house, who, what), `refused: ${error.message}`);
          throw error;
        }
      };
      if (GUESSED.has(name)) await within(limits.address(request, response));

      let fabric: string | null = null;
      let body: unknown;
      let version: number | undefined;
      try {
        if (route.access !== 'anyone') {
          if (!caller) throw new Trouble('not signed in', found === null ? 'Sign in first.' : (found as NoCaller).why);
          if (caller.mustChange && !WITH_GIVEN_PASSWORD.has(name))
            throw notAllowed('Your password was given out by somebody else: set your own first.');
          if (route.person && caller.token !== null)
            throw notAllowed('This is for a person at a browser; tokens cannot do it.');
          if (!couldSomewhere(user, route)) demand(user, route, null);
          if (fabricFirst(route)) fabric = await findFabric(house, route.fabric!, user, params, null);
          if (fabricFirst(route) || route.fabric === undefined) demand(user, route, fabric);
        }
        version = versionIn(request, route);
        body = await readBody(route, request, response);
        if (route.fabric !== undefined && !fabricFirst(route)) {
          fabric = await findFabric(house, route.fabric, user, params, body);
          demand(user, route, fabric);
        }
      } catch (error) {
        // What somebody who is known was refused for want of a right is written down; what was never understood is not.
        if (caller && alters(name, route) && error instanceof Trouble && error.kind === 'not allowed')
          await ended(house, await asked(house, who, { ...what, fabric: fabric ?? '' }), `refused: ${error.message}`);
        throw error;
      }
      if (GUESSED.has(name))
        await within(limits.account(user.name || ((body as { name?: string }).name ?? ''), request, response));

      const query = Object.fromEntries(
        Object.entries(request.query).flatMap(([k, v]) => (typeof v === 'string' ? [[k, v]] : [])),
      );
      const call: Call = {
        params,
        query,
        body,
        user,
        caller,
        fabric,
        version,
        page: route.paged ? pageIn(query) : FIRST_PAGE,
        address: request.ip ?? '',
        stillMay: async () => {
          const now = await identify(sessions, cookies, request, false);
          return isCaller(now) && !now.mustChange && mayCall(now.user, route.access, fabric);
        },
        request,
        response,
      };
      const answer = alters(name, route)
        ? await written(who, { ...what, fabric: fabric ?? '', detail: detailOf(route, body) }, () => handler(call))
        : await handler(call);
      if (response.headersSent || response.writableEnded) return;
      if (route.paged) sendPage(request, response, answer as Page<unknown>);
      else if (answer instanceof Uint8Array) response.type('application/json').send(Buffer.from(answer));
      else response.json(answer === undefined ? { done: true } : answer);
    };

    /** Does something between two entries of the audit log: that it is asked, and how it ended. */
    const written = async (
      who: Asker,
      what: Parameters<typeof asked>[2],
      work: () => Promise<unknown>,
    ): Promise<unknown> => {
      const n = await asked(house, who, what);
      const end = (outcome: string): Promise<void> =>
        ended(house, n, outcome).then(
          () => undefined,
          (error: unknown) => house.log.error({ err: error, entry: n }, 'how it ended could not be written down'),
        );
      try {
        const answer = await work();
        await end('done');
        return answer;
      } catch (error) {
        await end(
          error instanceof Trouble
            ? `refused: ${error.message}`
            : storageTrouble(error) !== null
              ? 'failed: nothing could be written'
              : 'failed: a fault of ours',
        );
        throw error;
      }
    };

    router[method.toLowerCase() as 'get'](path, (request, response, next) => {
      serve(request, response).catch(next);
    });
  }
}
