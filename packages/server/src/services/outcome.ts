import type { Edit } from '@anthemion/core';
import { addHand, addSteps, moveChange, removeStep, type ChangeRow } from '../store/changes.ts';
import type { Writes } from '../store/database.ts';
import { writeDraws } from '../store/ledger.ts';
import { writeClaims } from '../store/seats.ts';
import type { EditOutcome } from '../workers/tasks/edit.ts';

interface Made {
  readonly edits: readonly Edit[];
  /** Position of an edit that goes. */
  readonly without?: number;
  /** Whose hand it was; null = nobody's, it was only proved again. */
  readonly by: string | null;
}

/**
 * Writes what an edit comes to, whole: steps, draws, claims and proof, at the version it rests on. Answers false when the
 * change has moved on; throws (UNIQUE) when a value or a switch has another holder by now. To be called in a transaction.
 */
export async function writeOutcome(
  tx: Writes,
  row: Pick<ChangeRow, 'id' | 'fabric' | 'version'>,
  outcome: EditOutcome,
  made: Made,
  at: string,
): Promise<boolean> {
  const moved = await moveChange(
    tx,
    row,
    {
      state: outcome.state,
      base_revision: outcome.base,
      conflicts: outcome.conflicts,
      proof: outcome.report,
      proof_version: row.version + 1,
      proof_digest: outcome.digest,
      proof_touches: outcome.touches ? 1 : 0,
      proven_at: at,
    },
    at,
  );
  if (!moved) return false;
  if (made.without !== undefined) await removeStep(tx, row.id, made.without);
  if (made.by !== null) {
    const steps = made.edits.map((edit, i) => ({ edit, sentence: outcome.sentences[i]! }));
    await addSteps(tx, row.id, steps, made.by, at);
    await addHand(tx, row.id, made.by);
  }
  await writeDraws(tx, row.id, outcome.draws);
  await writeClaims(tx, row.fabric, row.id, outcome.claims);
  return true;
}
