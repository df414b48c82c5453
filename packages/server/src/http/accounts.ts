import type { AccountRequest, SessionAnswer, Settings, SignInRequest, User } from '@anthemion/contract';
import type { Request } from 'express';
import { DEMO_ACCOUNTS } from '../seed/demoAccounts.ts';
import { makeAccount, makeFirstAccount, signIn } from '../services/accounts.ts';
import { at, type House } from '../services/house.ts';
import { accountPage, anyAccount, userOf } from '../store/accounts.ts';
import { putSetting, readSettings } from '../store/settings.ts';
import type { Handlers } from './routes.ts';

const SESSION_HOURS = 12;

/** The signed-in user of a request, or null; the cookie holds name and time, signed. */
export const userReader =
  ({ db, now }: House) =>
  async (request: Request): Promise<User | null> => {
    const session = request.session as { name?: string; at?: number } | null | undefined;
    if (!session?.name || !session.at || now().getTime() - session.at > SESSION_HOURS * 3_600_000) return null;
    return userOf(db, session.name);
  };

export function accountHandlers(house: House, demo: boolean): Handlers {
  const { db, now } = house;
  const enter = (request: Request, name: string): void => {
    request.session = { name, at: now().getTime() };
  };
  return {
    'GET /api/session': async ({ user }): Promise<SessionAnswer> => ({
      user: user.name === '' ? null : user,
      firstStart: !(await anyAccount(db)),
      demoAccounts: demo ? DEMO_ACCOUNTS : [],
    }),
    'POST /api/session': async ({ body, request }) => {
      const { name, password } = body as SignInRequest;
      const user = await signIn(db, name, password);
      enter(request, user.name);
      return { user };
    },
    'DELETE /api/session': ({ request }) => {
      request.session = null;
      return Promise.resolve();
    },
    'POST /api/first-account': async ({ body, request }) => {
      const account = body as AccountRequest;
      await makeFirstAccount(db, account, at(house));
      enter(request, account.name);
    },
    'GET /api/users': ({ page }) => accountPage(db, page),
    'POST /api/users': ({ body }) => makeAccount(db, body as AccountRequest, false, at(house)),
    'GET /api/settings': () => readSettings(db),
    'PUT /api/settings': ({ body }) => putSetting(db, 'secondPerson', String((body as Settings).secondPerson)),
  };
}
