import { liesIn, valueInterval, type Interval, type LedgerEntry, type Taken } from '@anthemion/core';
import type { Reads, Tables, Writes } from './database.ts';
import { pageOf, type Page, type PageAsked, type Sight } from './pages.ts';

type Row = Pick<Tables['ledger'], 'kind' | 'pool' | 'value' | 'fabric' | 'key' | 'change_id'>;
const toEntry = (r: Row): LedgerEntry => ({
  kind: r.kind,
  pool: r.pool,
  value: r.value,
  fabric: r.fabric,
  key: r.key,
  change: r.change_id,
});
const COLUMNS = ['kind', 'pool', 'value', 'fabric', 'key', 'change_id'] as const;

/** An entry with its row, as draws compare them. */
export interface HeldEntry extends LedgerEntry {
  readonly id: number;
}

const held = (db: Reads, fabric: string) =>
  db
    .selectFrom('ledger')
    .select(['id', ...COLUMNS])
    .where('fabric', '=', fabric)
    .where('resting', '=', 0)
    .orderBy('id');
const toHeld = (r: Row & { readonly id: number }): HeldEntry => ({ id: Number(r.id), ...toEntry(r) });

/** What a fabric holds live, and what one open change holds for it. */
export async function heldBy(db: Reads, fabric: string, change: string | null): Promise<HeldEntry[]> {
  const rows = await held(db, fabric)
    .where((e) => e.or([e('change_id', 'is', null), ...(change === null ? [] : [e('change_id', '=', change)])]))
    .execute();
  return rows.map(toHeld);
}
/** What an open change alone holds for a fabric. */
export const heldByChange = async (db: Reads, fabric: string, change: string): Promise<HeldEntry[]> =>
  (await held(db, fabric).where('change_id', '=', change).execute()).map(toHeld);

/** Values of the live revision of a fabric by key. */
export async function liveValues(db: Reads, fabric: string): Promise<Map<string, string>> {
  return new Map((await heldBy(db, fabric, null)).map((e) => [e.key, e.value]));
}

/** Everything that is taken in some pools, whoever holds it. */
export async function takenIn(db: Reads, pools: readonly string[]): Promise<Map<string, Taken[]>> {
  const out = new Map<string, Taken[]>();
  for (const pool of pools) {
    const rows = await db
      .selectFrom('ledger')
      .select(['lo', 'hi', 'fabric', 'key'])
      .where('pool', '=', pool)
      .orderBy('lo')
      .execute();
    out.set(
      pool,
      rows.map((r) => ({ from: r.lo, to: r.hi, fabric: r.fabric, key: r.key })),
    );
  }
  return out;
}

export const drawnBy = async (db: Reads, change: string): Promise<LedgerEntry[]> =>
  (await db.selectFrom('ledger').select(COLUMNS).where('change_id', '=', change).orderBy('id').execute()).map(toEntry);

/** Adds what a change draws and takes out what it does not need any more; throws (UNIQUE) when another was faster. */
export async function writeDraws(
  db: Writes,
  change: string,
  draws: { readonly insert: readonly LedgerEntry[]; readonly remove: readonly number[] },
): Promise<void> {
  for (const id of draws.remove)
    await db.deleteFrom('ledger').where('id', '=', id).where('change_id', '=', change).execute();
  for (const e of draws.insert) {
    const block = valueInterval(e.kind, e.value) ?? { from: 0, to: 0 };
    await db
      .insertInto('ledger')
      .values({
        kind: e.kind,
        pool: e.pool,
        value: e.value,
        fabric: e.fabric,
        key: e.key,
        change_id: change,
        drawn_by: change,
        lo: block.from,
        hi: block.to,
      })
      .execute();
  }
}

export async function giveBack(db: Writes, change: string): Promise<void> {
  await db.deleteFrom('ledger').where('change_id', '=', change).execute();
}

/**
 * The values of a change become the fabric's. What the new revision does not need goes back to its pool, or rests where
 * a switch still waits to be told.
 */
export async function settleLedger(
  db: Writes,
  fabric: string,
  change: string,
  needed: ReadonlySet<string>,
  rest: boolean,
): Promise<void> {
  const own = new Set(
    (await db.selectFrom('ledger').select('key').where('change_id', '=', change).execute()).map((r) => r.key),
  );
  const live = await db
    .selectFrom('ledger')
    .select(['id', 'key'])
    .where('fabric', '=', fabric)
    .where('change_id', 'is', null)
    .where('resting', '=', 0)
    .execute();
  for (const e of live) {
    if (!own.has(e.key) && needed.has(e.key)) continue;
    if (rest) await db.updateTable('ledger').set({ resting: 1 }).where('id', '=', e.id).execute();
    else await db.deleteFrom('ledger').where('id', '=', e.id).execute();
  }
  await db.updateTable('ledger').set({ change_id: null }).where('change_id', '=', change).execute();
}

/** Every switch of the fabric has what it is meant to have: what rested goes back to its pool. */
export async function endRest(db: Writes, fabric: string): Promise<void> {
  await db.deleteFrom('ledger').where('fabric', '=', fabric).where('resting', '=', 1).execute();
}

interface HeldValue {
  readonly value: string;
  readonly key: string;
  readonly fabric: string;
}
/** The first value of a pool that would lie outside of these ranges. */
export async function heldOutside(db: Reads, pool: string, ranges: readonly Interval[]): Promise<HeldValue | null> {
  // Of IPv6 the numbers alone do not say it all.
  if (ranges.some((r) => r.top !== undefined)) return ipv6Outside(db, pool, ranges);
  const row = await db
    .selectFrom('ledger')
    .select(['value', 'key', 'fabric'])
    .where('pool', '=', pool)
    .where((e) => e.not(e.or(ranges.map((r) => e.and([e('lo', '>=', r.from), e('hi', '<=', r.to)])))))
    .limit(1)
    .executeTakeFirst();
  return row ?? null;
}

async function ipv6Outside(db: Reads, pool: string, ranges: readonly Interval[]): Promise<HeldValue | null> {
  const rows = await db
    .selectFrom('ledger')
    .select(['kind', 'value', 'key', 'fabric'])
    .where('pool', '=', pool)
    .orderBy('lo')
    .execute();
  const outside = rows.find(({ kind, value }) => {
    const block = valueInterval(kind, value);
    return block === null || !ranges.some((r) => liesIn(block, r));
  });
  return outside ?? null;
}

/** How many values of each pool are held, in numbers or addresses. */
export async function heldPerPool(db: Reads): Promise<Map<string, number>> {
  const rows = await db
    .selectFrom('ledger')
    .select((e) => ['pool', e.fn.sum<number>(e('hi', '-', e.ref('lo'))).as('spread'), e.fn.countAll<number>().as('n')])
    .groupBy('pool')
    .execute();
  return new Map(rows.map((r) => [r.pool, Number(r.spread ?? 0) + Number(r.n)]));
}

export interface LedgerLine extends LedgerEntry {
  readonly drawnBy: { readonly id: string; readonly title: string } | null;
}

export async function ledgerPage(
  db: Reads,
  asked: PageAsked,
  by: { readonly pool?: string | undefined; readonly fabric?: string | undefined },
  sight: Sight,
): Promise<Page<LedgerLine>> {
  let query = db
    .selectFrom('ledger as l')
    .leftJoin('changes as c', 'c.id', 'l.drawn_by')
    .select(['l.id', 'l.kind', 'l.pool', 'l.value', 'l.fabric', 'l.key', 'l.change_id', 'l.drawn_by', 'c.title'])
    .where('l.id', '>', Number(asked.after ?? 0))
    .orderBy('l.id')
    .limit(asked.limit + 1);
  if (by.pool !== undefined) query = query.where('l.pool', '=', by.pool);
  if (by.fabric !== undefined) query = query.where('l.fabric', '=', by.fabric);
  if (sight !== null) query = query.where('l.fabric', 'in', sight);
  return pageOf(
    await query.execute(),
    asked,
    (r) => String(r.id),
    (r) => ({
      ...toEntry(r),
      drawnBy: r.drawn_by === null ? null : { id: r.drawn_by, title: r.title ?? '' },
    }),
  );
}
