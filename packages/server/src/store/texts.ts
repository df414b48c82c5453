import type { ConfigFiles } from '@anthemion/core';
import { createHash } from 'node:crypto';
import type { Db } from './database.ts';

/** Keeps files under the hash of their content; the same text is kept once. */
export async function keepText(db: Db, files: ConfigFiles): Promise<string> {
  const json = JSON.stringify(files);
  const hash = createHash('sha256').update(json).digest('hex');
  await db
    .insertInto('texts')
    .values({ hash, json })
    .onConflict((c) => c.doNothing())
    .execute();
  return hash;
}

export async function textOf(db: Db, hash: string | null): Promise<ConfigFiles | null> {
  if (hash === null) return null;
  const row = await db.selectFrom('texts').select('json').where('hash', '=', hash).executeTakeFirst();
  return row ? (JSON.parse(row.json) as ConfigFiles) : null;
}
