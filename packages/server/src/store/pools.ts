import type { Pool } from '@anthemion/core';
import type { Reads, Writes } from './database.ts';
import { readDocument, writeDocument } from './documents.ts';

export const allPools = async (db: Reads): Promise<Pool[]> =>
  (await db.selectFrom('pools').select('json').orderBy('name').execute()).map((r) => readDocument('pool', r.json));

export async function poolOf(db: Reads, name: string): Promise<Pool | null> {
  const row = await db.selectFrom('pools').select('json').where('name', '=', name).executeTakeFirst();
  return row ? readDocument('pool', row.json) : null;
}

export async function addPool(db: Writes, pool: Pool, at: string): Promise<void> {
  await db
    .insertInto('pools')
    .values({ name: pool.name, json: writeDocument('pool', pool), created_at: at })
    .execute();
}
export async function changePool(db: Writes, pool: Pool): Promise<void> {
  await db
    .updateTable('pools')
    .set({ json: writeDocument('pool', pool) })
    .where('name', '=', pool.name)
    .execute();
}
export async function removePool(db: Writes, name: string): Promise<void> {
  await db.deleteFrom('pools').where('name', '=', name).execute();
}
