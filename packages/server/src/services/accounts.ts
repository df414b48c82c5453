import type { AccountRequest, User } from '@anthemion/contract';
import { problem } from '@anthemion/core';
import { accountOf, addAccount, anyAccount } from '../store/accounts.ts';
import type { Db } from '../store/database.ts';
import { hashPassword, passwordMatches } from '../store/secrets.ts';
import { isTaken, notNow, refused, Trouble } from '../trouble.ts';

/** Spends the same time on a name that does not exist as on one that does. */
const nobody = hashPassword('nobody at all');

/** The account of a name and a password that belong together. */
export async function signIn(db: Db, name: string, password: string): Promise<User> {
  const account = await accountOf(db, name);
  const right = await passwordMatches(password, account ?? (await nobody));
  if (!account || !right) throw new Trouble('not signed in', 'Name and password do not match an account.');
  const { salt: _s, hash: _h, ...user } = account;
  return user;
}

export async function makeAccount(db: Db, account: AccountRequest, admin: boolean, at: string): Promise<void> {
  const { salt, hash } = await hashPassword(account.password);
  try {
    await addAccount(db, { ...account, admin, salt, hash }, at);
  } catch (error) {
    if (!isTaken(error)) throw error;
    throw refused([
      problem('account-new', '/name', `There is already an account ${account.name}.`, 'Choose another name.'),
    ]);
  }
}

/** The first account, which keeps the others; only while there is none. */
export async function makeFirstAccount(db: Db, account: AccountRequest, at: string): Promise<void> {
  const { salt, hash } = await hashPassword(account.password);
  await db.transaction().execute(async (tx) => {
    if (await anyAccount(tx)) throw notNow('There is an account already; sign in with it.');
    await addAccount(tx, { ...account, admin: true, salt, hash }, at);
  });
}
