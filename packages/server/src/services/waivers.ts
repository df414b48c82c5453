import type { Edit, ProofReport } from '@anthemion/core';
import type { ChangeRow } from '../store/changes.ts';
import { notNow } from '../trouble.ts';

/** Who waives a rule is who makes the edit, whatever it says. */
export const signed = (edits: readonly Edit[], by: string): Edit[] =>
  edits.map((e) => (e.kind === 'putWaiver' ? { ...e, waiver: { ...e.waiver, by } } : e));

/** A proof that let something through by a waiver holds no longer than that. */
export function mustStillBeWaived({ proof }: Pick<ChangeRow, 'proof'>, today: string): void {
  const until = proof === null ? null : ((JSON.parse(proof) as Partial<ProofReport>).waivedUntil ?? null);
  if (until !== null && until < today)
    throw notNow(`A waiver that its proof rests on ended with ${until}: prove the change again.`);
}
