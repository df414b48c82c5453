import fc from 'fast-check';
import { applyEdits } from '../intent/edits/index.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { layOut } from '../layout/layout.ts';

/** Picks of up to three switches of a fabric. */
export const picks: fc.Arbitrary<readonly number[]> = fc.array(fc.nat(), { minLength: 1, maxLength: 3 });

/** An intent of which picked switches are drained, never both halves of a pair. */
export function drainedIn(intent: FabricIntent, picked: readonly number[]): FabricIntent {
  const { seats } = layOut(intent);
  const drained = new Set<string>();
  for (const n of picked) {
    const { id, peer } = seats[n % seats.length]!;
    if (peer === undefined || !drained.has(peer)) drained.add(id);
  }
  const made = applyEdits(
    intent,
    [...drained].map((seat) => ({ kind: 'drainSeat', seat })),
  );
  if (made.findings.length > 0) throw new Error(made.findings[0]!.message);
  return made.intent;
}
