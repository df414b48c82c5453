import { sql, type Kysely } from 'kysely';

/** What came of running a change on real daemons: the last time of each change. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql
    .raw(
      `create table rehearsals (change_id text primary key references changes(id), version integer not null, by text not null,
         at text not null, ended_at text, state text not null, step text not null, json text not null) strict`,
    )
    .execute(db);
}
