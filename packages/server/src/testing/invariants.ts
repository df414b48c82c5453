import { demandsOf, layOut } from '@anthemion/core';
import { sql } from 'kysely';
import { expect } from 'vitest';
import type { Db } from '../store/database.ts';
import { fabricNames, intentAt, liveRevision } from '../store/fabrics.ts';
import { heldBy } from '../store/ledger.ts';

/** What must hold of the data at every moment, whatever was done and whatever died. */
export async function mustHold(db: Db): Promise<void> {
  const integrity = await sql<{ integrity_check: string }>`pragma integrity_check`.execute(db);
  expect(integrity.rows.map((r) => r.integrity_check)).toEqual(['ok']);
  expect((await sql`pragma foreign_key_check`.execute(db)).rows).toEqual([]);

  // Promise 3: no part of a pool has two holders (a network may call its own by two names), no switch two seats.
  const clashes = await sql`select a.value, b.value as other from ledger a join ledger b
    on a.pool = b.pool and a.pool <> '' and a.id < b.id and a.lo <= b.hi and b.lo <= a.hi
    and not (a.fabric = b.fabric and (a.key = b.key or (a.key like 'network:%' and
      rtrim(a.key, replace(a.key, '/', '')) = rtrim(b.key, replace(b.key, '/', '')))))`.execute(db);
  expect(clashes.rows).toEqual([]);
  const seats =
    await sql`select serial, count(distinct fabric) as fabrics, count(*) as n, sum(change_id is null) as live
    from seat_claims group by serial having fabrics > 1 or n - live > 1 or live > 1`.execute(db);
  expect(seats.rows).toEqual([]);

  // Promise 1: an approval is of the version that is there, and only of what is approved, under way or live.
  const approvals = await db
    .selectFrom('approvals as a')
    .innerJoin('changes as c', 'c.id', 'a.change_id')
    .select(['c.state', 'c.version as now', 'a.version'])
    .execute();
  for (const a of approvals)
    expect(a).toMatchObject({
      version: a.now,
      state: expect.stringMatching(/^(Approved|Rolling out|Live|Stale|Withdrawn)$/) as string,
    });

  // Values belong to open changes or to what is live.
  const strays = await db
    .selectFrom('ledger as l')
    .innerJoin('changes as c', 'c.id', 'l.change_id')
    .select(['l.value', 'c.state'])
    .where('c.state', 'in', ['Live', 'Withdrawn'])
    .execute();
  expect(strays).toEqual([]);

  for (const fabric of await fabricNames(db)) {
    const revision = await liveRevision(db, fabric);
    // Promise 2: revisions follow one another, each by a change that says it is live.
    const revisions = await db
      .selectFrom('revisions as r')
      .innerJoin('changes as c', 'c.id', 'r.change_id')
      .select(['r.number', 'c.state', 'c.base_revision'])
      .where('r.fabric', '=', fabric)
      .orderBy('r.number')
      .execute();
    expect(revisions).toEqual(revisions.map((_, i) => ({ number: i + 1, state: 'Live', base_revision: i })));
    const open = await db
      .selectFrom('changes')
      .select(['id', 'state', 'base_revision'])
      .where('fabric', '=', fabric)
      .where('state', 'in', ['Drafting', 'Proven', 'Approved', 'Stale', 'Rolling out'])
      .execute();
    for (const c of open) expect(c).toEqual({ ...c, base_revision: revision });
    const running = await db
      .selectFrom('jobs')
      .select('id')
      .where('fabric', '=', fabric)
      .where('state', '=', 'running')
      .execute();
    expect(running.length).toBeLessThanOrEqual(1);

    // The ledger is balanced: what is live holds exactly what it needs.
    const intent = await intentAt(db, fabric, revision);
    const needed = demandsOf(intent, layOut(intent)).map((d) => d.key);
    expect((await heldBy(db, fabric, null)).map((e) => e.key).sort()).toEqual([...needed].sort());
    const claims = await db
      .selectFrom('seat_claims')
      .select(['seat', 'serial'])
      .where('fabric', '=', fabric)
      .where('change_id', 'is', null)
      .execute();
    expect(Object.fromEntries(claims.map((c) => [c.seat, c.serial]))).toEqual(intent.seating);
  }
}
