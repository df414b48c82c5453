import type {
  AccountPatch,
  AccountRequest,
  FirstAccountRequest,
  PasswordRequest,
  SessionAnswer,
  Settings,
  SignInRequest,
  TokenRequest,
} from '@anthemion/contract';
import { DEMO_ACCOUNTS } from '../seed/demoAccounts.ts';
import {
  changeOwnPassword,
  deleteAccount,
  makeFirstAccount,
  makeToken,
  newAccount,
  patchAccount,
  resetPassword,
  signIn,
  type FirstCode,
} from '../services/accounts.ts';
import type { House } from '../services/house.ts';
import type { Sessions } from '../services/sessions.ts';
import { accountOf, accountPage, anyAccount } from '../store/accounts.ts';
import { endToken, sessionPage, tokenPage } from '../store/sessions.ts';
import { putSetting, readSettings } from '../store/settings.ts';
import { notThere } from '../trouble.ts';
import { identify, putCookie, type CookieWays } from './identity.ts';
import type { Call, Handlers } from './routes.ts';

export interface AccountParts {
  readonly house: House;
  readonly sessions: Sessions;
  readonly cookies: CookieWays;
  readonly firstCode: FirstCode | null;
  readonly demo: boolean;
}

/** Signing in and out, accounts, sessions, tokens and settings. */
export function accountHandlers({ house, sessions, cookies, firstCode, demo }: AccountParts): Handlers {
  const { db } = house;
  /** Begins a session under a fresh word; the one that was shown, if any, ends. */
  const enter = async (call: Call, name: string): Promise<void> => {
    const before = await identify(sessions, cookies, call.request, false);
    if (before?.user && before.session !== null) await sessions.end({ id: before.session });
    putCookie(call.response, await sessions.begin(name, call.address, call.request.get('user-agent') ?? ''), cookies);
  };
  const dropToken = async (id: string, account: string | null): Promise<void> => {
    if (!(await endToken(db, id, account))) throw notThere('such token');
    sessions.tell(id);
  };
  const dropSession = async (id: string, account: string | undefined): Promise<void> => {
    const gone = await sessions.end({ id, ...(account === undefined ? {} : { account }) });
    if (gone.length === 0) throw notThere('such session');
  };
  const sessionsOf = async ({ page, caller }: Call, account: string | null) => {
    await sessions.dropOld();
    const { items, next } = await sessionPage(db, page, account);
    return { items: items.map((s) => ({ ...s, own: s.id === caller?.session })), next };
  };
  return {
    'GET /api/session': async ({ caller }): Promise<SessionAnswer> => ({
      user: caller?.user ?? null,
      mustChange: caller?.mustChange ?? false,
      firstStart: !(await anyAccount(db)),
      demoAccounts: demo ? DEMO_ACCOUNTS : [],
      ...(caller?.user ? { told: house.events.last } : {}),
    }),
    'POST /api/session': async (call) => {
      const { name, password } = call.body as SignInRequest;
      const { mustChange } = await signIn(db, name, password);
      await enter(call, name);
      return { mustChange };
    },
    'DELETE /api/session': async ({ caller, response }) => {
      if (caller?.session) await sessions.end({ id: caller.session });
      putCookie(response, '', cookies);
    },
    'POST /api/first-account': async (call) => {
      const request = call.body as FirstAccountRequest;
      await makeFirstAccount(house, firstCode, request);
      await enter(call, request.name);
    },

    'POST /api/me/password': async (call) => {
      const { name } = call.user;
      await changeOwnPassword(house, name, call.body as PasswordRequest);
      await sessions.end({ account: name });
      await enter(call, name);
    },
    'GET /api/me/sessions': (call) => sessionsOf(call, call.user.name),
    'DELETE /api/me/sessions/:id': ({ params, user }) => dropSession(params['id']!, user.name),
    'GET /api/me/tokens': ({ page, user }) => tokenPage(db, page, user.name),
    'POST /api/me/tokens': ({ body, user }) => makeToken(house, user, body as TokenRequest),
    'DELETE /api/me/tokens/:id': ({ params, user }) => dropToken(params['id']!, user.name),

    'GET /api/users': ({ page }) => accountPage(db, page),
    'POST /api/users': ({ body }) => newAccount(house, body as AccountRequest),
    'PATCH /api/users/:name': ({ params, body }) =>
      patchAccount(house, sessions, params['name']!, body as AccountPatch),
    'POST /api/users/:name/reset': ({ params }) => resetPassword(house, sessions, params['name']!),
    'DELETE /api/users/:name': ({ params }) => deleteAccount(house, sessions, params['name']!),
    'GET /api/sessions': (call) => sessionsOf(call, null),
    'DELETE /api/sessions/:id': ({ params }) => dropSession(params['id']!, undefined),
    'POST /api/sessions/end': async ({ body }) => {
      const { account } = body as { account: string };
      if (!(await accountOf(db, account))) throw notThere(`account ${account}`);
      return { ended: (await sessions.end({ account })).length };
    },
    'GET /api/tokens': ({ page }) => tokenPage(db, page, null),
    'DELETE /api/tokens/:id': ({ params }) => dropToken(params['id']!, null),

    'GET /api/settings': () => readSettings(db),
    'PUT /api/settings': ({ body }) => putSetting(db, 'secondPerson', String((body as Settings).secondPerson)),
  };
}
