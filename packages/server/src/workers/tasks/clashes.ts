import type { ClashAnswer } from '@anthemion/contract';
import { rebaseEdits, type Edit } from '@anthemion/core';
import { openChangesOf } from '../../store/changes.ts';
import type { Db } from '../../store/database.ts';
import { changeView, liveState, snapshot, type ChangeView } from './state.ts';

export interface ClashesTask {
  readonly do: 'clashes';
  readonly fabric: string;
  readonly change: string;
}

/** The edits of a change that hold: those in conflict are left out. */
const open = ({ edits, conflicts }: ChangeView): Edit[] => {
  const skip = new Set(conflicts.map((c) => c.edit));
  return edits.filter((_, i) => !skip.has(i)).map((e) => e.edit);
};

/** What of a change would conflict if another open change of its fabric went live first, told while both are open. */
export const clashesTask = (db: Db, task: ClashesTask): Promise<ClashAnswer[]> =>
  snapshot(db, async (tx) => {
    const own = await changeView(tx, task.change);
    const edits = own.edits.map((e) => e.edit);
    const live = await liveState(tx, task.fabric);
    const overtaken = new Set(rebaseEdits(own.base, live.intent, edits).conflicts.map((c) => c.edit));
    const out: ClashAnswer[] = [];
    for (const id of await openChangesOf(tx, task.fabric)) {
      if (id === task.change) continue;
      const other = await changeView(tx, id);
      if (other.edits.length === 0) continue;
      // As it would be live; what is overtaken already, by what is live now, is not its doing.
      const { intent: then } = rebaseEdits(other.base, live.intent, open(other));
      const conflicts = rebaseEdits(own.base, then, edits).conflicts.filter((c) => !overtaken.has(c.edit));
      if (conflicts.length > 0)
        out.push({
          change: id,
          title: other.row.title,
          author: other.row.author,
          state: other.row.state as ClashAnswer['state'],
          edits: conflicts.map((c) => ({ sentence: c.sentence, why: c.findings.map((f) => f.message).join(' ') })),
        });
    }
    return out;
  });
