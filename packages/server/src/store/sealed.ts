import type { Reads, Writes } from './database.ts';

/** Sealed secrets by name; sealing is done by who keeps the key. */
export async function sealedOf(db: Reads, name: string): Promise<string | null> {
  return (await db.selectFrom('secrets').select('sealed').where('name', '=', name).executeTakeFirst())?.sealed ?? null;
}

export async function putSealed(db: Writes, name: string, sealed: string): Promise<void> {
  await db
    .insertInto('secrets')
    .values({ name, sealed })
    .onConflict((c) => c.column('name').doUpdateSet({ sealed }))
    .execute();
}
