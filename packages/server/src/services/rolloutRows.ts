import type { Outcome } from '@anthemion/contract';
import { nanoid } from 'nanoid';
import type { Tx } from '../store/database.ts';
import { liveRevision } from '../store/fabrics.ts';
import { rowsOf, type RolloutRow, type SwitchRow } from '../store/rollouts.ts';
import { liveOf, meantOf } from '../store/seats.ts';

export const FAILED: ReadonlySet<string> = new Set<Outcome>(['refused, untouched', 'went back', 'unknown']);

/** An id that may stand in a file name on a switch. */
export const newId = (): string => nanoid(8).replaceAll('-', 'x').replaceAll('_', 'y');

/** A switch before any step; a new attempt has an id of its own on the switch. */
export const attempt = (rollout: string, n: number) =>
  ({
    attempt: n,
    apply_id: `${rollout}-${n}`,
    steps_done: 0,
    step: null,
    outcome: 'waits',
    message: '',
    before: null,
    started_at: null,
    ended_at: null,
  }) as const;
export const freshRow = (rollout: string, wave: number) => ({ rollout_id: rollout, wave, ...attempt(rollout, 1) });

/** What takes back the switches a rollout touched. */
export async function undoRows(tx: Tx, r: RolloutRow, undo: string): Promise<SwitchRow[]> {
  const meant = new Map((await meantOf(tx, r.fabric)).map((m) => [m.seat, m.hash]));
  const live = await liveRevision(tx, r.fabric);
  // Another rollout may have broken in since: what a switch was confirmed with last is what it should run now.
  const confirmed = new Map((await liveOf(tx, r.fabric)).map((l) => [l.serial, l.hash]));
  const out: SwitchRow[] = [];
  for (const x of await rowsOf(tx, r.id)) {
    const reached = x.outcome === 'as meant' || x.outcome === 'unknown' || x.outcome === 'under way';
    if (x.before === null || !reached) continue;
    const overtaken = r.overtaken_by !== null && x.expected !== null ? meant.get(x.seat) : undefined;
    const target = overtaken ?? x.expected ?? x.before;
    const now = x.outcome === 'as meant' ? (confirmed.get(x.serial) ?? x.target) : null;
    if (target === now || target === x.target) continue;
    out.push({
      ...x,
      ...freshRow(undo, 0),
      target,
      expected: now,
      expected_revision: null,
      expected_change: r.change_id,
      live_revision: overtaken === undefined ? x.expected_revision : live,
      live_change: x.expected_change,
      added: x.removed,
      removed: x.added,
      leaves: x.expected === null ? 1 : 0,
    });
  }
  return out;
}
