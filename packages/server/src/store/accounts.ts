import type { User } from '@anthemion/contract';
import type { Reads, Writes } from './database.ts';
import { pageOf, type Page, type PageAsked } from './pages.ts';

export interface StoredAccount extends User {
  readonly salt: string;
  readonly hash: string;
}

const toUser = (row: { name: string; full_name: string; roles: string; admin: number }): User => ({
  name: row.name,
  fullName: row.full_name,
  roles: JSON.parse(row.roles) as User['roles'],
  admin: row.admin === 1,
});

export async function accountOf(db: Reads, name: string): Promise<StoredAccount | null> {
  const row = await db.selectFrom('users').selectAll().where('name', '=', name).executeTakeFirst();
  return row ? { ...toUser(row), salt: row.salt, hash: row.hash } : null;
}

export const userOf = async (db: Reads, name: string): Promise<User | null> => {
  const row = await db.selectFrom('users').selectAll().where('name', '=', name).executeTakeFirst();
  return row ? toUser(row) : null;
};

export async function anyAccount(db: Reads): Promise<boolean> {
  return (await db.selectFrom('users').select('name').limit(1).executeTakeFirst()) !== undefined;
}

export async function accountPage(db: Reads, asked: PageAsked): Promise<Page<User>> {
  const rows = await db
    .selectFrom('users')
    .selectAll()
    .where('name', '>', asked.after ?? '')
    .orderBy('name')
    .limit(asked.limit + 1)
    .execute();
  return pageOf(rows, asked, (r) => r.name, toUser);
}

export async function addAccount(db: Writes, account: StoredAccount, at: string): Promise<void> {
  await db
    .insertInto('users')
    .values({
      name: account.name,
      full_name: account.fullName,
      roles: JSON.stringify(account.roles),
      admin: account.admin ? 1 : 0,
      salt: account.salt,
      hash: account.hash,
      created_at: at,
    })
    .execute();
}
