import type { BackupAnswer } from '@anthemion/contract';
import type { Reads, Tables, Writes } from './database.ts';
import { pageOf, type Page, type PageAsked, type Sight } from './pages.ts';

export type RanText = Omit<Tables['ran_texts'], 'id'> & { readonly id: number };

/** So many texts are kept of a switch; a script that edits one every minute does not fill the disk. */
const KEPT_AT_MOST = 500;

/** Notes what a switch is seen to run, where that is another text than before. */
export async function noteRan(db: Writes, serial: string, hash: string, at: string): Promise<void> {
  const own = db.selectFrom('ran_texts').where('serial', '=', serial).orderBy('id', 'desc');
  const noted = await db
    .insertInto('ran_texts')
    .columns(['serial', 'fabric', 'seat', 'host', 'hash', 'at'])
    .expression(
      db
        .selectFrom('switches as s')
        .leftJoin('seat_claims as c', 'c.serial', 's.serial')
        .select((e) => [
          's.serial',
          e.fn.coalesce('c.fabric', e.val('')).as('fabric'),
          e.fn.coalesce('c.seat', e.val('')).as('seat'),
          e.fn.coalesce('c.host', e.val('')).as('host'),
          e.val(hash).as('hash'),
          e.val(at).as('at'),
        ])
        .where('s.serial', '=', serial)
        .where((e) => e(own.select('hash').limit(1), 'is distinct from', hash))
        // What is live comes before what an open change means.
        .orderBy('c.change_id')
        .limit(1),
    )
    .executeTakeFirst();
  if (!noted.numInsertedOrUpdatedRows) return;
  await db
    .deleteFrom('ran_texts')
    .where('serial', '=', serial)
    .where('id', '<=', own.select('id').offset(KEPT_AT_MOST).limit(1))
    .execute();
}

const seen = (db: Reads, sight: Sight) => {
  const all = db.selectFrom('ran_texts').selectAll();
  return sight === null ? all : all.where((e) => e.or([e('fabric', '=', ''), e('fabric', 'in', sight)]));
};

/** The back-ups of a switch, newest first, as far as one sees the fabrics it sat in; each with the revisions that meant it. */
export async function backupPage(
  db: Reads,
  serial: string,
  asked: PageAsked,
  sight: Sight,
): Promise<Page<BackupAnswer>> {
  const found = await seen(db, sight)
    .where('serial', '=', serial)
    .where('id', '<', Number(asked.after ?? Number.MAX_SAFE_INTEGER))
    .select((e) => {
      const meant = e
        .selectFrom('revision_texts as t')
        .whereRef('t.hash', '=', 'ran_texts.hash')
        .whereRef('t.fabric', '=', 'ran_texts.fabric')
        .whereRef('t.seat', '=', 'ran_texts.seat');
      return [
        meant.select((m) => m.fn.min('t.number').as('n')).as('first'),
        meant.select((m) => m.fn.max('t.number').as('n')).as('last'),
      ];
    })
    .orderBy('id', 'desc')
    .limit(asked.limit + 1)
    .execute();
  return pageOf(
    found,
    asked,
    (r) => String(r.id),
    ({ id, at, fabric, seat, host, first, last }): BackupAnswer => ({
      id,
      at,
      fabric,
      seat,
      host,
      revisions: first === null || last === null ? null : { first, last },
    }),
  );
}

/** A back-up by its number, as far as one sees the fabric its switch sat in. */
export const ranTextOf = async (db: Reads, id: number, sight: Sight): Promise<RanText | null> =>
  (await seen(db, sight).where('id', '=', id).executeTakeFirst()) ?? null;
