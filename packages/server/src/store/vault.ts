import type { Reads, Tables, Tx, Writes } from './database.ts';

export type NamedSecretRow = Tables['named_secrets'];

/** Keeps a sealed value under its keyed digest; the same value is kept once. */
export async function keepSealed(db: Writes, digest: string, sealed: string, at: string): Promise<void> {
  await db
    .insertInto('sealed_values')
    .values({ digest, sealed, kept_at: at })
    .onConflict((c) => c.doNothing())
    .execute();
}
export const sealedValueOf = async (db: Reads, digest: string): Promise<string | null> =>
  (await db.selectFrom('sealed_values').select('sealed').where('digest', '=', digest).executeTakeFirst())?.sealed ??
  null;

export const namedSecrets = (db: Reads): Promise<NamedSecretRow[]> =>
  db.selectFrom('named_secrets').selectAll().orderBy('name').execute();
export async function putNamedSecret(db: Writes, row: NamedSecretRow): Promise<void> {
  await db
    .insertInto('named_secrets')
    .values(row)
    .onConflict((c) => c.column('name').doUpdateSet(row))
    .execute();
  await db
    .insertInto('named_digests')
    .values({ name: row.name, digest: row.digest })
    .onConflict((c) => c.doNothing())
    .execute();
}
/** Has this name ever stood for this value? */
export async function stoodFor(db: Reads, name: string, digest: string): Promise<boolean> {
  const row = await db
    .selectFrom('named_digests')
    .select('name')
    .where('name', '=', name)
    .where('digest', '=', digest)
    .executeTakeFirst();
  return row !== undefined;
}
export async function removeNamedSecret(db: Writes, name: string): Promise<boolean> {
  return (await db.deleteFrom('named_secrets').where('name', '=', name).executeTakeFirst()).numDeletedRows === 1n;
}

/** What the server keeps sealed for itself, by name; sealing is done by who keeps the key. */
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

/** Seals everything anew, in one transaction: what `open` cannot open is dropped where `lost` says so. */
export async function resealAll(tx: Tx, again: (sealed: string) => string): Promise<number> {
  let n = 0;
  for (const r of await tx.selectFrom('secrets').selectAll().execute()) {
    await tx
      .updateTable('secrets')
      .set({ sealed: again(r.sealed) })
      .where('name', '=', r.name)
      .execute();
    n++;
  }
  for (const r of await tx.selectFrom('switch_accounts').select(['name', 'sealed']).execute()) {
    await tx
      .updateTable('switch_accounts')
      .set({ sealed: again(r.sealed) })
      .where('name', '=', r.name)
      .execute();
    n++;
  }
  for (const r of await tx.selectFrom('sealed_values').select(['digest', 'sealed']).execute()) {
    await tx
      .updateTable('sealed_values')
      .set({ sealed: again(r.sealed) })
      .where('digest', '=', r.digest)
      .execute();
    n++;
  }
  return n;
}

/** Drops every sealed value, since the key that opens them is lost; answers how many. Names stay, empty. */
export async function dropSealed(tx: Tx): Promise<number> {
  const gone = [
    await tx.deleteFrom('named_secrets').executeTakeFirst(),
    await tx.deleteFrom('named_digests').executeTakeFirst(),
    await tx.deleteFrom('sealed_values').executeTakeFirst(),
    await tx.deleteFrom('secrets').executeTakeFirst(),
    await tx.updateTable('switch_accounts').set({ sealed: '' }).executeTakeFirst(),
  ];
  return gone.reduce((n, r) => n + Number('numDeletedRows' in r ? r.numDeletedRows : r.numUpdatedRows), 0);
}
