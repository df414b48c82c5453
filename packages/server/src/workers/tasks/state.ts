import {
  applyEdits,
  compileFabric,
  demandsOf,
  layOut,
  type CompiledFabric,
  type Edit,
  type FabricIntent,
  type Layout,
  type Pool,
  type RebaseConflict,
  type Values,
} from '@anthemion/core';
import { createHash } from 'node:crypto';
import { changeOf, stepsOf, type ChangeRow } from '../../store/changes.ts';
import type { Db, Reads } from '../../store/database.ts';
import { intentAt, liveRevision } from '../../store/fabrics.ts';
import { heldBy, type HeldEntry } from '../../store/ledger.ts';
import { allPools } from '../../store/pools.ts';
import type { Claim } from '../../store/seats.ts';
import { compiledLast, hashOf } from '../fabricMemory.ts';

/** Runs a task on one unchanging view of the database. */
export const snapshot = <T>(db: Db, work: (tx: Reads) => Promise<T>): Promise<T> =>
  db.transaction().execute((tx) => work(tx));

/** A fabric as it stands, or would. */
export interface FabricAt {
  readonly intent: FabricIntent;
  readonly values: Values;
  readonly revision: number;
}
export interface LiveState extends FabricAt {
  /** What it holds of the ledger: its values. */
  readonly held: readonly HeldEntry[];
}

export async function liveState(db: Reads, fabric: string): Promise<LiveState> {
  const revision = await liveRevision(db, fabric);
  const held = await heldBy(db, fabric, null);
  const values = new Map(held.map((e) => [e.key, e.value]));
  return { intent: await intentAt(db, fabric, revision), values, held, revision };
}

export interface ChangeView {
  readonly row: ChangeRow;
  readonly base: FabricIntent;
  readonly edits: readonly { readonly position: number; readonly edit: Edit }[];
  readonly conflicts: readonly RebaseConflict[];
}

export async function changeView(db: Reads, id: string): Promise<ChangeView> {
  const row = await changeOf(db, id);
  return {
    row,
    base: await intentAt(db, row.fabric, row.base_revision),
    edits: (await stepsOf(db, id)).map(({ position, edit }) => ({ position, edit })),
    conflicts: JSON.parse(row.conflicts) as RebaseConflict[],
  };
}

/** The intent a change would make; edits in conflict are left out. */
export function intentOfChange(view: Pick<ChangeView, 'base' | 'edits' | 'conflicts'>): FabricIntent {
  const skip = new Set(view.conflicts.map((c) => c.edit));
  return applyEdits(
    view.base,
    view.edits.filter((_, i) => !skip.has(i)).map((e) => e.edit),
  ).intent;
}

/** Values a change has for what its intent needs: its own, and the live ones it does not replace. */
export async function valuesOfChange(db: Reads, intent: FabricIntent, change: string): Promise<Map<string, string>> {
  const needed = new Set(demandsOf(intent, layOut(intent)).map((d) => d.key));
  const values = new Map<string, string>();
  for (const e of await heldBy(db, intent.name, change))
    if (needed.has(e.key) && (e.change === change || !values.has(e.key))) values.set(e.key, e.value);
  return values;
}

/** A fabric as it is live, or as a change would have it. */
export async function stateAt(
  db: Reads,
  fabric: string,
  change: string | null,
): Promise<FabricAt & { readonly change: string | null; readonly edits: readonly Edit[] }> {
  if (change === null) return { ...(await liveState(db, fabric)), change, edits: [] };
  const view = await changeView(db, change);
  const intent = intentOfChange(view);
  return {
    intent,
    values: await valuesOfChange(db, intent, change),
    revision: view.row.base_revision,
    change,
    edits: view.edits.map((e) => e.edit),
  };
}

export const compileRemembered = (
  intent: FabricIntent,
  values: Values,
  pools: readonly Pool[],
  which: 'before' | 'after',
): CompiledFabric => compileFabric(intent, values, pools, compiledLast(intent.name, which));
export const compiledState = async (
  db: Reads,
  state: FabricAt & { readonly change: string | null },
): Promise<CompiledFabric> =>
  compileRemembered(state.intent, state.values, await allPools(db), state.change === null ? 'before' : 'after');

/** One hash over every text of a fabric: what was judged, approved and sent is the same exactly when this is. */
export function digestOf(fabric: CompiledFabric): string {
  const hash = createHash('sha256');
  for (const s of [...fabric.switches].sort((a, b) => (a.seat.host < b.seat.host ? -1 : 1)))
    hash.update(`${s.seat.host} ${hashOf(s.files)}\n`);
  return hash.digest('hex');
}

/** Who sits where, with names. */
export function seatsTaken(intent: FabricIntent, layout: Layout = layOut(intent)): Claim[] {
  return layout.seats.flatMap((s) => {
    const serial = intent.seating[s.id];
    return serial === undefined ? [] : [{ serial, seat: s.id, host: s.host }];
  });
}
