import type { Finding } from '../../finding.ts';
import type { Subject } from '../../subject.ts';
import { objectsBetween } from '../collections/differences.ts';
import { namedIn } from '../collections/removal.ts';
import type { FabricIntent } from '../intent.ts';
import { applyEdit, describeEdit, subjectsOf, type Edit } from './index.ts';

/** An edit that cannot simply be carried over to the newer revision. */
export interface RebaseConflict {
  /** Index into the edits of the change. */
  readonly edit: number;
  readonly sentence: string;
  readonly findings: readonly Finding[];
}

export interface Rebased {
  readonly intent: FabricIntent;
  /** Edits that could be carried over, by index. */
  readonly carried: readonly number[];
  readonly conflicts: readonly RebaseConflict[];
}

const overtakenBy = (subject: Subject, now: FabricIntent): Finding => ({
  rule: 'rebase',
  severity: 'error',
  message: `${namedIn(now, subject)} was changed by a newer revision after this edit was made.`,
  cure: 'Look at it as it is now; then keep this edit again or undo it.',
  subjects: [subject],
});

/**
 * Carries the edits of a change over to a newer revision. An edit conflicts when it can no longer be applied, or when
 * an object it is about, *or one that goes with it* (the servers of a rack that is removed, all there is in a fabric that
 * is cleared), was changed by the revisions in between: it would overwrite somebody's work unseen.
 */
export function rebaseEdits(oldBase: FabricIntent, newBase: FabricIntent, edits: readonly Edit[]): Rebased {
  const newer = objectsBetween(oldBase, newBase);
  let intent = newBase;
  const carried: number[] = [];
  const conflicts: RebaseConflict[] = [];
  for (const [index, edit] of edits.entries()) {
    const step = applyEdit(intent, edit);
    const about = new Set([...subjectsOf(edit), ...objectsBetween(intent, step.intent)]);
    const overtaken = [...about].filter((s) => newer.has(s));
    if (step.findings.length === 0 && overtaken.length === 0) {
      intent = step.intent;
      carried.push(index);
      continue;
    }
    conflicts.push({
      edit: index,
      sentence: describeEdit(edit, intent),
      findings: [...overtaken.map((s) => overtakenBy(s, newBase)), ...step.findings],
    });
  }
  return { intent, carried, conflicts };
}
