import type { ClashAnswer } from '@anthemion/contract';
import { rebaseEdits } from '@anthemion/core';
import { openChangesOf } from '../../store/changes.ts';
import type { Db } from '../../store/database.ts';
import { changeView, intentOfChange, snapshot } from './state.ts';

export interface ClashesTask {
  readonly do: 'clashes';
  readonly fabric: string;
  readonly change: string;
}

/** What of a change would conflict if another open change of its fabric went live first, told while both are open. */
export const clashesTask = (db: Db, task: ClashesTask): Promise<ClashAnswer[]> =>
  snapshot(db, async (tx) => {
    const own = await changeView(tx, task.change);
    const edits = own.edits.map((e) => e.edit);
    const out: ClashAnswer[] = [];
    for (const id of await openChangesOf(tx, task.fabric)) {
      if (id === task.change) continue;
      const other = await changeView(tx, id);
      if (other.row.base_revision !== own.row.base_revision || other.edits.length === 0) continue;
      const { conflicts } = rebaseEdits(own.base, intentOfChange(other), edits);
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
