import type { CompiledFabric, ConfigFiles } from '@anthemion/core';
import type { Db, Reads } from '../../store/database.ts';
import { meantOf } from '../../store/seats.ts';
import { textOf } from '../../store/texts.ts';
import { hashOf, weigh } from '../fabricMemory.ts';
import { compiledState, liveState, snapshot } from './state.ts';

/** Which hosts of a fabric this release would write differently from what its live revision sent. */
export interface ReleaseTask {
  readonly do: 'release';
  readonly fabric: string;
}

/** Texts that were sent for a live state, where they are not what is compiled for it now: an older release wrote them. */
export async function sentOtherwise(
  db: Reads,
  fabric: string,
  live: CompiledFabric,
): Promise<Map<string, ConfigFiles>> {
  const sent = new Map((await meantOf(db, fabric)).map((m) => [m.seat, m]));
  const out = new Map<string, ConfigFiles>();
  for (const s of live.switches) {
    const was = sent.get(s.seat.id);
    const files = was === undefined || was.hash === hashOf(s.files) ? null : await textOf(db, was.hash);
    if (files) out.set(s.seat.host, files);
  }
  return out;
}

export const releaseTask = (db: Db, task: ReleaseTask): Promise<string[]> =>
  snapshot(db, async (tx) => {
    const live = await compiledState(tx, { ...(await liveState(tx, task.fabric)), change: null });
    const differ = [...(await sentOtherwise(tx, task.fabric, live)).keys()];
    weigh(task.fabric);
    return differ;
  });
