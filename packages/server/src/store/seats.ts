import type { Reads, Tables, Writes } from './database.ts';

/** A seat's switch as an open change or a live revision has it. */
export interface Claim {
  readonly serial: string;
  readonly seat: string;
  readonly host: string;
}
export interface ClaimHolder extends Claim {
  readonly fabric: string;
  readonly change: string | null;
  readonly title: string | null;
}

/** Who holds these switches, live and in open changes. */
export async function holdersOf(db: Reads, serials: readonly string[]): Promise<ClaimHolder[]> {
  const out: ClaimHolder[] = [];
  for (let i = 0; i < serials.length; i += 500) {
    const found = await db
      .selectFrom('seat_claims as s')
      .leftJoin('changes as c', 'c.id', 's.change_id')
      .select(['s.serial', 's.fabric', 's.seat', 's.host', 's.change_id', 'c.title'])
      .where('s.serial', 'in', serials.slice(i, i + 500))
      .execute();
    for (const r of found)
      out.push({ serial: r.serial, fabric: r.fabric, seat: r.seat, host: r.host, change: r.change_id, title: r.title });
  }
  return out;
}

/** The switches a change newly seats, all of them; throws (UNIQUE) when one has another holder. */
export async function writeClaims(db: Writes, fabric: string, change: string, claims: readonly Claim[]): Promise<void> {
  await db.deleteFrom('seat_claims').where('change_id', '=', change).execute();
  for (const { serial, seat, host } of claims)
    await db.insertInto('seat_claims').values({ serial, fabric, seat, host, change_id: change }).execute();
}

export async function dropClaims(db: Writes, change: string): Promise<void> {
  await db.deleteFrom('seat_claims').where('change_id', '=', change).execute();
}

/** What is live of a fabric becomes exactly these seats; the change's own claims are used up. */
export async function settleClaims(
  db: Writes,
  fabric: string,
  change: string | null,
  live: readonly Claim[],
): Promise<void> {
  if (change !== null) await dropClaims(db, change);
  const wanted = new Map(live.map((c) => [c.serial, c]));
  const now = await db
    .selectFrom('seat_claims')
    .select(['id', 'serial', 'seat', 'host'])
    .where('fabric', '=', fabric)
    .where('change_id', 'is', null)
    .execute();
  for (const row of now) {
    const next = wanted.get(row.serial);
    if (next?.seat === row.seat && next.host === row.host) wanted.delete(row.serial);
    else await db.deleteFrom('seat_claims').where('id', '=', row.id).execute();
  }
  for (const { serial, seat, host } of wanted.values())
    await db.insertInto('seat_claims').values({ serial, fabric, seat, host, change_id: null }).execute();
}

export type LiveRow = Tables['switch_live'];

/** Fabric whose text a switch was confirmed with though it has no seat in it any more; null = it has one, or never had. */
export async function leftoverOf(db: Reads, serial: string): Promise<string | null> {
  const row = await db
    .selectFrom('switch_live as l')
    .leftJoin('seat_claims as s', (j) => j.onRef('s.serial', '=', 'l.serial').on('s.change_id', 'is', null))
    .select('l.fabric')
    .where('l.serial', '=', serial)
    .where('s.serial', 'is', null)
    .executeTakeFirst();
  return row?.fabric ?? null;
}

/** What the switches of a fabric were last confirmed with. */
export const liveOf = (db: Reads, fabric: string): Promise<LiveRow[]> =>
  db.selectFrom('switch_live').selectAll().where('fabric', '=', fabric).execute();

export async function putLive(db: Writes, row: LiveRow): Promise<void> {
  await db
    .insertInto('switch_live')
    .values(row)
    .onConflict((c) => c.column('serial').doUpdateSet(row))
    .execute();
}
export async function dropLive(db: Writes, serial: string): Promise<void> {
  await db.deleteFrom('switch_live').where('serial', '=', serial).execute();
}
/** Switches whose seat another one has taken: they are out of the fabric, dead or in the store. */
export async function dropReplaced(db: Writes, fabric: string): Promise<void> {
  const live = (column: 'serial' | 'seat') =>
    db.selectFrom('seat_claims').select(column).where('fabric', '=', fabric).where('change_id', 'is', null);
  await db
    .deleteFrom('switch_live')
    .where('fabric', '=', fabric)
    .where('serial', 'not in', live('serial'))
    .where('seat', 'in', live('seat'))
    .execute();
}
/** A change went live: what its switches were confirmed with belongs to the revision now. */
export async function numberLive(db: Writes, fabric: string, change: string, revision: number): Promise<void> {
  await db
    .updateTable('switch_live')
    .set({ revision })
    .where('fabric', '=', fabric)
    .where('change_id', '=', change)
    .where('revision', 'is', null)
    .execute();
}

export interface Meant {
  readonly seat: string;
  readonly host: string;
  readonly hash: string;
}

/** Text each seat is meant to run by the live revision. */
export const meantOf = (db: Reads, fabric: string): Promise<Meant[]> =>
  db.selectFrom('meant').select(['seat', 'host', 'hash']).where('fabric', '=', fabric).execute();

export async function settleMeant(db: Writes, fabric: string, meant: readonly Meant[]): Promise<void> {
  const now = new Map((await meantOf(db, fabric)).map((m) => [m.seat, m]));
  for (const m of meant) {
    const was = now.get(m.seat);
    now.delete(m.seat);
    if (was?.hash === m.hash && was.host === m.host) continue;
    await db
      .insertInto('meant')
      .values({ fabric, ...m })
      .onConflict((c) => c.columns(['fabric', 'seat']).doUpdateSet({ host: m.host, hash: m.hash }))
      .execute();
  }
  for (const seat of now.keys())
    await db.deleteFrom('meant').where('fabric', '=', fabric).where('seat', '=', seat).execute();
}

/** Switches of a fabric whose confirmed text is not what the live revision means for their seat, or that have no seat any more. */
export async function waitingIn(db: Reads, fabric: string): Promise<{ serial: string; host: string }[]> {
  return db
    .selectFrom('switch_live as l')
    .leftJoin('seat_claims as s', (j) => j.onRef('s.serial', '=', 'l.serial').on('s.change_id', 'is', null))
    .leftJoin('meant as m', (j) => j.onRef('m.fabric', '=', 'l.fabric').onRef('m.seat', '=', 's.seat'))
    .select(['l.serial', 'l.host'])
    .where('l.fabric', '=', fabric)
    .where((e) => e.or([e('m.hash', 'is', null), e('m.hash', '<>', e.ref('l.hash'))]))
    .union(
      db
        .selectFrom('seat_claims as s')
        .leftJoin('switch_live as l', 'l.serial', 's.serial')
        .select(['s.serial', 's.host'])
        .where('s.fabric', '=', fabric)
        .where('s.change_id', 'is', null)
        .where('l.serial', 'is', null),
    )
    .execute();
}
