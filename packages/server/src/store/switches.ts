import type { InventoryAnswer } from '@anthemion/contract';
import type { Selectable } from 'kysely';
import type { Reads, Tables, Writes } from './database.ts';
import { pageOf, type Page, type PageAsked, type Sight } from './pages.ts';
import { noteRan } from './ranTexts.ts';
import { versionJudge } from './softwareVersions.ts';

export type SwitchRecord = Selectable<Tables['switches']>;

export interface SwitchLine {
  readonly serial: string;
  readonly model: string;
  readonly address: string;
  readonly port: number;
  readonly location: string;
  /** Accepted host key, base64 of its SHA-256; null = to be accepted at first sight. */
  readonly host_key?: string | null;
  readonly account?: string | null;
}

export const switchOf = async (db: Reads, serial: string): Promise<SwitchRecord | null> =>
  (await db.selectFrom('switches').selectAll().where('serial', '=', serial).executeTakeFirst()) ?? null;

/** Those of the serials that are known. */
export async function knownOf(db: Reads, serials: readonly string[]): Promise<Set<string>> {
  const out = new Set<string>();
  for (let i = 0; i < serials.length; i += 500)
    for (const r of await db
      .selectFrom('switches')
      .select('serial')
      .where('serial', 'in', serials.slice(i, i + 500))
      .execute())
      out.add(r.serial);
  return out;
}

/** The inventory by serial; whoever sees some fabrics only gets no switches of the others. */
export async function switchPage(db: Reads, asked: PageAsked, sight: Sight): Promise<Page<InventoryAnswer>> {
  let query = db
    .selectFrom('switches as s')
    .leftJoin('seat_claims as c', (j) => j.onRef('c.serial', '=', 's.serial').on('c.change_id', 'is', null))
    .leftJoin('switch_live as l', 'l.serial', 's.serial')
    .select([
      's.serial',
      's.model',
      's.address',
      's.port',
      's.location',
      's.account',
      's.host_key',
      's.seen_key',
      's.version',
      's.read_at',
      's.trouble',
      's.out_at',
      's.out_by',
      's.out_reason',
      'c.fabric',
      'c.seat',
      'c.host',
      'l.fabric as confirmed_in',
    ])
    .where('s.serial', '>', asked.after ?? '')
    .orderBy('s.serial')
    .limit(asked.limit + 1);
  if (sight !== null)
    query = query.where((e) =>
      e.and((['c.fabric', 'l.fabric'] as const).map((f) => e.or([e(f, 'is', null), e(f, 'in', sight)]))),
    );
  const judge = await versionJudge(db);
  return pageOf(
    await query.execute(),
    asked,
    (r) => r.serial,
    (r): InventoryAnswer => ({
      serial: r.serial,
      model: r.model,
      address: r.address,
      port: r.port,
      location: r.location,
      account: r.account,
      hostKey: r.host_key === null ? null : `SHA256:${r.host_key}`,
      seenKey: r.seen_key === null ? null : `SHA256:${r.seen_key}`,
      seat: r.seat === null ? null : `${r.fabric}/${r.seat}`,
      leftover: r.seat === null ? r.confirmed_in : null,
      host: r.host,
      version: r.version,
      untried: judge(r.model, r.version) !== null,
      readAt: r.read_at,
      trouble: r.trouble,
      out: r.out_at === null ? null : { at: r.out_at, by: r.out_by ?? '', reason: r.out_reason ?? '' },
    }),
  );
}

export async function addSwitches(db: Writes, rows: readonly SwitchLine[]): Promise<void> {
  for (const r of rows)
    await db
      .insertInto('switches')
      .values({
        host_key: null,
        account: null,
        ...r,
        seen_key: null,
        version: null,
        running: null,
        read_at: null,
        trouble: null,
      })
      .execute();
}

export async function noteSwitch(
  db: Writes,
  serial: string,
  set: Partial<Omit<SwitchRecord, 'serial' | 'model'>>,
): Promise<void> {
  await db.updateTable('switches').set(set).where('serial', '=', serial).execute();
  if (set.running && set.read_at) await noteRan(db, serial, set.running, set.read_at);
}

/** How many known switches are of a model. */
export async function countOfModel(db: Reads, model: string): Promise<number> {
  const { n } = await db
    .selectFrom('switches')
    .select((e) => e.fn.countAll<number>().as('n'))
    .where('model', '=', model)
    .executeTakeFirstOrThrow();
  return Number(n);
}

/** Takes a switch out of the inventory; what rollouts said of it stays. */
export async function dropSwitch(db: Writes, serial: string): Promise<void> {
  await db.deleteFrom('switch_seen').where('serial', '=', serial).execute();
  await db.deleteFrom('ran_texts').where('serial', '=', serial).execute();
  await db.deleteFrom('switches').where('serial', '=', serial).execute();
}
