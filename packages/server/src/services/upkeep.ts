import { fabricNames, liveRevision, putFigures, type FabricFigures } from '../store/fabrics.ts';
import { liveOf, meantOf, putLive, settleClaims, settleMeant } from '../store/seats.ts';
import { keepTexts, pruneTexts } from '../store/texts.ts';
import { switchOf } from '../store/switches.ts';
import { changeOfRevision } from '../store/fabrics.ts';
import { layOut, type FabricIntent } from '@anthemion/core';
import { seatsTaken } from '../workers/tasks/state.ts';
import { at, type House } from './house.ts';

/**
 * Fabrics of release 0.1 do not say what each seat means and what each switch was confirmed with: both are computed once.
 * A switch that was last seen to run what its seat means counts as confirmed with that; another with what it runs.
 */
export async function settleOldFabrics(house: House): Promise<void> {
  const { db, compiler } = house;
  for (const fabric of await fabricNames(db)) {
    const revision = await liveRevision(db, fabric);
    if (revision === 0 || (await meantOf(db, fabric)).length > 0) continue;
    const plan = await compiler.run<'plan'>({ do: 'plan', fabric, change: null, into: null });
    const intent = JSON.parse(plan.intent) as FabricIntent;
    const layout = layOut(intent);
    const meant = new Map(plan.meant.map((m) => [m.seat, m.hash]));
    await db.transaction().execute(async (tx) => {
      const change = await changeOfRevision(tx, fabric, revision);
      await keepTexts(tx, plan.texts);
      await settleMeant(tx, fabric, plan.meant);
      await settleClaims(tx, fabric, null, seatsTaken(intent, layout));
      await putFigures(tx, fabric, figuresOf(intent, layout.seats.length));
      for (const { serial, seat, host } of seatsTaken(intent, layout)) {
        const hash = (await switchOf(tx, serial))?.running ?? meant.get(seat);
        if (hash === undefined || (await liveOf(tx, fabric)).some((l) => l.serial === serial)) continue;
        await putLive(tx, { serial, fabric, seat, host, hash, revision, change_id: change, at: at(house) });
      }
    });
  }
}

const figuresOf = (intent: FabricIntent, seats: number): FabricFigures => ({
  spines: intent.spines.count,
  leaves: seats - intent.spines.count,
  racks: intent.racks.length,
});

const PRUNE_EVERY_MS = 10 * 60_000;
const PRUNED_AT_ONCE = 200;

/** Deletes texts nobody refers to, a few at a time and now and then; the result stops it. */
export function keepPruning(house: House): () => void {
  const prune = (): void => {
    pruneTexts(house.db, PRUNED_AT_ONCE).catch((error: unknown) =>
      house.log.warn({ err: error }, 'texts were not pruned'),
    );
  };
  const timer = setInterval(prune, PRUNE_EVERY_MS);
  timer.unref();
  return () => clearInterval(timer);
}
