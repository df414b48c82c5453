import type { PartsAnswer } from '@anthemion/contract';
import type { FabricPattern, RackPattern, SwitchModel } from '@anthemion/core';
import type { Reads, Writes } from './database.ts';

export async function allParts(db: Reads): Promise<PartsAnswer> {
  const rows = await db.selectFrom('parts').selectAll().orderBy('name').execute();
  const of = <T>(kind: string): T[] => rows.filter((r) => r.kind === kind).map((r) => JSON.parse(r.json) as T);
  return {
    models: of<SwitchModel>('model'),
    rackPatterns: of<RackPattern>('rack'),
    fabricPatterns: of<FabricPattern>('fabric'),
  };
}

export async function putPart(
  db: Writes,
  kind: 'model' | 'rack' | 'fabric',
  part: { readonly name: string },
): Promise<void> {
  const json = JSON.stringify(part);
  await db
    .insertInto('parts')
    .values({ kind, name: part.name, json })
    .onConflict((c) => c.columns(['kind', 'name']).doUpdateSet({ json }))
    .execute();
}
