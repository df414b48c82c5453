import { sql, type Kysely } from 'kysely';

const STATEMENTS = [
  // What switches say of themselves, and what follows from it.
  `alter table switches add column refused integer not null default 0`,
  `alter table switches add column out_at text`,
  `alter table switches add column out_by text`,
  `alter table switches add column out_reason text`,
  `create table switch_seen (serial text primary key references switches(serial), at text not null, said text not null) strict`,
  `create table causes (n integer primary key, fabric text not null references fabrics(name), key text not null, kind text not null,
     title text not null, began_at text not null, ended_at text) strict`,
  `create unique index causes_open on causes (fabric, key) where ended_at is null`,
  `create index causes_by_time on causes (fabric, began_at)`,
  `create index causes_by_end on causes (ended_at) where ended_at is not null`,
  `create table standings (fabric text not null references fabrics(name), at text not null, switches integer not null, as_meant integer not null,
     waiting integer not null, drifted integer not null, unread integer not null, out integer not null, causes integer not null,
     primary key (fabric, at)) strict`,

  // Who is here, and who waits for whom.
  `create table visits (account text primary key references users(name) on delete cascade, seen_at text not null, before_at text) strict`,
  `alter table changes add column asked_by text`,
  `alter table changes add column asked_at text`,
  `alter table changes add column asked_version integer`,
];

/** What is read of switches and kept, what is wrong since when, and who asks whom. */
export async function up(db: Kysely<unknown>): Promise<void> {
  for (const statement of STATEMENTS) await sql.raw(statement).execute(db);
}
