import type { Reads, Tables, Writes } from './database.ts';

export type SwitchAccountRow = Tables['switch_accounts'];

export const switchAccounts = (db: Reads): Promise<SwitchAccountRow[]> =>
  db.selectFrom('switch_accounts').selectAll().orderBy('name').execute();

export const switchAccountOf = async (db: Reads, name: string): Promise<SwitchAccountRow | null> =>
  (await db.selectFrom('switch_accounts').selectAll().where('name', '=', name).executeTakeFirst()) ?? null;

export async function putSwitchAccount(db: Writes, row: SwitchAccountRow): Promise<void> {
  await db
    .insertInto('switch_accounts')
    .values(row)
    .onConflict((c) => c.column('name').doUpdateSet(row))
    .execute();
}

export async function removeSwitchAccount(db: Writes, name: string): Promise<boolean> {
  return (await db.deleteFrom('switch_accounts').where('name', '=', name).executeTakeFirst()).numDeletedRows === 1n;
}

/** How many switches name each account. */
export async function usersOfSwitchAccounts(db: Reads): Promise<Map<string, number>> {
  const rows = await db
    .selectFrom('switches')
    .select((e) => ['account', e.fn.countAll<number>().as('n')])
    .where('account', 'is not', null)
    .groupBy('account')
    .execute();
  return new Map(rows.map((r) => [r.account!, Number(r.n)]));
}
