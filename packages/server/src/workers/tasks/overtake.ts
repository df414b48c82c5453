import { countTiers, layOut, rebaseEdits } from '@anthemion/core';
import { otherOpen } from '../../store/changes.ts';
import { readDocument } from '../../store/documents.ts';
import type { Db } from '../../store/database.ts';
import type { FabricFigures } from '../../store/fabrics.ts';
import type { Claim } from '../../store/seats.ts';
import { changeView, seatsTaken, snapshot } from './state.ts';

export interface OvertakeTask {
  readonly do: 'overtake';
  readonly fabric: string;
  /** The change that goes live, and the intent it was approved with. */
  readonly change: string;
  readonly intent: string;
}

/** An open change as it stands after another has gone live. */
export interface Overtaken {
  readonly id: string;
  readonly version: number;
  readonly conflicts: string;
}
export interface OvertakeOutcome {
  readonly others: readonly Overtaken[];
  readonly figures: FabricFigures;
  readonly seats: readonly Claim[];
}

/** What going live does to the other open changes of the fabric: each is carried over to the new revision. */
export const overtakeTask = (db: Db, task: OvertakeTask): Promise<OvertakeOutcome> =>
  snapshot(db, async (tx) => {
    const intent = readDocument('intent', task.intent);
    const others: Overtaken[] = [];
    for (const { id, version } of await otherOpen(tx, task.fabric, task.change)) {
      const view = await changeView(tx, id);
      const { conflicts } = rebaseEdits(
        view.base,
        intent,
        view.edits.map((e) => e.edit),
      );
      others.push({ id, version, conflicts: JSON.stringify(conflicts) });
    }
    const layout = layOut(intent);
    return {
      others,
      figures: { ...countTiers(layout.seats), racks: intent.racks.length },
      seats: seatsTaken(intent, layout),
    };
  });
