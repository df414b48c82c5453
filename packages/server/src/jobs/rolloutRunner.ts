import type {
  LogLine,
  Outcome,
  RolloutAnswer,
  RolloutRequest,
  RolloutState,
  RolloutSwitchAnswer,
  Step,
} from '@anthemion/contract';
import {
  blankConfig,
  layOut,
  linux,
  lineCounts,
  planWaves,
  type Cable,
  type ConfigFiles,
  type RolloutTarget,
  type RolloutWave,
} from '@anthemion/core';
import { nanoid } from 'nanoid';
import { EventEmitter } from 'node:events';
import PQueue from 'p-queue';
import type { Logger } from 'pino';
import type { Changes } from '../changes/changes.ts';
import { allPools, changeState, liveState, type FullState } from '../changes/fabricState.ts';
import { HttpProblem, notThere } from '../http/problem.ts';
import type { Reach } from '../reach/reach.ts';
import type { Db } from '../store/database.ts';
import { keepText, textOf } from '../store/texts.ts';
import type { Compiler } from '../workers/compiler.ts';
import type { SeatText } from '../workers/compile.worker.ts';
import { runSwitch, type SwitchRow } from './switchRun.ts';

/** Switches worked on at the same time within a wave. */
const AT_ONCE = 8;
const SPINE_SHARE = 0.25;
const LEAVES_PER_WAVE = 64;
const FAILED = new Set<string>(['refused, untouched', 'went back', 'unknown']);

/** The smallest text a switch that leaves a fabric keeps. */
const blank = (host: string): ConfigFiles => linux.render(blankConfig(host)).files;
const textLines = (before: ConfigFiles | null, after: ConfigFiles): { added: number; removed: number } => {
  const join = (f: ConfigFiles | null): string => (f ? Object.values(f).join('') : '');
  return lineCounts(join(before), join(after));
};

/** A switch to be sent to: what it shall run, and what it should run now. */
interface Task {
  readonly target: Pick<RolloutTarget, 'host' | 'seat'>;
  readonly serial: string;
  readonly files: ConfigFiles;
  readonly expected: ConfigFiles | null;
}

/** Rollouts as durable jobs: everything that is decided is written down first; a restarted server goes on from there. */
export class RolloutRunner {
  private readonly events = new EventEmitter().setMaxListeners(0);
  private readonly active = new Map<string, Promise<void>>();
  /** What people ask for, one thing at a time: a second click finds what the first one did. */
  private readonly asked = new PQueue({ concurrency: 1 });
  private stopping = false;
  private readonly db: Db;
  private readonly compiler: Compiler;
  private readonly reach: Reach;
  private readonly changes: Changes;
  private readonly log: Logger;
  constructor(db: Db, compiler: Compiler, reach: Reach, changes: Changes, log: Logger) {
    this.db = db;
    this.compiler = compiler;
    this.reach = reach;
    this.changes = changes;
    this.log = log;
  }

  /** Calls back at every step of a rollout; the result unsubscribes. */
  watch(id: string, tell: () => void): () => void {
    this.events.on(id, tell);
    return () => this.events.off(id, tell);
  }

  /** Takes up what an earlier run of the server left under way. */
  async resumeAll(): Promise<void> {
    for (const { id } of await this.db.selectFrom('rollouts').select('id').where('state', '=', 'running').execute()) {
      await this.say(id, '', 'the server was started again; going on');
      this.start(id);
    }
  }

  async stop(): Promise<void> {
    this.stopping = true;
    await Promise.allSettled(this.active.values());
  }

  private async texts(state: FullState): Promise<SeatText[]> {
    return this.compiler.texts({
      state: { intent: state.intent, values: [...state.values] },
      pools: await allPools(this.db),
    });
  }

  /** Plans a rollout of an approved change and starts it. */
  begin(request: RolloutRequest, author: string): Promise<string> {
    return this.asked.add(() => this.beginNow(request, author)) as Promise<string>;
  }
  private async beginNow(request: RolloutRequest, author: string): Promise<string> {
    const change = await this.changes.row(request.change);
    if (change.state !== 'Approved')
      throw new HttpProblem(409, `Only an approved change can be rolled out; this one is ${change.state}.`);
    const busy = await this.db
      .selectFrom('rollouts')
      .select('id')
      .where('fabric', '=', change.fabric)
      .where('state', 'in', ['running', 'paused'])
      .executeTakeFirst();
    if (busy) throw new HttpProblem(409, `Rollout ${busy.id} of ${change.fabric} is still under way; one at a time.`);
    const after = await changeState(this.db, request.change);
    const before = await liveState(this.db, change.fabric);
    const [afterTexts, beforeTexts] = [await this.texts(after), await this.texts(before)];
    const old = new Map(beforeTexts.map((t) => [t.seat.id, t]));
    const rows: (Task & { target: RolloutTarget })[] = [];
    const empty: string[] = [];
    const load = (seat: SeatText['seat']): number =>
      after.intent.ports.filter((p) => p.rack === seat.rack && (p.side === 'both' || p.side === (seat.side ?? 'a')))
        .length;
    for (const { seat, files } of afterTexts) {
      const was = old.get(seat.id);
      old.delete(seat.id);
      const serial = after.intent.seating[seat.id];
      const reseated = serial !== before.intent.seating[seat.id];
      if (was && !reseated && JSON.stringify(was.files) === JSON.stringify(files)) continue;
      if (serial === undefined) {
        empty.push(seat.id);
        continue;
      }
      rows.push({
        target: {
          ...seat,
          seat: seat.id,
          dialect: 'linux',
          fate: was && !reseated ? 'changed' : 'new',
          load: load(seat),
        },
        serial,
        files,
        expected: was && !reseated ? was.files : null,
      });
    }
    for (const { seat, files } of old.values()) {
      const serial = before.intent.seating[seat.id];
      if (serial !== undefined)
        rows.push({
          target: { ...seat, seat: seat.id, dialect: 'linux', fate: 'gone', load: 0 },
          serial,
          files: blank(seat.host),
          expected: files,
        });
    }
    if (empty.length > 0)
      throw new HttpProblem(
        422,
        `${empty.length} ${empty.length === 1 ? 'seat has' : 'seats have'} no switch: ${empty.slice(0, 5).join(', ')}. Seat a switch in each under Seats.`,
        [
          {
            rule: 'seats-filled',
            severity: 'error',
            path: '/change',
            message: `Seats without a switch: ${empty.join(', ')}.`,
            cure: 'Seat a switch in each.',
          },
        ],
      );
    const spines = afterTexts.filter((t) => t.seat.role === 'spine').length;
    const waves = planWaves(
      rows.map((r) => r.target),
      { spineShare: SPINE_SHARE, spines, leavesPerWave: LEAVES_PER_WAVE },
    );
    return this.write(change, 'send', waves, rows, request, author);
  }

  private async write(
    change: { id: string; fabric: string },
    kind: 'send' | 'undo',
    waves: readonly RolloutWave[],
    rows: readonly Task[],
    options: Pick<RolloutRequest, 'stopLine' | 'undoSeconds'>,
    author: string,
  ): Promise<string> {
    const id = nanoid(8).replaceAll('-', 'x').replaceAll('_', 'y');
    const kept: (Task & { targetHash: string; expectedHash: string | null })[] = [];
    for (const r of rows)
      kept.push({
        ...r,
        targetHash: await keepText(this.db, r.files),
        expectedHash: r.expected ? await keepText(this.db, r.expected) : null,
      });
    await this.db.transaction().execute(async (tx) => {
      await tx
        .insertInto('rollouts')
        .values({
          id,
          change_id: change.id,
          fabric: change.fabric,
          kind,
          state: 'running',
          reason: '',
          author,
          stop_line: options.stopLine,
          undo_seconds: options.undoSeconds,
          waves: JSON.stringify(waves),
          started_at: new Date().toISOString(),
          ended_at: null,
        })
        .execute();
      for (const r of kept) {
        const { added, removed } = textLines(r.expected, r.files);
        await tx
          .insertInto('rollout_switches')
          .values({
            rollout_id: id,
            host: r.target.host,
            seat: r.target.seat,
            serial: r.serial,
            wave: waves.findIndex((w) => w.hosts.includes(r.target.host)),
            steps_done: 0,
            step: null,
            outcome: 'waits',
            message: '',
            apply_id: `${id}-1`,
            attempt: 1,
            target: r.targetHash,
            before: null,
            expected: r.expectedHash,
            added,
            removed,
            started_at: null,
            ended_at: null,
          })
          .execute();
      }
      await tx
        .updateTable('changes')
        .set({ state: 'Rolling out', updated_at: new Date().toISOString() })
        .where('id', '=', change.id)
        .execute();
    });
    await this.say(
      id,
      '',
      `${kind === 'send' ? 'rollout' : 'undo'} of ${rows.length} switches in ${waves.length} waves, begun by ${author}`,
    );
    this.start(id);
    return id;
  }

  private start(id: string): void {
    if (this.active.has(id)) return;
    const work = this.run(id)
      .catch(async (error: unknown) => {
        this.log.error({ err: error, rollout: id }, 'rollout stopped by a fault');
        await this.end(
          id,
          'stopped',
          `a fault of the server: ${error instanceof Error ? error.message : String(error)}`,
        ).catch(() => undefined);
      })
      .finally(() => this.active.delete(id));
    this.active.set(id, work);
  }

  private async state(id: string): Promise<RolloutState> {
    return (await this.db.selectFrom('rollouts').select('state').where('id', '=', id).executeTakeFirstOrThrow())
      .state as RolloutState;
  }
  private rows(id: string): Promise<SwitchRow[]> {
    return this.db
      .selectFrom('rollout_switches')
      .selectAll()
      .where('rollout_id', '=', id)
      .orderBy('wave')
      .orderBy('host')
      .execute();
  }
  private async end(id: string, state: RolloutState, reason: string): Promise<void> {
    await this.db
      .updateTable('rollouts')
      .set({ state, reason, ended_at: state === 'paused' ? null : new Date().toISOString() })
      .where('id', '=', id)
      .execute();
    await this.say(id, '', reason || state);
  }
  private async say(id: string, host: string, text: string): Promise<void> {
    await this.db
      .insertInto('rollout_log')
      .values({ rollout_id: id, host, at: new Date().toISOString(), text })
      .execute();
    this.events.emit(id);
  }

  private async run(id: string): Promise<void> {
    const job = await this.db.selectFrom('rollouts').selectAll().where('id', '=', id).executeTakeFirstOrThrow();
    const waves = JSON.parse(job.waves) as RolloutWave[];
    for (const [i, wave] of waves.entries()) {
      const todo = (await this.rows(id)).filter(
        (r) => r.wave === i && (r.outcome === 'waits' || r.outcome === 'under way'),
      );
      if (todo.length === 0) continue;
      await this.say(id, '', `${wave.name} begins: ${todo.map((r) => r.host).join(', ')}`);
      const expectations = await this.expectations(id, job.change_id, i);
      const queue = new PQueue({ concurrency: AT_ONCE });
      let failures = 0;
      for (const row of todo)
        void queue.add(async () => {
          // Switches under way at a restart are always finished; new ones only start while nobody says stop.
          if (
            this.stopping ||
            (row.outcome === 'waits' && (failures >= job.stop_line || (await this.state(id)) !== 'running'))
          )
            return;
          const outcome = await runSwitch(row, {
            db: this.db,
            reach: this.reach,
            undoSeconds: job.undo_seconds,
            expectation: {
              before: expectations.before.get(row.host) ?? [],
              after: expectations.after.get(row.host) ?? [],
            },
            log: (text) => this.say(id, row.host, text),
            changed: () => this.events.emit(id),
          });
          if (FAILED.has(outcome)) failures++;
        });
      await queue.onIdle();
      if (this.stopping) return;
      const failed = (await this.rows(id)).filter((r) => r.wave === i && FAILED.has(r.outcome));
      if (failed.length >= job.stop_line)
        return this.end(
          id,
          'stopped',
          `stop line reached in ${wave.name}: ${failed.length} of ${wave.hosts.length} failed (${failed.map((r) => r.host).join(', ')})`,
        );
      if ((await this.state(id)) !== 'running') return;
    }
    const rows = await this.rows(id);
    const failed = rows.filter((r) => FAILED.has(r.outcome));
    if (failed.length > 0)
      return this.end(
        id,
        'stopped',
        `${failed.length} of ${rows.length} switches were not changed: ${failed.map((r) => r.host).join(', ')}`,
      );
    if (job.kind === 'send') {
      await this.changes.goLive(job.change_id);
      await this.end(id, 'done', '');
    } else {
      await this.changes.setState(job.change_id, 'Approved');
      await this.end(id, 'done', 'every switch runs what it ran before');
    }
  }

  /** Sessions the network model says each switch has before and after a wave, from text and the cable plan. */
  private async expectations(id: string, changeId: string, wave: number) {
    const state = await changeState(this.db, changeId);
    const layout = layOut(state.intent);
    const cables: Cable[] = layout.links.map((l) => ({
      a: { host: layout.seatById.get(l.leaf)!.host, port: l.leafPort },
      b: { host: layout.seatById.get(l.spine)!.host, port: l.spinePort },
    }));
    const rows = new Map((await this.rows(id)).map((r) => [r.host, r]));
    const known = new Map(
      (await this.db.selectFrom('switches').select(['serial', 'running']).execute()).map((s) => [s.serial, s.running]),
    );
    const before: [string, ConfigFiles][] = [];
    const after: [string, ConfigFiles][] = [];
    for (const seat of layout.seats) {
      const row = rows.get(seat.host);
      const serial = row?.serial ?? state.intent.seating[seat.id];
      const running =
        (await textOf(this.db, (serial === undefined ? null : known.get(serial)) ?? row?.expected ?? null)) ??
        blank(seat.host);
      before.push([seat.host, running]);
      const sent = row && row.wave <= wave && !FAILED.has(row.outcome);
      after.push([seat.host, sent ? (await textOf(this.db, row.target))! : running]);
    }
    return {
      before: await this.compiler.expect({ texts: before, cables }),
      after: await this.compiler.expect({ texts: after, cables }),
    };
  }

  private async job(id: string) {
    const job = await this.db.selectFrom('rollouts').selectAll().where('id', '=', id).executeTakeFirst();
    if (!job) throw notThere(`rollout ${id}`);
    return job;
  }

  pause(id: string): Promise<void> {
    return this.asked.add(() => this.pauseNow(id)) as Promise<void>;
  }
  private async pauseNow(id: string): Promise<void> {
    if ((await this.job(id)).state !== 'running') throw new HttpProblem(409, 'Only a running rollout can be paused.');
    await this.end(id, 'paused', 'paused; switches under way are finished');
  }

  resume(id: string): Promise<void> {
    return this.asked.add(() => this.resumeNow(id)) as Promise<void>;
  }
  private async resumeNow(id: string): Promise<void> {
    const job = await this.job(id);
    if (job.state !== 'paused' && job.state !== 'stopped') throw new HttpProblem(409, `The rollout is ${job.state}.`);
    if (job.state === 'stopped' && (await this.rows(id)).every((r) => r.outcome !== 'waits'))
      throw new HttpProblem(409, 'Nothing waits; retry the failed instead.');
    await this.go(id, 'going on');
  }

  /** The failed get another attempt under a new id, then the rollout goes on. */
  retry(id: string): Promise<void> {
    return this.asked.add(() => this.retryNow(id)) as Promise<void>;
  }
  private async retryNow(id: string): Promise<void> {
    const job = await this.job(id);
    if (job.state !== 'stopped' && job.state !== 'paused') throw new HttpProblem(409, `The rollout is ${job.state}.`);
    const failed = (await this.rows(id)).filter((r) => FAILED.has(r.outcome));
    if (failed.length === 0) throw new HttpProblem(409, 'Nothing failed; go on instead.');
    for (const r of failed)
      await this.db
        .updateTable('rollout_switches')
        .set({
          outcome: 'waits',
          message: '',
          steps_done: 0,
          step: null,
          attempt: r.attempt + 1,
          apply_id: `${id}-${r.attempt + 1}`,
          started_at: null,
          ended_at: null,
        })
        .where('rollout_id', '=', id)
        .where('host', '=', r.host)
        .execute();
    await this.go(id, `retrying ${failed.map((r) => r.host).join(', ')}`);
  }

  private async go(id: string, text: string): Promise<void> {
    await this.active.get(id);
    await this.db
      .updateTable('rollouts')
      .set({ state: 'running', reason: '', ended_at: null })
      .where('id', '=', id)
      .execute();
    await this.say(id, '', text);
    this.start(id);
  }

  /** Returns every switch this rollout changed to its back-up, in reverse order, as a rollout of its own. */
  undo(id: string, author: string): Promise<string> {
    return this.asked.add(() => this.undoNow(id, author)) as Promise<string>;
  }
  private async undoNow(id: string, author: string): Promise<string> {
    const job = await this.job(id);
    if (job.kind !== 'send' || (job.state !== 'stopped' && job.state !== 'paused'))
      throw new HttpProblem(
        409,
        job.state === 'done'
          ? 'It has gone live: return to the revision before under History.'
          : `Pause the rollout first; it is ${job.state}.`,
      );
    await this.active.get(id);
    const touched = (await this.rows(id)).filter(
      (r) => r.before !== null && (r.outcome === 'as meant' || r.outcome === 'unknown') && r.before !== r.target,
    );
    await this.end(id, 'undone', `undone by ${author}`);
    if (touched.length === 0) {
      await this.changes.setState(job.change_id, 'Approved');
      return id;
    }
    const rows = [];
    for (const r of touched)
      rows.push({
        target: { host: r.host, seat: r.seat },
        serial: r.serial,
        files: (await textOf(this.db, r.before))!,
        expected: r.outcome === 'as meant' ? await textOf(this.db, r.target) : null,
      });
    const waves = (JSON.parse(job.waves) as RolloutWave[])
      .map((w) => ({ ...w, hosts: w.hosts.filter((h) => touched.some((r) => r.host === h)) }))
      .filter((w) => w.hosts.length > 0)
      .reverse()
      .map((w, i) => ({ ...w, name: `Back ${i + 1}` }));
    return this.write(
      { id: job.change_id, fabric: job.fabric },
      'undo',
      waves,
      rows,
      { stopLine: job.stop_line, undoSeconds: job.undo_seconds },
      author,
    );
  }

  async answer(id: string): Promise<RolloutAnswer> {
    const job = await this.job(id);
    const change = await this.changes.row(job.change_id);
    const rows = await this.rows(id);
    const waves = JSON.parse(job.waves) as RolloutWave[];
    const open = rows.filter((r) => r.outcome === 'waits' || r.outcome === 'under way').map((r) => r.wave);
    return {
      id,
      change: job.change_id,
      title: change.title,
      ticket: change.ticket,
      fabric: job.fabric,
      kind: job.kind,
      state: job.state as RolloutState,
      reason: job.reason,
      author: job.author,
      stopLine: job.stop_line,
      undoSeconds: job.undo_seconds,
      startedAt: job.started_at,
      endedAt: job.ended_at,
      waves,
      currentWave: open.length > 0 ? Math.min(...open) : waves.length,
      switches: rows.map((r): RolloutSwitchAnswer => ({
        host: r.host,
        seat: r.seat,
        serial: r.serial,
        wave: r.wave,
        stepsDone: r.steps_done,
        step: r.step as Step | null,
        outcome: r.outcome as Outcome,
        message: r.message,
        added: r.added,
        removed: r.removed,
        startedAt: r.started_at,
        endedAt: r.ended_at,
      })),
    };
  }

  async all(): Promise<RolloutAnswer[]> {
    const ids = await this.db.selectFrom('rollouts').select('id').orderBy('started_at', 'desc').limit(200).execute();
    return Promise.all(ids.map((r) => this.answer(r.id)));
  }

  async logOf(id: string, host?: string): Promise<LogLine[]> {
    let query = this.db.selectFrom('rollout_log').select(['at', 'host', 'text']).where('rollout_id', '=', id);
    if (host !== undefined) query = query.where('host', '=', host);
    return query.orderBy('id').execute();
  }
}
