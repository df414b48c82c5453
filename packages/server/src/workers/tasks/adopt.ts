import {
  adoptDrift,
  configDifferences,
  describeEdits,
  layOut,
  problem,
  type Drifted,
  type Edit,
  type NotAdopted,
  seatDialects,
} from '@anthemion/core';
import type { Db } from '../../store/database.ts';
import { liveOf, meantOf } from '../../store/seats.ts';
import { switchOf } from '../../store/switches.ts';
import { textOf } from '../../store/texts.ts';
import { refused } from '../../trouble.ts';
import { parseOnce } from '../fabricMemory.ts';
import { liveState, snapshot, stateAt } from './state.ts';

export interface AdoptTask {
  readonly do: 'adopt';
  readonly fabric: string;
  /** The change the edits shall go into; null = a new one. */
  readonly change: string | null;
  readonly serials: readonly string[];
}
export interface AdoptOutcome {
  readonly edits: readonly Edit[];
  readonly sentences: readonly string[];
  readonly left: readonly NotAdopted[];
  readonly hosts: readonly string[];
}

/** What of the hand edits on some switches the intent can say, in words of the change it would go into. */
export const adoptTask = (db: Db, task: AdoptTask): Promise<AdoptOutcome> =>
  snapshot(db, async (tx) => {
    const live = await liveState(tx, task.fabric);
    const state = task.change === null ? live : await stateAt(tx, task.fabric, task.change);
    const layout = layOut(live.intent);
    const meant = new Map((await meantOf(tx, task.fabric)).map((m) => [m.seat, m.hash]));
    const confirmed = new Map((await liveOf(tx, task.fabric)).map((l) => [l.serial, l.hash]));
    const dialectAt = seatDialects(live.intent.models);
    const drifted: Drifted[] = [];
    const unread: NotAdopted[] = [];
    const hosts: string[] = [];
    for (const [i, serial] of task.serials.entries()) {
      const seat = layout.seats.find((s) => live.intent.seating[s.id] === serial);
      const running = (await switchOf(tx, serial))?.running ?? null;
      const base = confirmed.get(serial) ?? (seat && meant.get(seat.id));
      if (!seat || running === null || base === undefined || running === base)
        throw refused([
          problem(
            'drifted',
            `/serials/${i}`,
            seat
              ? `${seat.host} does not run anything else than is meant.`
              : `${serial} has no seat in ${task.fabric}.`,
            'Choose switches that were edited by hand.',
          ),
        ]);
      const was = parseOnce(base, (await textOf(tx, base))!, dialectAt(seat));
      const now = parseOnce(running, (await textOf(tx, running))!, dialectAt(seat));
      hosts.push(seat.host);
      drifted.push({
        seat: seat.id,
        meant: was.config,
        runs: now.config,
        differences: configDifferences(was.config, now.config),
      });
      const known = new Set(was.unread.map((u) => `${u.file} ${u.text}`));
      for (const u of now.unread)
        if (!known.has(`${u.file} ${u.text}`))
          unread.push({
            host: seat.host,
            sentence: `Line ${u.line} of ${u.file}: “${u.text}”`,
            why: 'it is not understood, so the intent cannot say it',
          });
    }
    const { edits, left } = adoptDrift(state.intent, layout, drifted);
    return { edits, sentences: describeEdits(edits, state.intent), left: [...left, ...unread], hosts };
  });
