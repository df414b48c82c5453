import { bestOf, prefixesAround, type Findable, type Fit, type Sought } from '@anthemion/core';
import { sql } from 'kysely';
import { RELEASE } from '../release.ts';
import type { Db, Reads, Writes } from './database.ts';
import type { Sight } from './pages.ts';

/** An object that can be found; `fabric` is empty for what is of none. */
export interface FindableRow {
  readonly id: number;
  readonly fabric: string;
  readonly subject: string;
  readonly word: string;
  readonly name: string;
  readonly says: readonly string[];
}
type Stored = Omit<FindableRow, 'says'> & { readonly says: string };
const COLUMNS = ['f.id', 'f.fabric', 'f.subject', 'f.word', 'f.name', 'f.says'] as const;
/** Each line ends with a line feed, so that what it says last can be told from what only begins so. */
const saysText = (says: readonly string[]): string => says.map((s) => `${s}\n`).join('');
// What a table holds may be empty: `ticket `.
const saysOf = (text: string): string[] => text.split('\n').filter((s) => s !== '' && !s.endsWith(' '));
const toRow = (r: Stored): FindableRow => ({ ...r, says: saysOf(r.says) });

/** What is said of the objects of a revision, and what is not any more. */
export interface FindablesMoved {
  readonly revision: number;
  readonly put: readonly Findable[];
  /** Subjects. */
  readonly gone: readonly string[];
}

/** How the objects of a fabric differ from those that can be found; its changes are kept by SQLite itself. */
export async function movedIn(
  db: Reads,
  fabric: string,
  now: readonly Findable[],
): Promise<Omit<FindablesMoved, 'revision'>> {
  const had = await db
    .selectFrom('findables as f')
    .select(COLUMNS)
    .where('f.fabric', '=', fabric)
    .where('f.word', '<>', 'change')
    .execute();
  const left = new Map(had.map((r) => [r.subject, r]));
  const put = now.filter((f) => {
    const was = left.get(f.subject);
    left.delete(f.subject);
    return was?.name !== f.name || was.word !== f.word || was.says !== saysText(f.says);
  });
  return { put, gone: [...left.keys()] };
}

/** The mark of a revision whose objects can be found. */
export const foundMark = (revision: number): string => `${RELEASE} ${revision}`;

/** @param revision what can be found once this is written; null = there is more to write */
export async function writeFindables(
  db: Writes,
  fabric: string,
  moved: Omit<FindablesMoved, 'revision'>,
  revision: number | null,
): Promise<void> {
  for (const subject of moved.gone)
    await db.deleteFrom('findables').where('fabric', '=', fabric).where('subject', '=', subject).execute();
  for (const { subject, word, name, says } of moved.put) {
    const said = { word, name, says: saysText(says) };
    await db
      .insertInto('findables')
      .values({ fabric, subject, ...said })
      .onConflict((c) => c.columns(['fabric', 'subject']).doUpdateSet(said))
      .execute();
  }
  if (revision !== null)
    await db
      .updateTable('fabrics')
      .set({ found: foundMark(revision) })
      .where('name', '=', fabric)
      .execute();
}

/** Fabrics whose newest revision cannot be found yet. */
export async function notYetFound(db: Reads, sight: Sight): Promise<{ fabric: string; revision: number }[]> {
  let query = db
    .selectFrom('fabrics as f')
    .leftJoin('revisions as r', 'r.fabric', 'f.name')
    .select((e) => ['f.name', 'f.found', e.fn.coalesce(e.fn.max('r.number'), e.lit(0)).as('revision')])
    .groupBy('f.name')
    .orderBy('f.name');
  if (sight !== null) query = query.where('f.name', 'in', sight);
  return (await query.execute())
    .map((r) => ({ fabric: r.name, revision: Number(r.revision), found: r.found }))
    .filter((r) => r.found !== foundMark(r.revision));
}

/** Shorter words are found where a name begins with them. */
const SHORTEST_WITHIN = 3;
/** So many rows are compared of each way to find some; the best of them are shown. */
const LOOKED_AT = 200;
const phrase = (text: string): string => `"${text.replaceAll('"', '""')}"`;

/**
 * What is found of what is seen, best first. Every question to SQLite is answered by an index and ends after so many rows,
 * so that it costs the same however much there is.
 */
export async function found(
  db: Db,
  sought: Sought,
  { sight, near, most }: { readonly sight: Sight; readonly near: string; readonly most: number },
): Promise<(FindableRow & Fit)[]> {
  const { whole, words, prefix } = sought;
  if (whole === '') return [];
  const rows = new Map<number, FindableRow>();
  const take = (found: readonly Stored[]): void => {
    for (const r of found) rows.set(r.id, toRow(r));
  };
  const seen = () => {
    const query = db.selectFrom('findables as f').select(COLUMNS).limit(LOOKED_AT);
    if (sight === null) return query;
    const held = (table: 'seat_claims' | 'switch_live', live: string) =>
      sql<boolean>`not exists (select 1 from ${sql.table(table)} as h where h.serial = substr(f.subject, ${'switch:'.length + 1})
        and ${sql.raw(live)} and h.fabric not in (${sql.join(sight)}))`;
    return query.where((e) =>
      e.or([
        e('f.fabric', 'in', sight),
        // A switch of a fabric that is not seen is not there.
        e.and([e('f.fabric', '=', ''), held('seat_claims', 'h.change_id is null'), held('switch_live', 'true')]),
      ]),
    );
  };
  const named = (from: string, to: string) =>
    seen()
      .where(sql`f.name collate nocase`, '>=', from)
      .where(sql`f.name collate nocase`, '<=', to);
  take(await named(whole, whole).execute());
  take(await named(whole, `${whole}\uffff`).execute());
  const saying = async (match: string): Promise<void> => {
    const query = seen()
      .innerJoin('findable_words as w', 'w.rowid', 'f.id')
      .where('w.findable_words', sql`match`, match);
    take(await query.execute());
  };
  const longest = [...words].sort((a, b) => b.length - a.length)[0]!;
  if (whole.length >= SHORTEST_WITHIN) {
    // What says just this first, those of the fabric one looks at before all others.
    const exactly = phrase(` ${whole}\n`);
    const here = near.length >= SHORTEST_WITHIN ? `fabric : ${phrase(near)} AND ` : '';
    for (const of of here === '' ? [''] : [here, '']) {
      await saying(`${of}(${exactly})`);
      await saying(`${of}(${phrase(whole)})`);
    }
  }
  if (words.length > 1 && longest.length >= SHORTEST_WITHIN)
    await saying(
      words
        .filter((w) => w.length >= SHORTEST_WITHIN)
        .map(phrase)
        .join(' AND '),
    );
  if (prefix !== null) {
    const holders = await db
      .selectFrom('ledger')
      .select('value')
      .distinct()
      .where('value', 'in', prefixesAround(prefix))
      .where('change_id', 'is', null)
      .execute();
    for (const { value } of holders) await saying(phrase(` ${value.replace(/\/(32|128)$/, '')}`));
  }
  return bestOf(rows.values(), sought, { most, near });
}
