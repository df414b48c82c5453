import type { ConfigFiles } from '@anthemion/core';
import { createHash } from 'node:crypto';
import { sql } from 'kysely';
import type { Db, Reads, Writes } from './database.ts';
import { deflateTexts, inflateTexts } from './deflate.ts';

/** A text ready to be kept: its hash, and its files as deflated JSON. */
export interface KeptText {
  readonly hash: string;
  readonly body: Buffer;
}

export const hashOfFiles = (files: ConfigFiles): string =>
  createHash('sha256').update(JSON.stringify(files)).digest('hex');
export const textToKeep = (files: ConfigFiles): KeptText => ({
  hash: hashOfFiles(files),
  body: deflateTexts(JSON.stringify(files)),
});

/** Keeps texts under the hash of their content; the same text is kept once. */
export async function keepTexts(db: Writes, texts: readonly KeptText[]): Promise<void> {
  for (const { hash, body } of texts)
    await db
      .insertInto('texts')
      .values({ hash, body })
      .onConflict((c) => c.doNothing())
      .execute();
}

export async function keepText(db: Writes, files: ConfigFiles): Promise<string> {
  const text = textToKeep(files);
  await keepTexts(db, [text]);
  return text.hash;
}

export async function textOf(db: Reads, hash: string | null): Promise<ConfigFiles | null> {
  if (hash === null) return null;
  const row = await db.selectFrom('texts').select('body').where('hash', '=', hash).executeTakeFirst();
  return row ? (JSON.parse(inflateTexts(row.body)) as ConfigFiles) : null;
}

/** Deletes up to `limit` texts that nothing refers to any more; answers how many went. */
export async function pruneTexts(db: Db, limit: number): Promise<number> {
  const used = (column: string, table: string) =>
    sql`not exists (select 1 from ${sql.table(table)} u where ${sql.ref(`u.${column}`)} = texts.hash)`;
  const done = await sql`delete from texts where hash in (select hash from texts where ${used('running', 'switches')}
    and ${used('hash', 'switch_live')} and ${used('hash', 'revision_texts')} and ${used('hash', 'meant')} and ${used('target', 'rollout_switches')}
    and ${used('hash', 'ran_texts')} and ${used('before', 'rollout_switches')} and ${used('expected', 'rollout_switches')} limit ${limit})`.execute(
    db,
  );
  return Number(done.numAffectedRows ?? 0);
}
