import type { PartsAnswer } from '@anthemion/contract';
import type { SwitchModel } from '@anthemion/core';
import type { Reads, Writes } from './database.ts';
import { readDocument, writeDocument } from './documents.ts';

export type PartKind = 'model' | 'rack' | 'fabric';

export async function allParts(db: Reads): Promise<PartsAnswer> {
  const rows = await db.selectFrom('parts').selectAll().orderBy('name').execute();
  const of = <K extends PartKind>(kind: K): ReturnType<typeof readDocument<K>>[] =>
    rows.filter((r) => r.kind === kind).map((r) => readDocument(kind, r.json));
  return { models: of('model'), rackPatterns: of('rack'), fabricPatterns: of('fabric') };
}

export async function putPart<K extends PartKind>(
  db: Writes,
  kind: K,
  part: ReturnType<typeof readDocument<K>>,
): Promise<void> {
  const json = writeDocument(kind, part);
  await db
    .insertInto('parts')
    .values({ kind, name: part.name, json })
    .onConflict((c) => c.columns(['kind', 'name']).doUpdateSet({ json }))
    .execute();
}

export async function dropPart(db: Writes, kind: PartKind, name: string): Promise<void> {
  await db.deleteFrom('parts').where('kind', '=', kind).where('name', '=', name).execute();
}

/** A switch model by name, as the parts have it now. */
export async function modelNamed(db: Reads, name: string): Promise<SwitchModel | undefined> {
  const row = await db
    .selectFrom('parts')
    .select('json')
    .where('kind', '=', 'model')
    .where('name', '=', name)
    .executeTakeFirst();
  return row && readDocument('model', row.json);
}
