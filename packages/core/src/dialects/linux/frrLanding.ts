import { emptyDraft } from './draft.ts';
import { FRR_PRELUDE, frrTrialText, seenLanding, type FrrLanding, type FrrTrial } from './frrVocabulary.ts';
import { frrReader } from './linux.ts';

/** Where the line of a trial lands, and the mark after it, as the reader of the dialect understands FRR. */
export function readLanding(trial: FrrTrial): FrrLanding {
  const at = new Map<number, string | null>();
  frrReader.read(frrTrialText(trial), emptyDraft(), [], undefined, (line, block) => at.set(line, block));
  const before = FRR_PRELUDE.trimEnd().split('\n').length + trial.block.opens.length;
  return seenLanding(trial, [at.get(before + 1) ?? null, at.get(before + 2) ?? null]);
}
