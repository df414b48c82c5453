import type { Settings } from '@anthemion/contract';
import type { Reads, Writes } from './database.ts';

export async function settingOf(db: Reads, key: string): Promise<string | null> {
  return (await db.selectFrom('settings').select('value').where('key', '=', key).executeTakeFirst())?.value ?? null;
}

/** Reads a setting and takes it away. */
export async function takeSetting(db: Writes, key: string): Promise<string | null> {
  const row = await db.deleteFrom('settings').where('key', '=', key).returning('value').executeTakeFirst();
  return row?.value ?? null;
}

export async function putSetting(db: Writes, key: string, value: string): Promise<void> {
  await db
    .insertInto('settings')
    .values({ key, value })
    .onConflict((c) => c.column('key').doUpdateSet({ value }))
    .execute();
}

export const readSettings = async (db: Reads): Promise<Settings> => ({
  secondPerson: (await settingOf(db, 'secondPerson')) !== 'false',
});
