import { STEPS, type Outcome, type Step } from '@anthemion/contract';
import { lineCounts, type ConfigFiles } from '@anthemion/core';
import type { Selectable } from 'kysely';
import type { Reach } from '../reach/reach.ts';
import { SwitchTrouble } from '../reach/sshLine.ts';
import type { ApplyStatus, LinuxDriver, PeerStates } from '../reach/linuxDriver.ts';
import type { Db, Tables } from '../store/database.ts';
import { keepText, textOf } from '../store/texts.ts';
import type { ExpectedPeer } from '../workers/compile.worker.ts';

export type SwitchRow = Selectable<Tables['rollout_switches']>;

/** What sessions the network model says this switch has, before and after its wave. */
export interface Expectation {
  readonly before: readonly ExpectedPeer[];
  readonly after: readonly ExpectedPeer[];
}

export interface SwitchRunContext {
  readonly db: Db;
  readonly reach: Reach;
  readonly undoSeconds: number;
  readonly expectation: Expectation;
  readonly log: (text: string) => Promise<void>;
  readonly changed: () => void;
}

const POLL_MS = 400;
/** Time kept back from the undo timer for the confirmation itself. */
const CONFIRM_MARGIN_MS = 3000;
const AFTER_DEADLINE_MS = 8000;
const sleep = (ms: number): Promise<void> => new Promise((done) => setTimeout(done, ms));
const words = (error: unknown): string => (error instanceof Error ? error.message : String(error));

/** Ends the run of a switch with an outcome. */
class Verdict extends Error {
  readonly outcome: Outcome;
  constructor(outcome: Outcome, message: string) {
    super(message);
    this.outcome = outcome;
  }
}

/** Peers that must be up and are not, in words; empty = settled. */
export function missingPeers(expected: readonly ExpectedPeer[], seen: PeerStates): string[] {
  return expected.flatMap((e) => {
    const s = seen.get(e.peer);
    const down = [
      e.ipv4 && s?.ipv4 !== 'Established' ? `IPv4 ${s?.ipv4 ?? 'absent'}` : '',
      e.evpn && s?.evpn !== 'Established' ? `EVPN ${s?.evpn ?? 'absent'}` : '',
    ].filter(Boolean);
    return down.length > 0 ? [`${e.peer} (${down.join(', ')})`] : [];
  });
}

/**
 * Takes one switch through its steps. Each step is noted before it is done and is safe to do again: what was already
 * sent or applied under this row's apply id is found on the switch and not done twice, so a run that was cut off simply
 * runs again. Never throws: the outcome says how it ended.
 */
export async function runSwitch(row: SwitchRow, context: SwitchRunContext): Promise<Outcome> {
  const run = new SwitchRun(row, context);
  return run.go();
}

class SwitchRun {
  private readonly row: SwitchRow;
  private readonly c: SwitchRunContext;
  private excused = new Set<string>();
  constructor(row: SwitchRow, context: SwitchRunContext) {
    this.row = row;
    this.c = context;
  }

  private async note(set: Partial<SwitchRow>): Promise<void> {
    await this.c.db
      .updateTable('rollout_switches')
      .set(set)
      .where('rollout_id', '=', this.row.rollout_id)
      .where('host', '=', this.row.host)
      .execute();
    this.c.changed();
  }
  private async step(step: Step, message: string): Promise<void> {
    await this.note({ step, steps_done: STEPS.indexOf(step), message, outcome: 'under way' });
  }

  async go(): Promise<Outcome> {
    const { row } = this;
    await this.note({ started_at: row.started_at ?? new Date().toISOString(), ended_at: null, outcome: 'under way' });
    try {
      await this.send();
      throw new Verdict('as meant', 'as meant');
    } catch (error) {
      const verdict = error instanceof Verdict ? error : await this.judgeTrouble(error);
      await this.c.log(`${verdict.outcome}: ${verdict.message}`);
      await this.note({
        outcome: verdict.outcome,
        message: verdict.message,
        ended_at: new Date().toISOString(),
        ...(verdict.outcome === 'as meant' ? { steps_done: STEPS.length, step: null } : {}),
      });
      return verdict.outcome;
    }
  }

  /** The steps up to the apply, over one line; then settling and confirming. */
  private async send(): Promise<void> {
    const { row, c } = this;
    const target = (await textOf(c.db, row.target))!;
    await this.step('reach', 'connecting');
    const deadline = await c.reach.on(row.serial, async (d) => {
      const { serial } = await d.identity();
      if (serial !== row.serial)
        throw new Verdict('refused, untouched', `the switch at this address is ${serial}, not ${row.serial}`);
      const status = await d.status();
      if (status.id === row.apply_id && status.state !== 'none') return this.resume(status);
      return this.prepare(d, target);
    });
    if (deadline === null) return;
    await this.settle(deadline);
    await this.confirm();
    await c.reach.noteRunning(row.serial, target);
  }

  /** This row's apply was begun by an earlier run of the server: go on from where it stands. */
  private async resume(status: ApplyStatus): Promise<number | null> {
    await this.c.log(`the switch already has apply ${status.id}: ${status.state}; going on from there`);
    if (status.state === 'undone') throw new Verdict('went back', 'not confirmed in time; the switch is as before');
    if (status.state === 'confirmed') {
      await this.c.reach.noteRunning(this.row.serial, (await textOf(this.c.db, this.row.target))!);
      return null;
    }
    return status.deadline;
  }

  private async prepare(d: LinuxDriver, target: ConfigFiles): Promise<number | null> {
    const { row, c } = this;
    await this.step('back up', 'reading what runs');
    const running = await d.runningText();
    const before = await keepText(c.db, running);
    await this.note({ before });
    await c.log(`back-up kept: ${before.slice(0, 12)}`);

    await this.step('pre-check', 'comparing with what should run');
    if (before === row.target) {
      await c.reach.noteRunning(row.serial, running);
      throw new Verdict('as meant', 'as meant, nothing to send');
    }
    const expected = await textOf(c.db, row.expected);
    if (expected && before !== row.expected) {
      const { added, removed } = Object.keys(expected).reduce(
        (sum, f) => {
          const n = lineCounts(expected[f]!, running[f] ?? '');
          return { added: sum.added + n.added, removed: sum.removed + n.removed };
        },
        { added: 0, removed: 0 },
      );
      await c.reach.noteRunning(row.serial, running);
      const hand = `somebody changed it by hand: +${added} −${removed} lines against what was meant`;
      if (row.attempt === 1)
        throw new Verdict('refused, untouched', `${hand}. Look at its text; a retry puts back what is meant`);
      await c.log(`${hand}; put back by this retry, the back-up has it`);
    }
    await this.notePeersBefore(await d.peers());

    await this.step('send', 'sending text');
    await d.stage(row.apply_id, target);
    await c.log(`sent as ${row.apply_id}`);

    await this.step('check', 'the switch checks the text');
    const check = await d.check(row.apply_id);
    if (!check.ok) throw new Verdict('refused, untouched', check.text || `its check ended with ${check.code}`);
    await c.log('the switch finds it fit to load');

    await this.step('apply', 'loading');
    const deadline = Math.floor(Date.now() / 1000) + c.undoSeconds;
    const apply = await d.apply(row.apply_id, c.undoSeconds);
    if (!apply.ok)
      throw new Verdict(
        apply.code === 5 ? 'went back' : 'refused, untouched',
        apply.text || `its apply ended with ${apply.code}`,
      );
    await c.log(apply.text);
    return deadline;
  }

  /** Sessions that were already down though they should have been up are not this change's doing. */
  private async notePeersBefore(seen: PeerStates): Promise<void> {
    const down = missingPeers(this.c.expectation.before, seen);
    this.excused = new Set(down.map((d) => d.split(' ')[0]!));
    const up = [...seen.values()].filter((s) => s.ipv4 === 'Established' || s.evpn === 'Established').length;
    await this.c.log(
      `sessions before: ${up} of ${seen.size} up${down.length > 0 ? `; down before: ${down.join('; ')}` : ''}`,
    );
  }

  /** Waits until every session that should be up is up: too early is not failed. */
  private async settle(deadline: number): Promise<void> {
    const required = this.c.expectation.after.filter((e) => !this.excused.has(e.peer));
    const until = deadline * 1000 - CONFIRM_MARGIN_MS;
    let missing: string[] = required.map((r) => r.peer);
    await this.step('settle', `settling: 0 of ${required.length} sessions up`);
    let told = '';
    for (;;) {
      try {
        missing = await this.c.reach.on(this.row.serial, async (d) => missingPeers(required, await d.peers()));
        const text = `settling: ${required.length - missing.length} of ${required.length} sessions up`;
        if (text !== told) await this.note({ message: (told = text) });
        if (missing.length === 0) return this.c.log(`settled: ${required.length} of ${required.length} sessions up`);
      } catch (error) {
        if (!(error instanceof SwitchTrouble)) throw error;
        await this.note({ message: `settling: ${error.message}` });
      }
      if (Date.now() >= until) break;
      await sleep(POLL_MS);
    }
    await this.c.log(`not settled in time: ${missing.join('; ')}`);
    await this.c.reach.on(this.row.serial, (d) => d.undo(this.row.apply_id));
    throw new Verdict(
      'went back',
      `undone: ${missing.length} of ${required.length} sessions did not come up: ${missing.slice(0, 3).join('; ')}`,
    );
  }

  private async confirm(): Promise<void> {
    await this.step('confirm', 'confirming');
    const done = await this.c.reach.on(this.row.serial, (d) => d.confirm(this.row.apply_id));
    if (!done.ok) throw new SwitchTrouble(done.text);
    await this.c.log('confirmed');
  }

  /**
   * Something went wrong. Before the apply, nothing was touched. From the apply on, only the switch can tell: it is asked
   * until its undo timer must have run out.
   */
  private async judgeTrouble(error: unknown): Promise<Verdict> {
    const { row, c } = this;
    const now = await c.db
      .selectFrom('rollout_switches')
      .select('step')
      .where('rollout_id', '=', row.rollout_id)
      .where('host', '=', row.host)
      .executeTakeFirstOrThrow();
    const touched = STEPS.indexOf(now.step as Step) >= STEPS.indexOf('apply');
    if (!touched) return new Verdict('refused, untouched', words(error));
    await c.log(`trouble: ${words(error)}; asking the switch how it stands`);
    const until = Date.now() + c.undoSeconds * 1000 + AFTER_DEADLINE_MS;
    for (;;) {
      try {
        const status = await c.reach.on(row.serial, (d) => d.status());
        if (status.id !== row.apply_id) return new Verdict('refused, untouched', words(error));
        if (status.state === 'confirmed') return new Verdict('as meant', 'as meant');
        if (status.state === 'undone')
          return new Verdict('went back', `the switch went back by itself (${words(error)})`);
      } catch (again) {
        if (Date.now() >= until)
          return new Verdict(
            'unknown',
            `no answer since the apply (${words(again)}); its timer takes it back by itself. Read it again`,
          );
      }
      if (Date.now() >= until) {
        const undone = await c.reach.on(row.serial, (d) => d.undo(row.apply_id)).catch(() => null);
        return undone?.ok ? new Verdict('went back', `undone (${words(error)})`) : new Verdict('unknown', words(error));
      }
      await sleep(POLL_MS);
    }
  }
}
