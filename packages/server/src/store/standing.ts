import type { FabricAnswer } from '@anthemion/contract';
import type { Reads } from './database.ts';
import type { FabricRow } from './fabrics.ts';
import { unfinishedIn } from './rollouts.ts';
import { waitingIn } from './seats.ts';

/** Waiting switches that are named, not only counted. */
const NAMED = 3;

/** How a fabric stands, without what it holds. */
export async function standingOf(db: Reads, row: FabricRow): Promise<FabricAnswer> {
  const waiting = await waitingIn(db, row.name);
  return {
    name: row.name,
    namePrefix: row.prefix,
    revision: row.revision,
    liveSince: row.liveSince,
    ...row.figures,
    openChanges: row.openChanges,
    unfinished: (await unfinishedIn(db, row.name))[0]?.id ?? null,
    releaseWrites: row.releaseWrites,
    waiting: waiting.length,
    waitingHosts: waiting.slice(0, NAMED).map((w) => w.host),
  };
}
