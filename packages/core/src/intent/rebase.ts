import type { Finding } from '../finding.ts';
import { applyEdit } from './applyEdit.ts';
import { describeEdit, subjectsOf, type Edit } from './edits.ts';
import { serverPortKey, type FabricIntent } from './intent.ts';

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

/** The part of an intent a subject such as `network:echo-store` stands for, as comparable text. */
function subjectText(intent: FabricIntent, subject: string): string {
  const cut = subject.indexOf(':');
  const kind = cut < 0 ? subject : subject.slice(0, cut);
  const name = subject.slice(cut + 1);
  const pick = (): unknown => {
    switch (kind) {
      case 'network':
        return intent.networks.find((n) => n.name === name);
      case 'vrf':
        return intent.vrfs.find((v) => v.name === name);
      case 'rack':
        return intent.racks.find((r) => r.number === Number(name));
      case 'seat':
        return intent.seating[name];
      case 'port':
        return intent.ports.find((p) => serverPortKey(p) === name);
      case 'snippet':
        return intent.snippets.find((s) => s.name === name);
      case 'setting':
        return intent.settings[name as keyof FabricIntent['settings']];
      case 'pool':
        return intent.pools[name as keyof FabricIntent['pools']];
      case 'spines':
        return intent.spines;
      default:
        return intent.pattern;
    }
  };
  return JSON.stringify(pick()) ?? '';
}

/**
 * Carries the edits of a change over to a newer revision. An edit conflicts when it can no longer be applied, or when
 * the object it is about was changed by the revisions in between (so that it would overwrite somebody's work unseen).
 */
export function rebaseEdits(oldBase: FabricIntent, newBase: FabricIntent, edits: readonly Edit[]): Rebased {
  let intent = newBase;
  const carried: number[] = [];
  const conflicts: RebaseConflict[] = [];
  for (const [index, edit] of edits.entries()) {
    const overtaken = subjectsOf(edit).filter((s) => subjectText(oldBase, s) !== subjectText(newBase, s));
    const step = applyEdit(intent, edit);
    if (step.findings.length === 0 && overtaken.length === 0) {
      intent = step.intent;
      carried.push(index);
      continue;
    }
    const findings: Finding[] = [
      ...overtaken.map((subject): Finding => ({
        rule: 'rebase',
        severity: 'error',
        message: `${subject.replace(':', ' ')} was changed by a newer revision after this edit was made.`,
        cure: 'Look at it as it is now; then keep this edit again or undo it.',
        subjects: [subject],
      })),
      ...step.findings,
    ];
    conflicts.push({ edit: index, sentence: describeEdit(edit), findings });
  }
  return { intent, carried, conflicts };
}
