import {
  applyEdits,
  demandsOf,
  drawValues,
  emptyIntent,
  layOut,
  type Drawn,
  type Edit,
  type FabricIntent,
  type LedgerEntry,
  type Pool,
  type Values,
} from '@anthemion/core';
import { notThere } from '../http/problem.ts';
import type { Db } from '../store/database.ts';

export async function allPools(db: Db): Promise<Pool[]> {
  return (await db.selectFrom('pools').select('json').orderBy('name').execute()).map((r) => JSON.parse(r.json) as Pool);
}

export async function allLedger(db: Db): Promise<LedgerEntry[]> {
  const rows = await db.selectFrom('ledger').selectAll().orderBy('id').execute();
  return rows.map((r) => ({
    kind: r.kind,
    pool: r.pool,
    value: r.value,
    fabric: r.fabric,
    key: r.key,
    change: r.change_id,
  }));
}

/** Newest revision of a fabric; 0 with an empty intent before anything went live. */
export async function liveIntent(db: Db, fabric: string): Promise<{ intent: FabricIntent; revision: number }> {
  const row = await db
    .selectFrom('revisions')
    .select(['number', 'intent'])
    .where('fabric', '=', fabric)
    .orderBy('number', 'desc')
    .executeTakeFirst();
  if (row) return { intent: JSON.parse(row.intent) as FabricIntent, revision: row.number };
  return { intent: await emptyOf(db, fabric), revision: 0 };
}

async function emptyOf(db: Db, fabric: string): Promise<FabricIntent> {
  const row = await db.selectFrom('fabrics').selectAll().where('name', '=', fabric).executeTakeFirst();
  if (!row) throw notThere(`fabric ${fabric}`);
  return emptyIntent(row.name, row.prefix);
}

/** Intent of a fabric at a revision. */
export async function intentAt(db: Db, fabric: string, revision: number): Promise<FabricIntent> {
  if (revision === 0) return emptyOf(db, fabric);
  const row = await db
    .selectFrom('revisions')
    .select('intent')
    .where('fabric', '=', fabric)
    .where('number', '=', revision)
    .executeTakeFirst();
  if (!row) throw notThere(`revision ${revision} of ${fabric}`);
  return JSON.parse(row.intent) as FabricIntent;
}

export async function editsOf(db: Db, change: string): Promise<Edit[]> {
  const rows = await db
    .selectFrom('edits')
    .select('json')
    .where('change_id', '=', change)
    .orderBy('position')
    .execute();
  return rows.map((r) => JSON.parse(r.json) as Edit);
}

/** Draws for an intent in the name of a change (or of what is live, where change is null). */
export function drawFor(
  intent: FabricIntent,
  pools: readonly Pool[],
  ledger: readonly LedgerEntry[],
  change: string | null,
): Drawn {
  return drawValues(demandsOf(intent, layOut(intent)), pools, ledger, { fabric: intent.name, change });
}

export interface FullState {
  readonly intent: FabricIntent;
  readonly values: Values;
  readonly revision: number;
  readonly change: string | null;
  readonly edits: readonly Edit[];
}

/** What is live, with its values. */
export async function liveState(db: Db, fabric: string): Promise<FullState> {
  const { intent, revision } = await liveIntent(db, fabric);
  const { values } = drawFor(intent, await allPools(db), await allLedger(db), null);
  return { intent, values, revision, change: null, edits: [] };
}

/** The state a change would make, from its own base; edits that no longer apply are left out (they are its conflicts). */
export async function changeState(db: Db, changeId: string): Promise<FullState> {
  const row = await db.selectFrom('changes').selectAll().where('id', '=', changeId).executeTakeFirst();
  if (!row) throw notThere(`change ${changeId}`);
  const base = await intentAt(db, row.fabric, row.base_revision);
  const edits = await editsOf(db, changeId);
  const inConflict = new Set((JSON.parse(row.conflicts) as { edit: number }[]).map((c) => c.edit));
  const { intent } = applyEdits(
    base,
    edits.filter((_, i) => !inConflict.has(i)),
  );
  const { values } = drawFor(intent, await allPools(db), await allLedger(db), changeId);
  return { intent, values, revision: row.base_revision, change: changeId, edits };
}
