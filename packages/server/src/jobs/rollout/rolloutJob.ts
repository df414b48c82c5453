import PQueue from 'p-queue';
import type { Outcome } from '@anthemion/contract';
import type { RolloutWave } from '@anthemion/core';
import { goLive, endRestIfNoneWaits } from '../../services/goingLive.ts';
import { at, type House } from '../../services/house.ts';
import { afterUndo, pinned } from '../../services/pins.ts';
import { FAILED } from '../../services/rolloutRows.ts';
import type { Reaching } from '../../reach/reach.ts';
import { moveJob, type JobState } from '../../store/jobs.ts';
import { rolloutOf, rowsOf, wavesOf, type RolloutRow, type SwitchRow } from '../../store/rollouts.ts';
import { words } from '../../trouble.ts';
import type { JobControl, JobKind } from '../engine.ts';
import { Meeting } from './meeting.ts';
import { PACE, type Pace } from './pace.ts';
import { runSwitch } from './switchRun.ts';

/** Switches worked on at the same time within a wave. */
const AT_ONCE = 8;
/** Lines open at the same time to switches that go together. */
const LINES_AT_ONCE = 32;
const NOTHING = { before: [], after: [] } as const;

/** Rollouts as a kind of job: wave after wave, until all is done, somebody says stop, or too many fail. */
export const rolloutJob = (
  house: House,
  reach: Reaching,
  pace?: Partial<Pace>,
  onDone: (serial: string) => void = () => undefined,
): JobKind => ({
  kind: 'rollout',
  run: (id, control) => new RolloutRun(house, reach, id, control, pace, onDone).go(),
  halfDone: async (id) => (await rowsOf(house.db, id)).some((r) => r.outcome === 'under way'),
});

/** The same way to switches, with so many lines at once. */
function fewLines(reach: Reaching): Reaching {
  const lines = new PQueue({ concurrency: LINES_AT_ONCE });
  return { on: (serial, work) => lines.add(() => reach.on(serial, work)) };
}

class RolloutRun {
  private readonly house: House;
  private readonly reach: Reaching;
  private readonly id: string;
  private readonly control: JobControl;
  private readonly pace: Partial<Pace> | undefined;
  /** Told of every switch that is done with, however it ended. */
  private readonly onDone: (serial: string) => void;
  constructor(
    house: House,
    reach: Reaching,
    id: string,
    control: JobControl,
    pace: Partial<Pace> | undefined,
    onDone: (serial: string) => void,
  ) {
    this.onDone = onDone;
    this.house = house;
    this.reach = reach;
    this.id = id;
    this.control = control;
    this.pace = pace;
  }

  private rows(): Promise<SwitchRow[]> {
    return rowsOf(this.house.db, this.id);
  }
  private async end(from: readonly JobState[], to: JobState, reason: string): Promise<void> {
    if (await moveJob(this.house.db, this.id, from, to, reason, at(this.house)))
      await this.control.say('', reason || to);
  }

  async go(): Promise<void> {
    const rollout = await rolloutOf(this.house.db, this.id);
    for (const [i, wave] of wavesOf(rollout).entries()) {
      await this.wave(rollout, i, wave);
      if (this.control.stopping()) return;
      // Paused: later waves may still have switches that were under way when a server ended.
      if ((await this.control.state()) !== 'running') continue;
      const failed = (await this.rows()).filter((r) => r.wave === i && FAILED.has(r.outcome));
      if (failed.length >= rollout.stop_line)
        return this.end(
          ['running'],
          'stopped',
          `stop line reached in ${wave.name}: ${failed.length} of ${wave.hosts.length} failed (${failed.map((r) => r.host).join(', ')})`,
        );
    }
    if ((await this.control.state()) !== 'running') return;
    const rows = await this.rows();
    const failed = rows.filter((r) => FAILED.has(r.outcome));
    if (failed.length > 0)
      return this.end(
        ['running'],
        'stopped',
        `${failed.length} of ${rows.length} switches were not changed: ${failed.map((r) => r.host).join(', ')}`,
      );
    await this.finish(rollout);
  }

  private async wave(rollout: RolloutRow, index: number, { name, together, after = [] }: RolloutWave): Promise<void> {
    const running = (await this.control.state()) === 'running';
    const all = await this.rows();
    const rows = all.filter((r) => r.wave === index);
    const held = after.filter(({ other }) => all.some((r) => r.host === other && r.outcome !== 'as meant'));
    // Switches under way at a restart are always finished; new ones only start while nobody says stop.
    const isHeld = (r: SwitchRow): boolean => held.some((w) => w.host === r.host);
    const todo = rows.filter((r) => r.outcome === 'under way' || (running && r.outcome === 'waits' && !isHeld(r)));
    for (const { host, other } of running ? held : [])
      await this.control.say(host, `left alone: ${other}, which carries what it does, is not as meant`);
    if (todo.length === 0) return;
    await this.control.say('', `${name} begins: ${todo.map((r) => r.host).join(', ')}`);
    const meeting = together ? this.meetingOf(rows, todo) : undefined;
    const expectations = new Map(
      await this.house.compiler.run<'expect'>({ do: 'expect', fabric: rollout.fabric, rollout: this.id, wave: index }),
    );
    // Those that wait for one another are all under way at once; their lines are not.
    const queue = new PQueue({ concurrency: meeting ? todo.length : AT_ONCE });
    const reach = meeting ? fewLines(this.reach) : this.reach;
    const faults: unknown[] = [];
    let failures = 0;
    const one = async (row: SwitchRow): Promise<void> => {
      if (this.control.stopping()) return;
      const heldUp = async (): Promise<boolean> =>
        (!meeting && failures >= rollout.stop_line) || (await this.control.state()) !== 'running';
      if (row.outcome === 'waits' && (await heldUp())) return meeting?.leave(row.host, 'it had not begun');
      const outcome: Outcome | null = await runSwitch(row, {
        db: this.house.db,
        reach,
        now: this.house.now,
        fabric: rollout.fabric,
        undoSeconds: rollout.undo_seconds,
        expectation: expectations.get(row.host) ?? NOTHING,
        log: (text) => this.control.say(row.host, text),
        changed: this.control.changed,
        stopping: this.control.stopping,
        ...(meeting ? { meeting } : {}),
        ...(this.pace ? { pace: this.pace } : {}),
      });
      if (outcome !== null) this.onDone(row.serial);
      if (outcome !== null && FAILED.has(outcome)) failures++;
    };
    for (const row of todo)
      void queue.add(() =>
        one(row).catch((error: unknown) => {
          faults.push(error);
          // Nobody waits for one that will not come.
          meeting?.leave(row.host, words(error));
        }),
      );
    await queue.onIdle();
    if (faults.length > 0) throw faults[0];
  }

  /** Of a wave that goes together: none of it does where one that was not confirmed with it does not go now. */
  private meetingOf(rows: readonly SwitchRow[], todo: readonly SwitchRow[]): Meeting {
    const absent = rows.find((r) => r.outcome !== 'as meant' && !todo.includes(r));
    return new Meeting(
      todo.map((r) => r.host),
      absent ? `${absent.host}: ${absent.outcome === 'waits' ? 'it had not begun' : absent.outcome}` : null,
      this.pace?.poll ?? PACE.poll,
    );
  }

  /** Everything is as meant: the change goes live, or what was taken back is back. */
  private async finish(rollout: RolloutRow): Promise<void> {
    const { house, id } = this;
    await house.desks.at(rollout.fabric, async () => {
      const pin = pinned(rollout);
      if (rollout.kind === 'send' && pin) {
        const ending = { job: id, from: ['running'], to: 'done', reason: '' } as const;
        if (await goLive(house, pin, [], 'Rolling out', ending)) await this.control.say('', 'done');
        else if ((await this.control.state()) === 'running')
          await this.end(['running'], 'stopped', 'the change is not as it was pinned any more; undo the rollout');
        return;
      }
      const ended = await house.db.transaction().execute(async (tx) => {
        const reason =
          rollout.kind === 'undo' ? 'every switch runs what it ran before' : 'every switch has what is live';
        if (!(await moveJob(tx, id, ['running'], 'done', reason, at(house)))) return null;
        if (rollout.kind === 'undo') await afterUndo(tx, rollout, at(house));
        else await endRestIfNoneWaits(tx, rollout.fabric);
        return reason;
      });
      if (ended !== null) await this.control.say('', ended);
    });
    house.events.tell('changes', rollout.change_id, rollout.fabric);
    house.events.tell('fabrics', rollout.fabric);
  }
}
