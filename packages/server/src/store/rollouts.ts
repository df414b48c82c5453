import type { Outcome, RolloutState, RolloutSummary } from '@anthemion/contract';
import type { RolloutWave } from '@anthemion/core';
import type { Selectable } from 'kysely';
import { notThere } from '../trouble.ts';
import type { Reads, Tables, Writes } from './database.ts';
import { UNFINISHED } from './jobs.ts';
import { markOf, pageOf, readMark, type Page, type PageAsked, type Sight } from './pages.ts';

export type SwitchRow = Selectable<Tables['rollout_switches']>;
/** States in which a rollout is not under way, and not ended either. */
export const AT_REST = ['paused', 'stopped'] as const;

export type RolloutPin = Selectable<Tables['rollouts']>;
export type RolloutRow = RolloutPin &
  Pick<Selectable<Tables['jobs']>, 'state' | 'reason' | 'author' | 'started_at' | 'ended_at'>;

const joined = (db: Reads) =>
  db
    .selectFrom('rollouts as r')
    .innerJoin('jobs as j', 'j.id', 'r.id')
    .selectAll('r')
    .select(['j.state', 'j.reason', 'j.author', 'j.started_at', 'j.ended_at']);

export async function rolloutOf(db: Reads, id: string): Promise<RolloutRow> {
  const row = await joined(db).where('r.id', '=', id).executeTakeFirst();
  if (!row) throw notThere(`rollout ${id}`);
  return row;
}

/** Rollouts of a fabric that are not at their end. */
export const unfinishedIn = (db: Reads, fabric: string): Promise<RolloutRow[]> =>
  joined(db).where('j.fabric', '=', fabric).where('j.state', 'in', UNFINISHED).orderBy('j.started_at').execute();

export const newestRolloutOf = async (db: Reads, change: string): Promise<string | null> =>
  (
    await db
      .selectFrom('rollouts as r')
      .innerJoin('jobs as j', 'j.id', 'r.id')
      .select('r.id')
      .where('r.change_id', '=', change)
      .orderBy('j.started_at', 'desc')
      .limit(1)
      .executeTakeFirst()
  )?.id ?? null;

export const rowsOf = (db: Reads, id: string): Promise<SwitchRow[]> =>
  db.selectFrom('rollout_switches').selectAll().where('rollout_id', '=', id).orderBy('wave').orderBy('host').execute();

export async function addRollout(db: Writes, pin: RolloutPin, rows: readonly SwitchRow[]): Promise<void> {
  await db.insertInto('rollouts').values(pin).execute();
  for (const row of rows) await db.insertInto('rollout_switches').values(row).execute();
}

export async function noteRow(
  db: Writes,
  row: Pick<SwitchRow, 'rollout_id' | 'host'>,
  set: Partial<SwitchRow>,
): Promise<void> {
  await db
    .updateTable('rollout_switches')
    .set(set)
    .where('rollout_id', '=', row.rollout_id)
    .where('host', '=', row.host)
    .execute();
}

export async function rowStep(db: Reads, row: Pick<SwitchRow, 'rollout_id' | 'host'>): Promise<string | null> {
  const found = await db
    .selectFrom('rollout_switches')
    .select('step')
    .where('rollout_id', '=', row.rollout_id)
    .where('host', '=', row.host)
    .executeTakeFirst();
  return found?.step ?? null;
}

export async function markOvertaken(db: Writes, id: string, by: string): Promise<void> {
  await db.updateTable('rollouts').set({ overtaken_by: by }).where('id', '=', id).execute();
}

export async function rolloutPage(db: Reads, asked: PageAsked, sight: Sight): Promise<Page<RolloutSummary>> {
  const after = readMark(asked.after);
  let query = joined(db)
    .innerJoin('changes as c', 'c.id', 'r.change_id')
    .select(['c.title', 'c.ticket'])
    .orderBy('j.started_at', 'desc')
    .orderBy('j.id', 'desc')
    .limit(asked.limit + 1);
  if (sight !== null) query = query.where('j.fabric', 'in', sight);
  if (after) query = query.where((e) => e(e.refTuple('j.started_at', 'j.id'), '<', e.tuple(after[0], after[1])));
  const rows = await query.execute();
  const counts =
    rows.length === 0
      ? []
      : await db
          .selectFrom('rollout_switches')
          .select((e) => ['rollout_id', 'outcome', e.fn.countAll<number>().as('n')])
          .where(
            'rollout_id',
            'in',
            rows.map((r) => r.id),
          )
          .groupBy(['rollout_id', 'outcome'])
          .execute();
  return pageOf(
    rows,
    asked,
    (r) => markOf(r.started_at, r.id),
    (r) => ({
      ...headOf(r, r.title, r.ticket),
      counts: Object.fromEntries(
        counts.filter((c) => c.rollout_id === r.id).map((c) => [c.outcome as Outcome, Number(c.n)]),
      ),
    }),
  );
}

/** What a rollout is, without its switches. */
export const headOf = (r: RolloutRow, title: string, ticket: string): Omit<RolloutSummary, 'counts'> => ({
  id: r.id,
  change: r.change_id,
  title,
  ticket,
  fabric: r.fabric,
  kind: r.kind,
  state: r.state as RolloutState,
  reason: r.reason,
  author: r.author,
  stopLine: r.stop_line,
  undoSeconds: r.undo_seconds,
  startedAt: r.started_at,
  endedAt: r.ended_at,
  overtakenBy: r.overtaken_by,
  brokeInto: r.broke_into,
});
export const wavesOf = (r: Pick<RolloutPin, 'waves'>): RolloutWave[] => JSON.parse(r.waves) as RolloutWave[];
