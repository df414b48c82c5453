import { valueInterval, type PoolKind } from '@anthemion/core';
import { sql, type Kysely } from 'kysely';
import { deflateTexts } from '../deflate.ts';

/** Rows of release 0.1 as this step meets them. */
interface Before {
  texts: { hash: string; json: string; body: Buffer };
  ledger: { id: number; kind: PoolKind; value: string; lo: number; hi: number };
  revisions: { fabric: string; number: number; intent: string };
  seat_claims: { serial: string; fabric: string; seat: string; host: string; change_id: string | null };
  fabrics: { name: string; prefix: string; figures: string };
  edits: { change_id: string; author: string };
}

/** Masks that widen a block to each prefix around it; numbers are blocks of one, so only the first can meet. */
const AROUND = Array.from({ length: 33 }, (_, i) => `new.lo & -${2 ** i}`).join(', ');

const FIRST = [
  `alter table texts add column body blob not null default x''`,
  `alter table ledger add column lo integer not null default 0`,
  `alter table ledger add column hi integer not null default 0`,
  `alter table ledger add column resting integer not null default 0`,
  `alter table fabrics add column figures text not null default '{"spines":0,"leaves":0,"racks":0}'`,
  `alter table changes add column proof_digest text`,
  `alter table changes add column proof_touches integer`,
  `alter table approvals add column version integer not null default 0`,
  `alter table approvals add column digest text not null default ''`,
  `create table change_hands (change_id text not null references changes(id), name text not null, primary key (change_id, name)) strict`,
  // What was proven or approved rests on no digest yet: it is proved again.
  `delete from approvals where change_id in (select id from changes where state in ('Proven', 'Approved', 'Stale', 'Drafting'))`,
  `update approvals set version = (select version from changes where id = change_id)`,
  `update changes set state = 'Stale' where state in ('Proven', 'Approved')`,
  `insert into change_hands select distinct change_id, author from edits`,
  `create table seat_claims (id integer primary key, serial text not null, fabric text not null references fabrics(name), seat text not null, host text not null,
     change_id text references changes(id)) strict`,
  `create table switch_live (serial text primary key, fabric text not null references fabrics(name), seat text not null, host text not null, hash text not null references texts(hash),
     revision integer, change_id text references changes(id), at text not null) strict`,
  `create index switch_live_by_fabric on switch_live (fabric)`,
  `create index switch_live_by_hash on switch_live (hash)`,
  `create table meant (fabric text not null references fabrics(name), seat text not null, host text not null, hash text not null references texts(hash), primary key (fabric, seat)) strict`,
  `create index meant_by_hash on meant (hash)`,
  // Rollouts become jobs. One that was under way has no pin, so it can only be undone.
  `create table jobs (id text primary key, kind text not null, fabric text not null, state text not null, reason text not null, author text not null, started_at text not null, ended_at text) strict`,
  `insert into jobs select id, 'rollout', fabric,
     case when state in ('running', 'paused') then 'stopped' when state = 'failed' then 'stopped' else state end,
     case when state in ('running', 'paused') then 'begun by an older release: undo it, then begin again' else reason end,
     author, started_at, ended_at from rollouts`,
  `create index jobs_by_fabric on jobs (fabric, state)`,
  `create index jobs_by_state on jobs (state)`,
  `create index jobs_by_time on jobs (started_at, id)`,
  `create table job_log (id integer primary key, job_id text not null references jobs(id), item text not null, at text not null, text text not null) strict`,
  `insert into job_log select id, rollout_id, host, at, text from rollout_log`,
  `create index job_log_by_item on job_log (job_id, item)`,
  `drop table rollout_log`,
  ...['state', 'reason', 'author', 'started_at', 'ended_at'].map((c) => `alter table rollouts drop column ${c}`),
  `alter table rollouts add column version integer not null default 0`,
  `alter table rollouts add column base_revision integer not null default 0`,
  `alter table rollouts add column digest text not null default ''`,
  `alter table rollouts add column intent text`,
  `alter table rollouts add column drawn text not null default '[]'`,
  `alter table rollouts add column meant text not null default '[]'`,
  `alter table rollouts add column overtaken_by text references rollouts(id)`,
  `alter table rollouts add column broke_into text references rollouts(id)`,
  `alter table rollouts add column undoes text references rollouts(id)`,
  `create index rollouts_by_change on rollouts (change_id)`,
  `alter table rollout_switches add column expected_revision integer`,
  `alter table rollout_switches add column expected_change text`,
  `alter table rollout_switches add column live_revision integer`,
  `alter table rollout_switches add column live_change text`,
  `alter table rollout_switches add column leaves integer not null default 0`,
  `create index rollout_switches_by_target on rollout_switches (target)`,
  `create index rollout_switches_by_before on rollout_switches (before)`,
  `create index rollout_switches_by_expected on rollout_switches (expected)`,
  `create index switches_by_running on switches (running)`,
  `create index changes_by_fabric on changes (fabric, state)`,
  `create index changes_by_time on changes (updated_at, id)`,
];

const LAST = [
  `alter table texts drop column json`,
  `drop index ledger_by_pool`,
  `create index ledger_by_interval on ledger (pool, lo, hi)`,
  `create index ledger_by_fabric on ledger (fabric, change_id)`,
  // No part of a pool has two holders. A change may take its own value again with another size.
  // Two questions, so that each is answered by the index: who holds a block around this one, who holds a part of it.
  `create trigger ledger_one_holder before insert on ledger when new.pool <> '' and (
     exists (select 1 from ledger where pool = new.pool and lo in (${AROUND}) and hi >= new.hi and not (fabric = new.fabric and key = new.key))
     or exists (select 1 from ledger where pool = new.pool and lo between new.lo and new.hi and not (fabric = new.fabric and key = new.key)))
   begin select raise(abort, 'UNIQUE: the value is held'); end`,
  // A switch has one seat among what is live, one among all open changes, and never two fabrics.
  `create unique index seat_claims_live on seat_claims (serial) where change_id is null`,
  `create unique index seat_claims_open on seat_claims (serial) where change_id is not null`,
  `create index seat_claims_by_change on seat_claims (change_id)`,
  `create index seat_claims_by_fabric on seat_claims (fabric)`,
  `create trigger seat_claims_one_fabric before insert on seat_claims when exists (
     select 1 from seat_claims where serial = new.serial and fabric <> new.fabric)
   begin select raise(abort, 'UNIQUE: the switch is held'); end`,
];

/** What the promises rest on: intervals and claims that the database keeps unique, live per switch, jobs, pins. */
export async function up(db: Kysely<Before>): Promise<void> {
  for (const statement of FIRST) await sql.raw(statement).execute(db);
  for (const { hash, json } of await db.selectFrom('texts').select(['hash', 'json']).execute())
    await db
      .updateTable('texts')
      .set({ body: deflateTexts(json) })
      .where('hash', '=', hash)
      .execute();
  for (const row of await db.selectFrom('ledger').select(['id', 'kind', 'value']).execute()) {
    const block = valueInterval(row.kind, row.value);
    if (block) await db.updateTable('ledger').set({ lo: block.from, hi: block.to }).where('id', '=', row.id).execute();
  }
  const newest = await db
    .selectFrom('revisions as r')
    .selectAll()
    .where((e) =>
      e(
        'number',
        '=',
        e
          .selectFrom('revisions as x')
          .select((m) => m.fn.max('x.number').as('n'))
          .whereRef('x.fabric', '=', 'r.fabric'),
      ),
    )
    .execute();
  // Hosts and figures are filled in by the first start, which computes what each seat means (services/upkeep.ts).
  for (const { fabric, intent } of newest)
    for (const [seat, serial] of Object.entries((JSON.parse(intent) as { seating: Record<string, string> }).seating))
      await db.insertInto('seat_claims').values({ serial, fabric, seat, host: '', change_id: null }).execute();
  for (const statement of LAST) await sql.raw(statement).execute(db);
}
