import type { ApprovalAnswer, ChangeState, ChangeSummary, EditAnswer, TouchAnswer } from '@anthemion/contract';
import type { Edit } from '@anthemion/core';
import { sql, type Selectable } from 'kysely';
import { notThere } from '../trouble.ts';
import type { Reads, Tables, Writes } from './database.ts';
import { readDocument, writeDocument } from './documents.ts';
import { markOf, pageOf, readMark, type Page, type PageAsked, type Sight } from './pages.ts';

export type ChangeRow = Selectable<Tables['changes']>;

/** States in which a change can still be edited. */
export const OPEN_STATES: readonly ChangeState[] = ['Drafting', 'Proven', 'Approved', 'Stale'];

type SummaryRow = Pick<
  ChangeRow,
  | 'id'
  | 'fabric'
  | 'title'
  | 'reason'
  | 'ticket'
  | 'author'
  | 'state'
  | 'base_revision'
  | 'updated_at'
  | 'version'
  | 'asked_by'
  | 'asked_at'
  | 'asked_version'
>;
const summaryOf = (r: SummaryRow, edits: number): ChangeSummary => ({
  id: r.id,
  fabric: r.fabric,
  title: r.title,
  reason: r.reason,
  ticket: r.ticket,
  author: r.author,
  state: r.state as ChangeState,
  baseRevision: r.base_revision,
  edits,
  updatedAt: r.updated_at,
  version: r.version,
  // Who asked for a yes asked for it to what the change was then.
  asked:
    r.asked_by !== null && r.asked_at !== null && r.asked_version === r.version && r.state === 'Proven'
      ? { by: r.asked_by, at: r.asked_at }
      : null,
});

export async function changeOf(db: Reads, id: string): Promise<ChangeRow> {
  const row = await db.selectFrom('changes').selectAll().where('id', '=', id).executeTakeFirst();
  if (!row) throw notThere(`change ${id}`);
  return row;
}

export async function changePage(db: Reads, asked: PageAsked, sight: Sight): Promise<Page<ChangeSummary>> {
  const after = readMark(asked.after);
  let query = db
    .selectFrom('changes')
    .select((e) => [
      'id',
      'fabric',
      'title',
      'reason',
      'ticket',
      'author',
      'state',
      'base_revision',
      'updated_at',
      'version',
      'asked_by',
      'asked_at',
      'asked_version',
      e
        .selectFrom('edits')
        .select((x) => x.fn.countAll<number>().as('n'))
        .whereRef('edits.change_id', '=', 'changes.id')
        .as('edit_count'),
    ])
    .orderBy('updated_at', 'desc')
    .orderBy('id', 'desc')
    .limit(asked.limit + 1);
  if (sight !== null) query = query.where('fabric', 'in', sight);
  if (after) query = query.where((e) => e(e.refTuple('updated_at', 'id'), '<', e.tuple(after[0], after[1])));
  return pageOf(
    await query.execute(),
    asked,
    (r) => markOf(r.updated_at, r.id),
    (r) => summaryOf(r, Number(r.edit_count ?? 0)),
  );
}

export async function stepsOf(db: Reads, change: string): Promise<EditAnswer[]> {
  const rows = await db.selectFrom('edits').selectAll().where('change_id', '=', change).orderBy('position').execute();
  return rows.map((s) => ({
    position: s.position,
    edit: readDocument('edit', s.json),
    sentence: s.sentence,
    author: s.author,
    at: s.at,
  }));
}
export const handsOf = async (db: Reads, change: string): Promise<string[]> =>
  (await db.selectFrom('change_hands').select('name').where('change_id', '=', change).orderBy('name').execute()).map(
    (r) => r.name,
  );
export const approvalsOf = (
  db: Reads,
  change: string,
): Promise<(ApprovalAnswer & { version: number; digest: string })[]> =>
  db
    .selectFrom('approvals')
    .select(['by', 'at', 'note', 'version', 'digest'])
    .where('change_id', '=', change)
    .execute();

export const summary = summaryOf;

export async function addChange(
  db: Writes,
  change: Pick<ChangeRow, 'id' | 'fabric' | 'title' | 'reason' | 'ticket' | 'author' | 'base_revision'>,
  at: string,
): Promise<void> {
  await db
    .insertInto('changes')
    .values({
      ...change,
      state: 'Drafting',
      version: 1,
      proof: null,
      proof_version: null,
      proof_digest: null,
      proof_touches: null,
      proven_at: null,
      conflicts: '[]',
      created_at: at,
      updated_at: at,
    })
    .execute();
}

/**
 * Sets fields of a change, if it is still at the version this rests on; the new version is the next one. Approvals are
 * of a version, so they end with it. Answers false when somebody was faster.
 */
export async function moveChange(
  db: Writes,
  row: Pick<ChangeRow, 'id' | 'version'>,
  set: Partial<Omit<ChangeRow, 'id' | 'version' | 'fabric'>>,
  at: string,
): Promise<boolean> {
  const done = await db
    .updateTable('changes')
    .set({ ...set, version: row.version + 1, updated_at: at })
    .where('id', '=', row.id)
    .where('version', '=', row.version)
    .executeTakeFirst();
  if (done.numUpdatedRows !== 1n) return false;
  await db.deleteFrom('approvals').where('change_id', '=', row.id).execute();
  return true;
}

/** Sets the state only, from one of these states, at this version; answers false when it is not so any more. */
export async function setChangeState(
  db: Writes,
  row: Pick<ChangeRow, 'id' | 'version'>,
  from: readonly ChangeState[],
  state: ChangeState,
  at: string,
): Promise<boolean> {
  const done = await db
    .updateTable('changes')
    .set({ state, updated_at: at })
    .where('id', '=', row.id)
    .where('version', '=', row.version)
    .where('state', 'in', from)
    .executeTakeFirst();
  return done.numUpdatedRows === 1n;
}

export async function addSteps(
  db: Writes,
  change: string,
  steps: readonly { readonly edit: Edit; readonly sentence: string }[],
  author: string,
  at: string,
): Promise<void> {
  const last = await db
    .selectFrom('edits')
    .select((e) => e.fn.max('position').as('n'))
    .where('change_id', '=', change)
    .executeTakeFirst();
  let position = Number(last?.n ?? 0);
  for (const { edit, sentence } of steps)
    await db
      .insertInto('edits')
      .values({
        change_id: change,
        position: ++position,
        json: writeDocument('edit', edit),
        sentence,
        author,
        at,
      })
      .execute();
}
export async function removeStep(db: Writes, change: string, position: number): Promise<void> {
  await db.deleteFrom('edits').where('change_id', '=', change).where('position', '=', position).execute();
}

/** Somebody had a hand in a change, so cannot be its second person. */
export async function addHand(db: Writes, change: string, name: string): Promise<void> {
  await db
    .insertInto('change_hands')
    .values({ change_id: change, name })
    .onConflict((c) => c.doNothing())
    .execute();
}

export async function addApproval(
  db: Writes,
  approval: { change: string; by: string; at: string; note: string; version: number; digest: string },
): Promise<void> {
  const { change, ...rest } = approval;
  await db
    .insertInto('approvals')
    .values({ change_id: change, ...rest })
    .execute();
}

/** Somebody asks for a yes to a change as it is at this version; answers false when it is not proven so any more. */
export async function askFor(
  db: Writes,
  row: Pick<ChangeRow, 'id' | 'version'>,
  by: string,
  at: string,
): Promise<boolean> {
  const done = await db
    .updateTable('changes')
    .set({ asked_by: by, asked_at: at, asked_version: row.version })
    .where('id', '=', row.id)
    .where('version', '=', row.version)
    .where('state', '=', 'Proven')
    .executeTakeFirst();
  return done.numUpdatedRows === 1n;
}

/** Open changes, newest first, of the fabrics that are seen (null = all). */
export async function openChanges(db: Reads, sight: Sight): Promise<ChangeSummary[]> {
  let query = db
    .selectFrom('changes')
    .selectAll()
    .select((e) =>
      e
        .selectFrom('edits')
        .select((x) => x.fn.countAll<number>().as('n'))
        .whereRef('edits.change_id', '=', 'changes.id')
        .as('edit_count'),
    )
    .where('state', 'not in', ['Live', 'Withdrawn'])
    .orderBy('updated_at', 'desc');
  if (sight !== null) query = query.where('fabric', 'in', sight);
  return (await query.execute()).map((r) => summaryOf(r, Number(r.edit_count ?? 0)));
}

/**
 * The newest edit of a fabric that is about something, live or in an open change (null = live only); an edit that has laid
 * out or cleared everything is about all of it.
 * @param isAbout asked for the newest first, of so many at most
 */
export async function newestEdit(
  db: Reads,
  fabric: string,
  change: string | null,
  isAbout: (edit: Edit) => boolean,
): Promise<TouchAnswer | null> {
  const rows = await db
    .selectFrom('edits as e')
    .innerJoin('changes as c', 'c.id', 'e.change_id')
    .select(['e.json', 'e.sentence', 'e.author', 'e.at', 'c.id', 'c.title'])
    .where('c.fabric', '=', fabric)
    .where((w) => w.or([w('c.state', '=', 'Live'), w('c.id', '=', change ?? '')]))
    .orderBy('e.at', 'desc')
    .orderBy('e.position', 'desc')
    .limit(EDITS_LOOKED_AT)
    .execute();
  const found = rows.find((r) => isAbout(readDocument('edit', r.json)));
  return found
    ? { by: found.author, at: found.at, sentence: found.sentence, change: { id: found.id, title: found.title } }
    : null;
}
const EDITS_LOOKED_AT = 5000;

/** Open changes of a fabric by id. */
export const openChangesOf = async (db: Reads, fabric: string): Promise<string[]> =>
  (
    await db
      .selectFrom('changes')
      .select('id')
      .where('fabric', '=', fabric)
      .where('state', 'in', OPEN_STATES)
      .orderBy('id')
      .execute()
  ).map((r) => r.id);

/** Other changes of the fabric that are open. */
export const otherOpen = (db: Reads, fabric: string, but: string): Promise<ChangeRow[]> =>
  db
    .selectFrom('changes')
    .selectAll()
    .where('fabric', '=', fabric)
    .where('id', '<>', but)
    .where('state', 'in', OPEN_STATES)
    .orderBy('id')
    .execute();

export const sentencesOf = async (db: Reads, change: string): Promise<string[]> =>
  (
    await db
      .selectFrom('edits')
      .select(sql<string>`sentence`.as('sentence'))
      .where('change_id', '=', change)
      .orderBy('position')
      .execute()
  ).map((r) => r.sentence);
