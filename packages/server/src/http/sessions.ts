import type { AccountRequest, SessionAnswer, SignInRequest, User } from '@anthemion/contract';
import type { Request } from 'express';
import { problem } from '@anthemion/core';
import type { ServerContext } from '../context.ts';
import type { Db } from '../store/database.ts';
import { hashPassword, passwordMatches } from '../store/secrets.ts';
import { HttpProblem, refused } from './problem.ts';
import type { Handlers } from './routes.ts';
import { DEMO_ACCOUNTS } from '../seed/demoAccounts.ts';

const SESSION_HOURS = 12;

const toUser = (row: { name: string; full_name: string; roles: string; admin: number }): User => ({
  name: row.name,
  fullName: row.full_name,
  roles: JSON.parse(row.roles) as User['roles'],
  admin: row.admin === 1,
});

/** The signed-in user of a request, or null; the cookie holds name and time, signed. */
export const userReader =
  (db: Db, now: () => Date) =>
  async (request: Request): Promise<User | null> => {
    const session = request.session as { name?: string; at?: number } | null | undefined;
    if (!session?.name || !session.at || now().getTime() - session.at > SESSION_HOURS * 3_600_000) return null;
    const row = await db.selectFrom('users').selectAll().where('name', '=', session.name).executeTakeFirst();
    return row ? toUser(row) : null;
  };

export async function makeAccount(db: Db, account: AccountRequest, admin: boolean): Promise<void> {
  const { salt, hash } = await hashPassword(account.password);
  await db
    .insertInto('users')
    .values({
      name: account.name,
      full_name: account.fullName,
      roles: JSON.stringify(account.roles),
      admin: admin ? 1 : 0,
      salt,
      hash,
      created_at: new Date().toISOString(),
    })
    .execute();
}

export function sessionHandlers({ db, demo, now }: ServerContext): Handlers {
  const count = async (): Promise<number> =>
    Number(
      (
        await db
          .selectFrom('users')
          .select((e) => e.fn.countAll().as('n'))
          .executeTakeFirstOrThrow()
      ).n,
    );
  const signIn = (request: Request, name: string): void => {
    request.session = { name, at: now().getTime() };
  };
  // Spends the same time on a name that does not exist as on one that does.
  const nobody = hashPassword('nobody at all');
  return {
    'GET /api/session': async ({ user }): Promise<SessionAnswer> => ({
      user: user.name === '' ? null : user,
      firstStart: (await count()) === 0,
      demoAccounts: demo ? DEMO_ACCOUNTS : [],
    }),
    'POST /api/session': async ({ body, request }) => {
      const { name, password } = body as SignInRequest;
      const row = await db.selectFrom('users').selectAll().where('name', '=', name).executeTakeFirst();
      const right = await passwordMatches(password, row ?? (await nobody));
      if (!row || !right) throw new HttpProblem(401, 'Name and password do not match an account.');
      signIn(request, row.name);
      return { user: toUser(row) };
    },
    'DELETE /api/session': async ({ request }) => {
      request.session = null;
    },
    'POST /api/first-account': async ({ body, request }) => {
      if ((await count()) > 0) throw new HttpProblem(409, 'There is an account already; sign in with it.');
      const account = body as AccountRequest;
      await makeAccount(db, account, true);
      signIn(request, account.name);
    },
    'GET /api/users': async () => (await db.selectFrom('users').selectAll().orderBy('name').execute()).map(toUser),
    'POST /api/users': async ({ body }) => {
      const account = body as AccountRequest;
      if (await db.selectFrom('users').select('name').where('name', '=', account.name).executeTakeFirst())
        throw refused([
          problem('account-new', '/name', `There is already an account ${account.name}.`, 'Choose another name.'),
        ]);
      await makeAccount(db, account, false);
    },
  };
}
