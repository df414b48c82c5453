import type { RehearsalAnswer } from '@anthemion/contract';
import type { Reads, Writes } from './database.ts';

/** The last rehearsal of a change, or null. */
export async function rehearsalOf(db: Reads, change: string): Promise<RehearsalAnswer | null> {
  const row = await db.selectFrom('rehearsals').selectAll().where('change_id', '=', change).executeTakeFirst();
  if (!row) return null;
  const { version, by, at, state, step, ended_at: endedAt } = row;
  const rest = JSON.parse(row.json) as Omit<RehearsalAnswer, 'version' | 'by' | 'at' | 'state' | 'step' | 'endedAt'>;
  return { version, by, at, state, step, endedAt, ...rest };
}

export async function putRehearsal(db: Writes, change: string, answer: RehearsalAnswer): Promise<void> {
  const { version, by, at, state, step, endedAt, ...rest } = answer;
  const row = { version, by, at, state, step, ended_at: endedAt, json: JSON.stringify(rest) };
  await db
    .insertInto('rehearsals')
    .values({ change_id: change, ...row })
    .onConflict((c) => c.column('change_id').doUpdateSet(row))
    .execute();
}

/** Those that ran when the server ended did not come to their end. */
export async function breakOffRehearsals(db: Writes, at: string): Promise<void> {
  await db
    .updateTable('rehearsals')
    .set({ state: 'broken off', ended_at: at })
    .where('state', '=', 'running')
    .execute();
}
