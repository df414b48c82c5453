import type { LogLine, RolloutState } from '@anthemion/contract';
import type { Selectable } from 'kysely';
import type { Reads, Tables, Writes } from './database.ts';
import { pageOf, type Page, type PageAsked } from './pages.ts';

export type JobRow = Selectable<Tables['jobs']>;
export type JobState = RolloutState;

/** States in which a job still has something to do, or could have. */
export const UNFINISHED: readonly JobState[] = ['running', 'paused', 'stopped'];

export const jobOf = async (db: Reads, id: string): Promise<JobRow | null> =>
  (await db.selectFrom('jobs').selectAll().where('id', '=', id).executeTakeFirst()) ?? null;
export const jobsIn = (db: Reads, states: readonly JobState[]): Promise<JobRow[]> =>
  db.selectFrom('jobs').selectAll().where('state', 'in', states).orderBy('started_at').execute();

export async function addJob(db: Writes, job: Omit<JobRow, 'state' | 'reason' | 'ended_at'>): Promise<void> {
  await db
    .insertInto('jobs')
    .values({ ...job, state: 'running', reason: '', ended_at: null })
    .execute();
}

/** Moves a job from one of these states to another; answers false when it was in none of them. */
export async function moveJob(
  db: Writes,
  id: string,
  from: readonly JobState[],
  to: JobState,
  reason: string,
  at: string,
): Promise<boolean> {
  const done = await db
    .updateTable('jobs')
    .set({ state: to, reason, ended_at: to === 'running' || to === 'paused' ? null : at })
    .where('id', '=', id)
    .where('state', 'in', from)
    .executeTakeFirst();
  return done.numUpdatedRows === 1n;
}

export async function addLogLine(db: Writes, job: string, item: string, text: string, at: string): Promise<void> {
  await db.insertInto('job_log').values({ job_id: job, item, at, text }).execute();
}

export async function logPage(
  db: Reads,
  job: string,
  item: string | undefined,
  asked: PageAsked,
): Promise<Page<LogLine>> {
  let query = db
    .selectFrom('job_log')
    .select(['id', 'at', 'item', 'text'])
    .where('job_id', '=', job)
    .where('id', '>', Number(asked.after ?? 0))
    .orderBy('id')
    .limit(asked.limit + 1);
  if (item !== undefined) query = query.where('item', '=', item);
  return pageOf(
    await query.execute(),
    asked,
    (r) => String(r.id),
    (r) => ({ at: r.at, host: r.item, text: r.text }),
  );
}
