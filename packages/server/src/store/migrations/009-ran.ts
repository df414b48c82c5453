import { sql, type Kysely } from 'kysely';

/**
 * Every text a switch was seen to run, and where it sat then: its back-ups. Filled with what rollouts kept before they sent,
 * and with what is running.
 */
const STEPS: readonly string[] = [
  `create table ran_texts (id integer primary key, serial text not null, fabric text not null, seat text not null,
     host text not null, hash text not null, at text not null) strict`,
  `create index ran_texts_of on ran_texts (serial, id)`,
  `create index ran_texts_by_hash on ran_texts (hash)`,
  `insert into ran_texts (serial, fabric, seat, host, hash, at)
     select serial, fabric, seat, host, hash, at from (
       select w.serial, j.fabric, w.seat, w.host, w.before as hash, coalesce(w.started_at, j.started_at) as at
         from rollout_switches w join jobs j on j.id = w.rollout_id where w.before is not null
       union all
       select s.serial, coalesce(c.fabric, ''), coalesce(c.seat, ''), coalesce(c.host, ''), s.running, coalesce(s.read_at, '')
         from switches s left join seat_claims c on c.serial = s.serial and c.change_id is null where s.running is not null
     ) order by serial, at`,
  // The same text twice in a row is one.
  `delete from ran_texts where id in (select id from (select id, hash, lag(hash) over (partition by serial order by id) as before
     from ran_texts) where hash = before)`,
];

export async function up(db: Kysely<unknown>): Promise<void> {
  for (const step of STEPS) await sql.raw(step).execute(db);
}
