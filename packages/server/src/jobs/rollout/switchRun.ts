import { STEPS, type Outcome, type Step } from '@anthemion/contract';
import { documentCounts, type ConfigFiles } from '@anthemion/core';
import { SwitchTrouble, type ApplyStatus, type Driver } from '../../reach/driver.ts';
import type { Reaching } from '../../reach/reach.ts';
import type { Db } from '../../store/database.ts';
import { noteRow, rowStep, type SwitchRow } from '../../store/rollouts.ts';
import { dropLive, putLive } from '../../store/seats.ts';
import { noteRan } from '../../store/ranTexts.ts';
import { noteSwitch } from '../../store/switches.ts';
import { hashOfFiles, keepText, textOf } from '../../store/texts.ts';
import { runningVersions, versionJudge } from '../../store/softwareVersions.ts';
import { words } from '../../trouble.ts';
import type { Expectation } from '../../workers/tasks/expect.ts';
import { meansTheSame, missingOn, wordsOf } from './compared.ts';
import type { Meeting, MeetingPoint } from './meeting.ts';
import { PACE, type Pace } from './pace.ts';

export interface SwitchRunContext {
  readonly db: Db;
  readonly reach: Reaching;
  readonly now: () => Date;
  readonly fabric: string;
  readonly undoSeconds: number;
  /** What sessions the network model says this switch has, before and after its wave. */
  readonly expectation: Expectation;
  readonly log: (text: string) => Promise<void>;
  readonly changed: () => void;
  /** The server is ending: leave, the next one goes on. */
  readonly stopping: () => boolean;
  /** Where it changes together with others, and waits for them. */
  readonly meeting?: Meeting;
  readonly pace?: Partial<Pace>;
}

const sleep = (ms: number): Promise<void> => new Promise((done) => setTimeout(done, ms));

/** Ends the run of a switch with an outcome. */
class Verdict extends Error {
  readonly outcome: Outcome;
  constructor(outcome: Outcome, message: string) {
    super(message);
    this.outcome = outcome;
  }
}
/** Ends the run without one: the server stops, the next one goes on. */
class Left extends Error {}

/**
 * Takes one switch through its steps. Each step is noted before it is done and is safe to do again: what was already
 * sent or applied under this row's apply id is found on the switch and not done twice, so a run that was cut off simply
 * runs again. The outcome says how it ended; null = the server stops before it ended.
 */
export async function runSwitch(row: SwitchRow, context: SwitchRunContext): Promise<Outcome | null> {
  return new SwitchRun(row, context).go();
}

class SwitchRun {
  private readonly row: SwitchRow;
  private readonly c: SwitchRunContext;
  private readonly pace: Pace;
  private excused = new Set<string>();
  constructor(row: SwitchRow, context: SwitchRunContext) {
    this.row = row;
    this.c = context;
    this.pace = { ...PACE, ...context.pace };
  }

  private async note(set: Partial<SwitchRow>): Promise<void> {
    await noteRow(this.c.db, this.row, set);
    this.c.changed();
  }
  private async step(step: Step, message: string): Promise<void> {
    if (this.c.stopping()) throw new Left();
    await this.note({ step, steps_done: STEPS.indexOf(step), message, outcome: 'under way' });
  }
  private time(): string {
    return this.c.now().toISOString();
  }

  async go(): Promise<Outcome | null> {
    const { row } = this;
    await this.note({ started_at: row.started_at ?? this.time(), ended_at: null, outcome: 'under way' });
    try {
      await this.send();
      throw new Verdict('as meant', 'as meant');
    } catch (error) {
      if (error instanceof Left) return null;
      try {
        const verdict = error instanceof Verdict ? error : await this.judgeTrouble(error);
        await this.c.log(`${verdict.outcome}: ${verdict.message}`);
        await this.close(verdict);
        return verdict.outcome;
      } catch (again) {
        if (again instanceof Left) return null;
        throw again;
      }
    }
  }

  /** Writes the outcome; a confirmed switch is noted as live with the text it was confirmed with, in the same step. */
  private async close(verdict: Verdict): Promise<void> {
    const { row, c } = this;
    const good = verdict.outcome === 'as meant';
    if (good) c.meeting?.passed(row.host, 'checked', 'settled');
    else c.meeting?.leave(row.host, verdict.message);
    await c.db.transaction().execute(async (tx) => {
      await noteRow(tx, row, {
        outcome: verdict.outcome,
        message: verdict.message,
        ended_at: this.time(),
        ...(good ? { steps_done: STEPS.length, step: null } : {}),
      });
      if (!good) return;
      await noteSwitch(tx, row.serial, { running: row.target, read_at: this.time() });
      if (row.leaves === 1) await dropLive(tx, row.serial);
      else
        await putLive(tx, {
          serial: row.serial,
          fabric: c.fabric,
          seat: row.seat,
          host: row.host,
          hash: row.target,
          revision: row.live_revision,
          change_id: row.live_change,
          at: this.time(),
        });
    });
    c.changed();
  }

  /** The steps up to the apply, over one line; then settling, confirming and reading over new ones. */
  private async send(): Promise<void> {
    const { row, c } = this;
    const target = await textOf(c.db, row.target);
    if (!target) throw new Error(`the text meant for ${row.host} is not kept any more`);
    await this.step('reach', 'connecting');
    const stands = await c.reach.on(row.serial, async (d) => {
      const { serial, version } = await d.identity();
      if (serial !== row.serial)
        throw new Verdict('refused, untouched', `the switch at this address is ${serial}, not ${row.serial}`);
      const [known] = await runningVersions(c.db, [row.serial]);
      const untried = (await versionJudge(c.db))(known?.model ?? '', version);
      if (untried) {
        // Noted, so that it can be accepted where switches are looked at.
        await noteSwitch(c.db, row.serial, { version });
        throw new Verdict(
          'refused, untouched',
          `it runs ${version}, with which the ${untried.dialect} dialect was never tried; accept the version under Switches`,
        );
      }
      const equipped = await d.equip();
      if (!equipped.ok) throw new Verdict('refused, untouched', equipped.text || 'the apply helper cannot work there');
      const status = await d.status();
      if (status.id === row.apply_id && status.state !== 'none') return this.resume(status);
      if (['loading', 'pending', 'undoing', 'stuck'].includes(status.state))
        throw new Verdict(
          'refused, untouched',
          status.state === 'stuck'
            ? `apply ${status.id} could not be taken back: its old text does not load. Mend it, or release it under Switches`
            : `apply ${status.id} is still ${status.state} on it; it goes back by itself, try again then`,
        );
      await this.prepare(d, target);
      return c.meeting ? 'prepared' : this.load(d);
    });
    const secondsLeft = stands === 'prepared' ? await this.loadWithOthers() : stands;
    if (secondsLeft !== null) {
      c.meeting?.passed(row.host, 'checked');
      await this.settle(secondsLeft);
      await this.confirm();
    }
    await this.readBack(target);
  }

  /** This row's apply was begun by an earlier run of the server: go on from where it stands; null = it is confirmed. */
  private async resume(status: ApplyStatus): Promise<number | null> {
    await this.c.log(`the switch already has apply ${status.id}: ${status.state}; going on from there`);
    switch (status.state) {
      case 'undone':
        throw new Verdict('went back', 'not confirmed in time; the switch is as before');
      case 'released':
        throw new Verdict('unknown', 'an operator released the apply; read the switch');
      case 'confirmed':
        return null;
      case 'pending':
        return status.secondsLeft;
      default:
        throw new SwitchTrouble(`apply ${status.id} is ${status.state}`);
    }
  }

  /** Waits for those it changes together with; none is loaded unless all can be, and none confirmed unless all have settled. */
  private async meet(point: MeetingPoint, until?: number): Promise<void> {
    const { meeting, stopping } = this.c;
    if (!meeting) return;
    await this.note({ message: `${point}; waiting for the others` });
    const off = await meeting.at(point, this.row.host, stopping, until);
    if (off === 'left') throw new Left();
    if (off === null) return;
    if (point === 'checked') throw new Verdict('refused, untouched', `not loaded, as it changes together with ${off}`);
    return this.takeBack(`undone, as it changes together with ${off}`);
  }

  private async loadWithOthers(): Promise<number | null> {
    await this.meet('checked');
    return this.c.reach.on(this.row.serial, (d) => this.load(d));
  }

  private async takeBack(why: string): Promise<never> {
    const undone = await this.c.reach.on(this.row.serial, (d) => d.undo(this.row.apply_id));
    if (!undone.ok) throw new SwitchTrouble(undone.text || 'it could not be taken back');
    throw new Verdict('went back', why);
  }

  /** Back-up, looking at what runs, sending, and the switch's own check: until here nothing is touched. */
  private async prepare(d: Driver, target: ConfigFiles): Promise<void> {
    const { row, c } = this;
    await this.step('back up', 'reading what runs');
    const running = await d.runningText();
    const runs = await keepText(c.db, running);
    await noteRan(c.db, row.serial, runs, this.time());
    // A retry keeps the back-up of the first attempt: that is what ran before.
    if (row.before === null) await this.note({ before: runs });
    await c.log(`back-up kept: ${(row.before ?? runs).slice(0, 12)}`);

    await this.step('pre-check', 'comparing with what should run');
    if (runs === row.target) throw new Verdict('as meant', 'as meant, nothing to send');
    const expected = await textOf(c.db, row.expected);
    if (expected && runs !== row.expected) {
      if (meansTheSame(running, target))
        await c.log('edited by hand, but to what is meant now: adopted, the text is written anew');
      else await this.byHand(expected, running);
    }
    await this.notePeersBefore(d);

    await this.step('send', 'sending text');
    await d.stage(row.apply_id, target);
    await c.log(`sent as ${row.apply_id}`);

    await this.step('check', 'the switch checks the text');
    const check = await d.check(row.apply_id);
    if (!check.ok) throw new Verdict('refused, untouched', check.text || `its check ended with ${check.code}`);
    await c.log('the switch finds it fit to load');
  }

  /** Loads it; answers how long it has to settle and be confirmed, seconds. */
  private async load(d: Driver): Promise<number | null> {
    const { row, c } = this;
    await this.step('apply', 'loading');
    const apply = await d.apply(row.apply_id, c.undoSeconds);
    if (apply.code === 5) throw new Verdict('went back', apply.text || 'loading failed; the switch is as before');
    if (!apply.ok) throw new SwitchTrouble(apply.text || `its apply ended with ${apply.code}`);
    await c.log(apply.text);
    return (await d.status()).secondsLeft;
  }

  private async byHand(expected: ConfigFiles, running: ConfigFiles): Promise<void> {
    const { row, c } = this;
    const { added, removed } = documentCounts(expected, running);
    await noteSwitch(c.db, row.serial, { running: await keepText(c.db, running), read_at: this.time() });
    const hand = `somebody changed it by hand: +${added} −${removed} lines against what was meant`;
    if (row.attempt === 1)
      throw new Verdict('refused, untouched', `${hand}. Look at its text; a retry puts back what is meant`);
    await c.log(`${hand}; put back by this retry, the back-up has it`);
  }

  /** Sessions that were already down though they should have been up are not this change's doing. */
  private async notePeersBefore(d: Driver): Promise<void> {
    const seen = await d.peers();
    const down = await missingOn(d, this.c.expectation.before, seen);
    this.excused = new Set(down.map((m) => m.peer));
    const up = [...seen.values()].filter((s) => s.ipv4 === 'Established' || s.evpn === 'Established').length;
    await this.c.log(
      `sessions before: ${up} of ${seen.size} up${down.length > 0 ? `; down before: ${wordsOf(down).join('; ')}` : ''}`,
    );
  }

  /** Waits until every session that should be up is up: too early is not failed. */
  private async settle(secondsLeft: number): Promise<void> {
    const required = this.c.expectation.after.filter((e) => !this.excused.has(e.peer));
    const until = performance.now() + secondsLeft * 1000 - this.pace.confirmMargin;
    let missing: string[] = required.map((r) => r.peer);
    await this.step('settle', `settling: 0 of ${required.length} sessions up`);
    let told = '';
    for (;;) {
      if (this.c.stopping()) throw new Left();
      try {
        missing = wordsOf(await this.c.reach.on(this.row.serial, (d) => missingOn(d, required)));
        const text = `settling: ${required.length - missing.length} of ${required.length} sessions up`;
        if (text !== told) await this.note({ message: (told = text) });
        if (missing.length === 0) break;
      } catch (error) {
        if (!(error instanceof SwitchTrouble)) throw error;
        await this.note({ message: `settling: ${error.message}` });
      }
      if (performance.now() >= until || (this.c.meeting?.off('settled') ?? null) !== null) break;
      await sleep(this.pace.poll);
    }
    if (missing.length === 0) {
      await this.c.log(`settled: ${required.length} of ${required.length} sessions up`);
      return this.meet('settled', until);
    }
    await this.c.log(`not settled in time: ${missing.join('; ')}`);
    return this.takeBack(
      `undone: ${missing.length} of ${required.length} sessions did not come up: ${missing.slice(0, 3).join('; ')}`,
    );
  }

  /** Over a new line, with the account and address that are meant: who is locked out cannot confirm. */
  private async confirm(): Promise<void> {
    await this.step('confirm', 'confirming');
    const done = await this.c.reach.on(this.row.serial, (d) => d.confirm(this.row.apply_id));
    if (!done.ok) throw new SwitchTrouble(done.text || `its confirm ended with ${done.code}`);
    await this.c.log('confirmed');
  }

  /** What is noted as live was read: the switch is asked once more what it has. */
  private async readBack(target: ConfigFiles): Promise<void> {
    try {
      const running = await this.c.reach.on(this.row.serial, (d) => d.runningText());
      if (hashOfFiles(running) === hashOfFiles(target)) return;
      await keepText(this.c.db, running);
      await this.c.log('confirmed, but read back it is not what was sent: somebody changed it at once');
    } catch (error) {
      if (!(error instanceof SwitchTrouble)) throw error;
      await this.c.log(`confirmed, but not read back (${error.message})`);
    }
  }

  /**
   * Something went wrong. Before the apply, nothing was touched. From the apply on, only the switch can tell: it is asked
   * until it says how it stands, or its undo timer must have run out long ago.
   */
  private async judgeTrouble(error: unknown): Promise<Verdict> {
    const { row, c, pace } = this;
    const step = (await rowStep(c.db, row)) as Step | null;
    const touched = step !== null && STEPS.indexOf(step) >= STEPS.indexOf('apply');
    if (!touched) return new Verdict('refused, untouched', words(error));
    await c.log(`trouble: ${words(error)}; asking the switch how it stands`);
    const until = performance.now() + c.undoSeconds * 1000 + pace.beyond;
    for (;;) {
      if (c.stopping()) throw new Left();
      const last = performance.now() >= until;
      try {
        const verdict = await this.askedHow(error, last);
        if (verdict) return verdict;
      } catch (again) {
        if (!(again instanceof SwitchTrouble)) throw again;
        if (last)
          return new Verdict(
            'unknown',
            `no answer since the apply (${words(again)}); its timer takes it back by itself. Read it again`,
          );
      }
      await sleep(pace.poll);
    }
  }

  /** How the switch says it stands; null = not settled yet. */
  private async askedHow(error: unknown, last: boolean): Promise<Verdict | null> {
    const { row, c } = this;
    return c.reach.on(row.serial, async (d) => {
      const status = await d.status();
      if (status.id !== row.apply_id) {
        // The apply may still be on its way there: from now on it will not be done.
        const cancelled = await d.cancel(row.apply_id);
        if (!cancelled.ok) throw new SwitchTrouble(cancelled.text);
        const after = await d.status();
        return after.id === row.apply_id ? null : new Verdict('refused, untouched', words(error));
      }
      if (status.state === 'confirmed')
        return new Verdict('as meant', 'as meant (the answer to the confirmation was lost)');
      if (status.state === 'undone')
        return new Verdict('went back', `the switch went back by itself (${words(error)})`);
      if (status.state === 'released') return new Verdict('unknown', 'an operator released the apply; read the switch');
      if (!last) return null;
      if (status.state === 'stuck')
        return new Verdict(
          'unknown',
          'its old text is back on the disk but does not load; it keeps trying. Look at the switch',
        );
      const undone = await d.undo(row.apply_id);
      return undone.ok
        ? new Verdict('went back', `undone (${words(error)})`)
        : new Verdict('unknown', undone.text || words(error));
    });
  }
}
