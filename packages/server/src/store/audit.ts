import type { AuditEntry } from '@anthemion/contract';
import { createHash } from 'node:crypto';
import type { Db, Reads, Tables, Tx } from './database.ts';
import { pageOf, type Page, type PageAsked } from './pages.ts';

type Row = Tables['audit'];
/** An entry before it has its place in the chain. */
export type NewEntry = Omit<Row, 'n' | 'hash'>;

/** Before the first entry. */
const START = '0'.repeat(64);

/** Hash of an entry: SHA-256 over the hash of the one before and every field in a fixed order. */
const hashOfEntry = (before: string, e: Omit<Row, 'hash'>): string =>
  createHash('sha256')
    .update(
      JSON.stringify([
        before,
        e.n,
        e.at,
        e.kind,
        e.of,
        e.account,
        e.via,
        e.address,
        e.action,
        e.fabric,
        e.subject,
        e.detail,
        e.outcome,
      ]),
    )
    .digest('hex');

/** Adds an entry to the end of the chain, in the caller's transaction; answers its number. */
async function addEntryIn(tx: Tx, entry: NewEntry): Promise<number> {
  const last = await tx.selectFrom('audit').select(['n', 'hash']).orderBy('n', 'desc').limit(1).executeTakeFirst();
  const n = (last?.n ?? 0) + 1;
  const placed = { n, ...entry };
  await tx
    .insertInto('audit')
    .values({ ...placed, hash: hashOfEntry(last?.hash ?? START, placed) })
    .execute();
  return n;
}

/** As addEntryIn, in a transaction of its own. */
export const addEntry = (db: Db, entry: NewEntry): Promise<number> =>
  db.transaction().execute((tx) => addEntryIn(tx, entry));

/** What is looked for in the log; absent = anything. */
export interface AuditAsked {
  readonly account?: string | undefined;
  readonly action?: string | undefined;
  readonly fabric?: string | undefined;
  /** Part of subject, detail, outcome or address. */
  readonly text?: string | undefined;
  readonly from?: string | undefined;
  readonly to?: string | undefined;
}

const toEntry = (r: Row, ended: Pick<Row, 'at' | 'outcome'> | undefined): AuditEntry => ({
  n: r.n,
  at: r.at,
  account: r.account,
  via: r.via,
  address: r.address,
  action: r.action,
  fabric: r.fabric,
  subject: r.subject,
  detail: r.detail,
  outcome: r.kind === 'noted' ? r.outcome : (ended?.outcome ?? 'not known to have ended'),
  endedAt: ended?.at ?? null,
  hash: r.hash,
});

/** Entries, newest first, each with how it ended. */
export async function auditPage(db: Reads, page: PageAsked, asked: AuditAsked): Promise<Page<AuditEntry>> {
  let query = db
    .selectFrom('audit')
    .selectAll()
    .where('kind', '<>', 'ended')
    .where('n', '<', page.after === null ? Number.MAX_SAFE_INTEGER : Number(page.after) || 0)
    .orderBy('n', 'desc')
    .limit(page.limit + 1);
  if (asked.account) query = query.where('account', '=', asked.account);
  if (asked.action) query = query.where('action', '=', asked.action);
  if (asked.fabric) query = query.where('fabric', '=', asked.fabric);
  if (asked.from) query = query.where('at', '>=', asked.from);
  if (asked.to) query = query.where('at', '<', asked.to);
  if (asked.text) {
    const like = `%${asked.text.replaceAll(/[\\%_]/g, (c) => `\\${c}`)}%`;
    query = query.where((e) =>
      e.or(
        (['subject', 'detail', 'address', 'account', 'action', 'via'] as const).map(
          (c) => e.fn('like', [e.val(like), c, e.val('\\')]) as never,
        ),
      ),
    );
  }
  const rows = await query.execute();
  const endings = new Map(
    (rows.length === 0
      ? []
      : await db
          .selectFrom('audit')
          .select(['of', 'at', 'outcome'])
          .where(
            'of',
            'in',
            rows.map((r) => r.n),
          )
          .execute()
    ).map((r) => [r.of, r]),
  );
  return pageOf(
    rows,
    page,
    (r) => String(r.n),
    (r) => toEntry(r, endings.get(r.n)),
  );
}

/** Entries as they are chained, oldest first, from after a number. */
export const auditRows = (db: Reads, after: number, limit: number): Promise<Row[]> =>
  db.selectFrom('audit').selectAll().where('n', '>', after).orderBy('n').limit(limit).execute();

const CHECKED_AT_ONCE = 2000;

/** Walks the whole chain; the first entry that is not what it was, or null, and how many were walked. */
export async function checkChain(db: Reads): Promise<{ readonly entries: number; readonly brokenAt: number | null }> {
  let [before, n] = [START, 0];
  for (;;) {
    const rows = await auditRows(db, n, CHECKED_AT_ONCE);
    if (rows.length === 0) return { entries: n, brokenAt: null };
    for (const { hash, ...entry } of rows) {
      if (entry.n !== n + 1 || hashOfEntry(before, entry) !== hash) return { entries: n, brokenAt: n + 1 };
      [before, n] = [hash, entry.n];
    }
  }
}

/** Time of the newest entry, for seeing a clock that was set back. */
export const newestAt = async (db: Reads): Promise<string | null> =>
  (
    await db
      .selectFrom('audit')
      .select((e) => e.fn.max('at').as('at'))
      .executeTakeFirst()
  )?.at ?? null;
