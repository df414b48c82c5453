import type { FabricAnswer } from '@anthemion/contract';
import type { Reads } from './database.ts';
import type { FabricRow } from './fabrics.ts';
import { unfinishedIn } from './rollouts.ts';
import { waitingIn } from './seats.ts';

/** How a fabric stands, without what it holds. */
export async function standingOf(db: Reads, row: FabricRow): Promise<FabricAnswer> {
  return {
    name: row.name,
    namePrefix: row.prefix,
    revision: row.revision,
    liveSince: row.liveSince,
    ...row.figures,
    openChanges: row.openChanges,
    unfinished: (await unfinishedIn(db, row.name))[0]?.id ?? null,
    waiting: (await waitingIn(db, row.name)).length,
  };
}
