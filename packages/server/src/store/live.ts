import type { PeerWords } from '@anthemion/core';
import { sql } from 'kysely';
import type { PastCause, Standing } from '@anthemion/contract';
import type { Db, Reads, Tables, Writes } from './database.ts';
import { pageOf, type Page, type PageAsked } from './pages.ts';

/** A switch that is read regularly. */
export interface ReadRow {
  readonly serial: string;
  readonly fabric: string;
  readonly out: boolean;
  readonly refused: number;
}

/** Every switch that sits in a seat of what is live, or was confirmed with text of a fabric. */
export async function readRows(db: Reads): Promise<ReadRow[]> {
  const rows = await db
    .selectFrom('switches as s')
    .leftJoin('seat_claims as c', (j) => j.onRef('c.serial', '=', 's.serial').on('c.change_id', 'is', null))
    .leftJoin('switch_live as l', 'l.serial', 's.serial')
    .select((e) => ['s.serial', 's.out_at', 's.refused', e.fn.coalesce('c.fabric', 'l.fabric').as('fabric')])
    .where((e) => e.or([e('c.fabric', 'is not', null), e('l.fabric', 'is not', null)]))
    .orderBy('s.serial')
    .execute();
  return rows.map((r) => ({ serial: r.serial, fabric: r.fabric!, out: r.out_at !== null, refused: r.refused }));
}

/** Switches an open change would seat, which are not live yet. */
export const claimedBy = async (db: Reads, change: string): Promise<{ serial: string; fabric: string }[]> =>
  db.selectFrom('seat_claims').select(['serial', 'fabric']).where('change_id', '=', change).execute();

/** What a switch said of itself, as it is kept. */
export interface Said {
  readonly signal: readonly (readonly [port: string, lit: boolean])[];
  readonly peers: readonly (readonly [peer: string, state: PeerWords])[];
  readonly neighbours: readonly (readonly [port: string, host: string, farPort: string])[];
  /** Neighbours by OSPF; older releases did not ask. */
  readonly adjacent?: readonly (readonly [neighbour: string, state: string])[];
}

export async function putSaid(db: Writes, serial: string, at: string, said: string): Promise<void> {
  await db
    .insertInto('switch_seen')
    .values({ serial, at, said })
    .onConflict((c) => c.column('serial').doUpdateSet({ at, said }))
    .execute();
}
/** The same was said again. */
export async function touchSaid(db: Writes, serials: ReadonlyMap<string, string>): Promise<void> {
  for (const [serial, at] of serials)
    await db.updateTable('switch_seen').set({ at }).where('serial', '=', serial).execute();
}

/** Everything that is known of the switches of a fabric, live or in one open change, from reading them. */
export async function readingsOf(db: Reads, fabric: string, change: string | null) {
  const rows = await db
    .selectFrom('switches as s')
    .innerJoin('seat_claims as c', 'c.serial', 's.serial')
    .leftJoin('switch_seen as w', 'w.serial', 's.serial')
    .select([
      's.serial',
      's.running',
      's.read_at',
      's.trouble',
      's.refused',
      's.out_at',
      's.out_by',
      's.out_reason',
      'w.at as said_at',
      'w.said',
    ])
    .where('c.fabric', '=', fabric)
    .where((e) => e.or([e('c.change_id', 'is', null), ...(change === null ? [] : [e('c.change_id', '=', change)])]))
    .execute();
  return new Map(rows.map((r) => [r.serial, r]));
}

export const openCauses = (
  db: Reads,
  fabric: string,
): Promise<Pick<Tables['causes'], 'key' | 'kind' | 'title' | 'began_at'>[]> =>
  db
    .selectFrom('causes')
    .select(['key', 'kind', 'title', 'began_at'])
    .where('fabric', '=', fabric)
    .where('ended_at', 'is', null)
    .execute();

/** What is wrong now: what is new begins, what is gone ends; what lasts keeps its beginning. Answers with the beginnings by key. */
export async function settleCauses(
  db: Writes,
  fabric: string,
  now: readonly { readonly key: string; readonly kind: string; readonly title: string }[],
  at: string,
): Promise<Map<string, string>> {
  const open = new Map((await openCauses(db, fabric)).map((c) => [c.key, c]));
  const since = new Map<string, string>();
  for (const { key, kind, title } of now) {
    const was = open.get(key);
    open.delete(key);
    since.set(key, was?.began_at ?? at);
    if (!was)
      await db.insertInto('causes').values({ fabric, key, kind, title, began_at: at, ended_at: null }).execute();
    else if (was.title !== title)
      await db
        .updateTable('causes')
        .set({ title })
        .where('fabric', '=', fabric)
        .where('key', '=', key)
        .where('ended_at', 'is', null)
        .execute();
  }
  for (const key of open.keys())
    await db
      .updateTable('causes')
      .set({ ended_at: at })
      .where('fabric', '=', fabric)
      .where('key', '=', key)
      .where('ended_at', 'is', null)
      .execute();
  return since;
}

export async function causePage(db: Reads, fabric: string, asked: PageAsked): Promise<Page<PastCause>> {
  const rows = await db
    .selectFrom('causes')
    .selectAll()
    .where('fabric', '=', fabric)
    .where('n', '<', Number(asked.after ?? Number.MAX_SAFE_INTEGER))
    .orderBy('n', 'desc')
    .limit(asked.limit + 1)
    .execute();
  return pageOf(
    rows,
    asked,
    (r) => String(r.n),
    (r) => ({ n: r.n, fabric: r.fabric, kind: r.kind, title: r.title, began: r.began_at, ended: r.ended_at }),
  );
}

/** How long a day sheet looks back, and how long what was wrong is kept. */
const QUARTER_MS = 15 * 60_000;
const DAY_MS = 24 * 3_600_000;
const KEPT_MS = 90 * DAY_MS;
const quarterOf = (at: string): string => new Date(Math.floor(Date.parse(at) / QUARTER_MS) * QUARTER_MS).toISOString();

/** Notes how a fabric stands; of what is noted in one quarter of an hour the worst stays. */
export async function noteStanding(
  db: Writes,
  fabric: string,
  at: string,
  now: Omit<Standing, 'at'> & { readonly out: number },
): Promise<void> {
  await db
    .insertInto('standings')
    .values({
      fabric,
      at: quarterOf(at),
      switches: now.switches,
      as_meant: now.asMeant,
      waiting: now.waiting,
      drifted: now.drifted,
      unread: now.unread,
      out: now.out,
      causes: now.causes,
    })
    .onConflict((c) =>
      c.columns(['fabric', 'at']).doUpdateSet({
        switches: sql`max(switches, excluded.switches)`,
        as_meant: sql`min(as_meant, excluded.as_meant)`,
        waiting: sql`max(waiting, excluded.waiting)`,
        drifted: sql`max(drifted, excluded.drifted)`,
        unread: sql`max(unread, excluded.unread)`,
        out: sql`max(out, excluded.out)`,
        causes: sql`max(causes, excluded.causes)`,
      }),
    )
    .execute();
}

/** The last day of a fabric, oldest first. */
export async function standingsOf(db: Reads, fabric: string, now: string): Promise<Standing[]> {
  const rows = await db
    .selectFrom('standings')
    .selectAll()
    .where('fabric', '=', fabric)
    .where('at', '>', new Date(Date.parse(now) - DAY_MS).toISOString())
    .orderBy('at')
    .execute();
  return rows.map((r) => ({
    at: r.at,
    switches: r.switches,
    asMeant: r.as_meant,
    waiting: r.waiting,
    drifted: r.drifted,
    unread: r.unread,
    causes: r.causes,
  }));
}

/** Drops what is older than is ever shown. */
export async function pruneLive(db: Db, now: string): Promise<void> {
  const before = (ms: number): string => new Date(Date.parse(now) - ms).toISOString();
  await db
    .deleteFrom('standings')
    .where('at', '<', before(8 * DAY_MS))
    .execute();
  await db.deleteFrom('causes').where('ended_at', '<', before(KEPT_MS)).execute();
}
