import { emptyIntent, type FabricIntent } from '@anthemion/core';
import type { RevisionAnswer } from '@anthemion/contract';
import { notThere } from '../trouble.ts';
import type { Reads, Tables, Writes } from './database.ts';
import { readDocument } from './documents.ts';
import { pageOf, type Page, type PageAsked, type Sight } from './pages.ts';

/** Counts of a fabric's newest revision, kept so that a list need not read intents. */
export interface FabricFigures {
  readonly spines: number;
  readonly superSpines: number;
  readonly leaves: number;
  readonly racks: number;
}
export interface FabricRow {
  readonly name: string;
  readonly prefix: string;
  readonly figures: FabricFigures;
  /** Release that last compared its own texts with the live ones, and how many switches it would write differently. */
  readonly writtenBy: string;
  readonly releaseWrites: number;
  readonly revision: number;
  readonly liveSince: string | null;
  readonly openChanges: number;
}

const rows = (db: Reads) =>
  db.selectFrom('fabrics as f').select((e) => [
    'f.name',
    'f.prefix',
    'f.figures',
    'f.written_by',
    'f.release_writes',
    e
      .selectFrom('revisions as r')
      .select((m) => m.fn.max('r.number').as('n'))
      .whereRef('r.fabric', '=', 'f.name')
      .as('revision'),
    e
      .selectFrom('revisions as r')
      .select('r.at')
      .whereRef('r.fabric', '=', 'f.name')
      .orderBy('r.number', 'desc')
      .limit(1)
      .as('at'),
    e
      .selectFrom('changes as c')
      .select((m) => m.fn.countAll<number>().as('n'))
      .whereRef('c.fabric', '=', 'f.name')
      .where('c.state', 'not in', ['Live', 'Withdrawn'])
      .as('open'),
  ]);
type Read = Awaited<ReturnType<ReturnType<typeof rows>['execute']>>[number];
const toFabric = (r: Read): FabricRow => ({
  name: r.name,
  prefix: r.prefix,
  // Releases before there were super-spines did not count them.
  figures: { superSpines: 0, ...(JSON.parse(r.figures) as Omit<FabricFigures, 'superSpines'>) },
  writtenBy: r.written_by,
  releaseWrites: r.release_writes,
  revision: Number(r.revision ?? 0),
  liveSince: r.at,
  openChanges: Number(r.open ?? 0),
});

export async function fabricOf(db: Reads, name: string): Promise<FabricRow> {
  const row = await rows(db).where('f.name', '=', name).executeTakeFirst();
  if (!row) throw notThere(`fabric ${name}`);
  return toFabric(row);
}
/** Fabrics by name, of those that are seen (null = all). */
export async function fabricPage(db: Reads, asked: PageAsked, sight: Sight): Promise<Page<FabricRow>> {
  let query = rows(db)
    .where('f.name', '>', asked.after ?? '')
    .orderBy('f.name')
    .limit(asked.limit + 1);
  if (sight !== null) query = query.where('f.name', 'in', sight);
  const found = await query.execute();
  return pageOf(found, asked, (r) => r.name, toFabric);
}
/** Fabrics whose live texts this release has not compared with its own yet. */
export const fabricsOfOtherReleases = async (db: Reads, release: string): Promise<string[]> =>
  (await db.selectFrom('fabrics').select('name').where('written_by', '<>', release).orderBy('name').execute()).map(
    (r) => r.name,
  );
export const fabricNames = async (db: Reads): Promise<string[]> =>
  (await db.selectFrom('fabrics').select('name').orderBy('name').execute()).map((r) => r.name);

/** Who has this name or this prefix already. */
export async function fabricTwin(
  db: Reads,
  name: string,
  prefix: string,
): Promise<{ name: string; prefix: string } | null> {
  const row = await db
    .selectFrom('fabrics')
    .select(['name', 'prefix'])
    .where((e) => e.or([e('name', '=', name), e('prefix', '=', prefix)]))
    .executeTakeFirst();
  return row ?? null;
}
export async function addFabric(db: Writes, name: string, prefix: string, at: string): Promise<void> {
  await db.insertInto('fabrics').values({ name, prefix, created_at: at }).execute();
}
export async function putFigures(db: Writes, name: string, figures: FabricFigures): Promise<void> {
  await db
    .updateTable('fabrics')
    .set({ figures: JSON.stringify(figures) })
    .where('name', '=', name)
    .execute();
}

/** The texts a revision meant, as the release wrote them that sent them: a revision says for ever what it was. */
export async function keepRevisionTexts(
  db: Writes,
  fabric: string,
  number: number,
  texts: readonly { readonly seat: string; readonly host: string; readonly hash: string }[],
): Promise<void> {
  for (const { seat, host, hash } of texts)
    await db.insertInto('revision_texts').values({ fabric, number, seat, host, hash }).execute();
}

/** What speaks against forgetting a fabric. */
export interface FabricTies {
  /** Rollouts that were begun in it. */
  readonly rollouts: number;
  /** Switches that were confirmed with a text of it. */
  readonly switches: number;
  /** Accounts and tokens that are bound to it. */
  readonly bound: readonly string[];
}
export async function tiesOf(db: Reads, fabric: string): Promise<FabricTies> {
  const count = async (table: 'rollouts' | 'switch_live'): Promise<number> =>
    Number(
      (
        await db
          .selectFrom(table)
          .select((e) => e.fn.countAll<number>().as('n'))
          .where('fabric', '=', fabric)
          .executeTakeFirstOrThrow()
      ).n,
    );
  const users = await db.selectFrom('users').select(['name', 'bound']).execute();
  const tokens = await db.selectFrom('tokens').select(['name', 'account', 'fabrics']).execute();
  return {
    rollouts: await count('rollouts'),
    switches: await count('switch_live'),
    bound: [
      ...users.filter((u) => Object.hasOwn(JSON.parse(u.bound) as object, fabric)).map((u) => `account ${u.name}`),
      ...tokens
        .filter((t) => (JSON.parse(t.fabrics) as string[]).includes(fabric))
        .map((t) => `token ${t.name} of ${t.account}`),
    ],
  };
}

/** Forgets a fabric of which nothing ever went to a switch, with its changes and what they hold. To be called in a transaction. */
export async function dropFabric(tx: Writes, fabric: string): Promise<void> {
  const changes = tx.selectFrom('changes').select('id').where('fabric', '=', fabric);
  for (const table of ['edits', 'change_hands', 'approvals', 'rehearsals'] as const)
    await tx.deleteFrom(table).where('change_id', 'in', changes).execute();
  for (const table of ['ledger', 'seat_claims', 'causes', 'standings', 'changes', 'findables', 'ran_texts'] as const)
    await tx.deleteFrom(table).where('fabric', '=', fabric).execute();
  await tx.deleteFrom('fabrics').where('name', '=', fabric).execute();
}

/** The texts a revision meant; of one before they were kept there are none. */
export const revisionTexts = (
  db: Reads,
  fabric: string,
  number: number,
): Promise<Pick<Tables['revision_texts'], 'seat' | 'host' | 'hash'>[]> =>
  db
    .selectFrom('revision_texts')
    .select(['seat', 'host', 'hash'])
    .where('fabric', '=', fabric)
    .where('number', '=', number)
    .execute();

export async function putReleaseWrites(db: Writes, name: string, release: string, switches: number): Promise<void> {
  await db
    .updateTable('fabrics')
    .set({ written_by: release, release_writes: switches })
    .where('name', '=', name)
    .execute();
}

/** Number of the newest revision; 0 before anything went live. */
export async function liveRevision(db: Reads, fabric: string): Promise<number> {
  const row = await db
    .selectFrom('revisions')
    .select((e) => e.fn.max('number').as('n'))
    .where('fabric', '=', fabric)
    .executeTakeFirst();
  return Number(row?.n ?? 0);
}

/** Intent of a fabric at a revision; 0 is the empty fabric. */
export async function intentAt(db: Reads, fabric: string, revision: number): Promise<FabricIntent> {
  if (revision === 0) {
    const { name, prefix } = await fabricOf(db, fabric);
    return emptyIntent(name, prefix);
  }
  const row = await db
    .selectFrom('revisions')
    .select('intent')
    .where('fabric', '=', fabric)
    .where('number', '=', revision)
    .executeTakeFirst();
  if (!row) throw notThere(`revision ${revision} of ${fabric}`);
  return readDocument('intent', row.intent);
}

export async function addRevision(db: Writes, revision: Tables['revisions']): Promise<void> {
  await db.insertInto('revisions').values(revision).execute();
}

/** The change that became a revision. */
export async function changeOfRevision(db: Reads, fabric: string, number: number): Promise<string | null> {
  const row = await db
    .selectFrom('revisions')
    .select('change_id')
    .where('fabric', '=', fabric)
    .where('number', '=', number)
    .executeTakeFirst();
  return row?.change_id ?? null;
}

export async function revisionPage(db: Reads, fabric: string, asked: PageAsked): Promise<Page<RevisionAnswer>> {
  const found = await db
    .selectFrom('revisions')
    .select(['number', 'author', 'reason', 'ticket', 'title', 'change_id', 'at', 'sentences'])
    .where('fabric', '=', fabric)
    .where('number', '<', Number(asked.after ?? Number.MAX_SAFE_INTEGER))
    .orderBy('number', 'desc')
    .limit(asked.limit + 1)
    .execute();
  return pageOf(
    found,
    asked,
    (r) => String(r.number),
    (r) => ({
      number: r.number,
      author: r.author,
      reason: r.reason,
      ticket: r.ticket,
      title: r.title,
      change: r.change_id,
      at: r.at,
      sentences: JSON.parse(r.sentences) as string[],
    }),
  );
}
