import { RELEASE } from '../release.ts';
import {
  fabricNames,
  fabricsOfOtherReleases,
  keepRevisionTexts,
  liveRevision,
  putFigures,
  putReleaseWrites,
} from '../store/fabrics.ts';
import type { Sessions } from './sessions.ts';
import { liveOf, meantOf, putLive, settleClaims, settleMeant } from '../store/seats.ts';
import { keepTexts, pruneTexts } from '../store/texts.ts';
import { readDocument } from '../store/documents.ts';
import { switchOf } from '../store/switches.ts';
import { changeOfRevision } from '../store/fabrics.ts';
import { countTiers, layOut } from '@anthemion/core';
import { seatsTaken } from '../workers/tasks/state.ts';
import { at, today, type House } from './house.ts';

/**
 * Fabrics of release 0.1 do not say what each seat means and what each switch was confirmed with: both are computed once.
 * A switch that was last seen to run what its seat means counts as confirmed with that; another with what it runs.
 */
export async function settleOldFabrics(house: House): Promise<void> {
  const { db, compiler } = house;
  for (const fabric of await fabricNames(db)) {
    const revision = await liveRevision(db, fabric);
    if (revision === 0 || (await meantOf(db, fabric)).length > 0) continue;
    const plan = await compiler.run<'plan'>({ do: 'plan', fabric, change: null, into: null, today: today(house) });
    const intent = readDocument('intent', plan.intent);
    const layout = layOut(intent);
    const meant = new Map(plan.meant.map((m) => [m.seat, m.hash]));
    await db.transaction().execute(async (tx) => {
      const change = await changeOfRevision(tx, fabric, revision);
      await keepTexts(tx, plan.texts);
      await settleMeant(tx, fabric, plan.meant);
      await keepRevisionTexts(tx, fabric, revision, plan.meant);
      await settleClaims(tx, fabric, null, seatsTaken(intent, layout));
      await putFigures(tx, fabric, { ...countTiers(layout.seats), racks: intent.racks.length });
      for (const { serial, seat, host } of seatsTaken(intent, layout)) {
        const hash = (await switchOf(tx, serial))?.running ?? meant.get(seat);
        if (hash === undefined || (await liveOf(tx, fabric)).some((l) => l.serial === serial)) continue;
        await putLive(tx, { serial, fabric, seat, host, hash, revision, change_id: change, at: at(house) });
      }
    });
  }
}

const PRUNE_EVERY_MS = 10 * 60_000;
const PRUNED_AT_ONCE = 200;

/**
 * Compares what this release writes with what each fabric's live revision sent, once after an upgrade. What differs is shown
 * on the fabric as something to propose; nothing is drift because of it.
 */
export async function weighRelease({ db, compiler, log }: House): Promise<void> {
  for (const fabric of await fabricsOfOtherReleases(db, RELEASE)) {
    try {
      const differ = await compiler.run<'release'>({ do: 'release', fabric });
      await putReleaseWrites(db, fabric, RELEASE, differ.length);
    } catch (error) {
      log.error({ err: error, fabric }, 'what this release would write could not be compared with what is live');
    }
  }
}

/** Deletes texts nobody refers to and sessions that have run out, a few at a time and now and then; the result stops it. */
export function keepTidy(house: House, sessions: Sessions): () => void {
  const prune = (): void => {
    sessions.dropOld().catch((error: unknown) => house.log.warn({ err: error }, 'old sessions were not dropped'));
    pruneTexts(house.db, PRUNED_AT_ONCE).catch((error: unknown) =>
      house.log.warn({ err: error }, 'texts were not pruned'),
    );
  };
  const timer = setInterval(prune, PRUNE_EVERY_MS);
  timer.unref();
  return () => clearInterval(timer);
}
