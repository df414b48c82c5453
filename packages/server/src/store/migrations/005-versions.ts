import { sql, type Kysely } from 'kysely';

/** Versions of switch software that somebody accepted, though a dialect was never tried with them. */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql
    .raw(
      `create table accepted_versions (dialect text not null, version text not null, accepted_at text not null,
         accepted_by text not null, reason text not null, primary key (dialect, version)) strict`,
    )
    .execute(db);
}
