import type { AccountAnswer, User } from '@anthemion/contract';
import type { Selectable } from 'kysely';
import type { Reads, Tables, Writes } from './database.ts';
import { pageOf, type Page, type PageAsked } from './pages.ts';

/** An account as it is kept. */
export interface StoredAccount extends User {
  readonly salt: string;
  readonly hash: string;
  readonly disabled: boolean;
  /** The password was given out by somebody else: it only opens the door to set one's own. */
  readonly mustChange: boolean;
}

type Row = Selectable<Tables['users']>;
const toUser = (row: Pick<Row, 'name' | 'full_name' | 'roles' | 'bound' | 'admin'>): User => ({
  name: row.name,
  fullName: row.full_name,
  roles: JSON.parse(row.roles) as User['roles'],
  bound: JSON.parse(row.bound) as User['bound'],
  admin: row.admin === 1,
});

export async function accountOf(db: Reads, name: string): Promise<StoredAccount | null> {
  const row = await db.selectFrom('users').selectAll().where('name', '=', name).executeTakeFirst();
  return row
    ? {
        ...toUser(row),
        salt: row.salt,
        hash: row.hash,
        disabled: row.disabled === 1,
        mustChange: row.must_change === 1,
      }
    : null;
}

export async function anyAccount(db: Reads): Promise<boolean> {
  return (await db.selectFrom('users').select('name').limit(1).executeTakeFirst()) !== undefined;
}

/** Does anybody else keep the accounts? */
export async function otherKeeper(db: Reads, name: string): Promise<boolean> {
  const row = await db
    .selectFrom('users')
    .select('name')
    .where('admin', '=', 1)
    .where('disabled', '=', 0)
    .where('name', '<>', name)
    .limit(1)
    .executeTakeFirst();
  return row !== undefined;
}

export async function accountPage(db: Reads, asked: PageAsked): Promise<Page<AccountAnswer>> {
  const rows = await db
    .selectFrom('users as u')
    .selectAll('u')
    .select((e) => [
      e
        .selectFrom('sessions as s')
        .select((m) => m.fn.max('s.seen_at').as('at'))
        .whereRef('s.account', '=', 'u.name')
        .as('seen_at'),
    ])
    .where('u.name', '>', asked.after ?? '')
    .orderBy('u.name')
    .limit(asked.limit + 1)
    .execute();
  return pageOf(
    rows,
    asked,
    (r) => r.name,
    (r) => ({
      ...toUser(r),
      disabled: r.disabled === 1,
      mustChange: r.must_change === 1,
      madeAt: r.created_at,
      passwordAt: r.password_at,
      seenAt: r.seen_at,
    }),
  );
}

export async function addAccount(db: Writes, account: StoredAccount, at: string): Promise<void> {
  await db
    .insertInto('users')
    .values({
      name: account.name,
      full_name: account.fullName,
      roles: JSON.stringify(account.roles),
      bound: JSON.stringify(account.bound),
      admin: account.admin ? 1 : 0,
      salt: account.salt,
      hash: account.hash,
      disabled: account.disabled ? 1 : 0,
      must_change: account.mustChange ? 1 : 0,
      password_at: at,
      created_at: at,
    })
    .execute();
}

export async function changeAccount(
  db: Writes,
  name: string,
  to: Pick<User, 'fullName' | 'roles' | 'bound' | 'admin'> & { readonly disabled: boolean },
): Promise<boolean> {
  const done = await db
    .updateTable('users')
    .set({
      full_name: to.fullName,
      roles: JSON.stringify(to.roles),
      bound: JSON.stringify(to.bound),
      admin: to.admin ? 1 : 0,
      disabled: to.disabled ? 1 : 0,
    })
    .where('name', '=', name)
    .executeTakeFirst();
  return done.numUpdatedRows === 1n;
}

export async function setPassword(
  db: Writes,
  name: string,
  word: { readonly salt: string; readonly hash: string; readonly mustChange: boolean },
  at: string,
): Promise<boolean> {
  const done = await db
    .updateTable('users')
    .set({ salt: word.salt, hash: word.hash, must_change: word.mustChange ? 1 : 0, password_at: at })
    .where('name', '=', name)
    .executeTakeFirst();
  return done.numUpdatedRows === 1n;
}

export async function removeAccount(db: Writes, name: string): Promise<boolean> {
  return (await db.deleteFrom('users').where('name', '=', name).executeTakeFirst()).numDeletedRows === 1n;
}
