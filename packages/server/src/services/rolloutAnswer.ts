import type { Outcome, RolloutAnswer, RolloutSwitchAnswer, Step } from '@anthemion/contract';
import { changeOf } from '../store/changes.ts';
import type { Reads } from '../store/database.ts';
import { headOf, rolloutOf, rowsOf, wavesOf } from '../store/rollouts.ts';

/** A rollout, switch by switch. */
export async function rolloutAnswer(db: Reads, id: string): Promise<RolloutAnswer> {
  const r = await rolloutOf(db, id);
  const change = await changeOf(db, r.change_id);
  const rows = await rowsOf(db, id);
  const waves = wavesOf(r);
  const open = rows.filter((x) => x.outcome === 'waits' || x.outcome === 'under way').map((x) => x.wave);
  const counts: Partial<Record<Outcome, number>> = {};
  for (const x of rows) counts[x.outcome as Outcome] = (counts[x.outcome as Outcome] ?? 0) + 1;
  return {
    ...headOf(r, change.title, change.ticket),
    counts,
    waves,
    currentWave: open.length > 0 ? Math.min(...open) : waves.length,
    switches: rows.map((x): RolloutSwitchAnswer => ({
      host: x.host,
      seat: x.seat,
      serial: x.serial,
      wave: x.wave,
      stepsDone: x.steps_done,
      step: x.step as Step | null,
      outcome: x.outcome as Outcome,
      message: x.message,
      added: x.added,
      removed: x.removed,
      startedAt: x.started_at,
      endedAt: x.ended_at,
    })),
  };
}
