import type { CatchUpRequest, PutBackRequest, RolloutKind, RolloutRequest } from '@anthemion/contract';
import { problem } from '@anthemion/core';
import { approvalsOf, changeOf, moveChange, setChangeState } from '../store/changes.ts';
import type { Tx } from '../store/database.ts';
import { liveRevision } from '../store/fabrics.ts';
import { addJob, addLogLine, moveJob } from '../store/jobs.ts';
import {
  addRollout,
  AT_REST,
  markOvertaken,
  unfinishedIn,
  wavesOf,
  type RolloutPin,
  type RolloutRow,
  type SwitchRow,
} from '../store/rollouts.ts';
import { keepTexts } from '../store/texts.ts';
import { notNow, refused, Trouble } from '../trouble.ts';
import type { Plan } from '../workers/tasks/plan.ts';
import { mustMatch } from './changes.ts';
import { at, today, type House, type JobRunner } from './house.ts';
import { mustStillBeWaived } from './waivers.ts';
import { busy, emptySeats, mayBreakIn, togetherAsked } from './refusals.ts';
import { mustBeTried } from './softwareVersions.ts';
import { freshRow, newId } from './rolloutRows.ts';

/** Is every session of a fabric seen up, by what was read of its switches lately? */
export type AllUp = (fabric: string) => Promise<boolean>;

/** What beginning a rollout asks of others. */
export interface BeginningParts {
  readonly house: House;
  readonly engine: JobRunner;
  readonly allUp: AllUp;
  /** Pauses one that is in the way of one that breaks in. */
  readonly pause: (id: string, by: string) => Promise<void>;
}

/** Beginning rollouts: planned, judged, pinned with all that they will send, and let go. */
export class Beginnings {
  private readonly house: House;
  private readonly engine: JobRunner;
  private readonly allUp: AllUp;
  private readonly pause: BeginningParts['pause'];
  constructor({ house, engine, allUp, pause }: BeginningParts) {
    this.house = house;
    this.engine = engine;
    this.allUp = allUp;
    this.pause = pause;
  }

  /**
   * Plans a rollout of an approved change, pins everything it will send, and starts it. With `breakIn` it goes before an
   * unfinished rollout of the same fabric, which has to be proved again after.
   */
  async begin(request: RolloutRequest, by: string, version?: number): Promise<string> {
    const { db, desks } = this.house;
    const { fabric } = await changeOf(db, request.change);
    if (request.breakIn) await this.pauseOthers(fabric, request.change, by);
    for (const u of await unfinishedIn(db, fabric)) if (u.state !== 'running') await this.engine.rest(u.id);
    return desks.at(fabric, () => this.beginAtDesk(fabric, request, by, version));
  }

  private async beginAtDesk(fabric: string, request: RolloutRequest, by: string, version?: number): Promise<string> {
    const { db, compiler } = this.house;
    const change = await changeOf(db, request.change);
    mustMatch(change, version);
    if (change.state !== 'Approved')
      throw notNow(`Only an approved change can be rolled out; this one is ${change.state}.`);
    const unfinished = await unfinishedIn(db, fabric);
    const older = unfinished.filter((u) => u.change_id === change.id && u.kind === 'send');
    const others = unfinished.filter((u) => !older.includes(u));
    const into = request.breakIn ? mayBreakIn(others, request.reason) : null;
    if (into === null && others.length > 0) throw busy(fabric, others[0]!);
    const approval = (await approvalsOf(db, change.id)).find((a) => a.version === change.version);
    if (!approval) throw notNow('Nobody has approved the change as it is now.');
    const plan = await compiler.run<'plan'>({
      do: 'plan',
      fabric,
      change: change.id,
      into: into?.id ?? null,
      today: today(this.house),
    });
    mustStillBeWaived(change, today(this.house));
    if (plan.digest !== approval.digest) {
      await setChangeState(db, change, ['Approved'], 'Stale', at(this.house));
      throw notNow(
        'What would be sent is not what was approved any more: pools, patterns or templates have changed since. Prove the change again and have it approved.',
      );
    }
    if (plan.findings.length > 0)
      throw refused(
        plan.findings.map((f) => ({ ...f, path: '/breakIn', message: `With the unfinished change: ${f.message}` })),
      );
    if (plan.empty.length > 0) throw emptySeats(plan.empty);
    return this.pinAndStart(
      'send',
      fabric,
      plan,
      request,
      by,
      async (tx, id) => {
        const row = await changeOf(tx, change.id);
        if (row.version !== plan.version || row.state !== 'Approved' || (await liveRevision(tx, fabric)) !== plan.live)
          throw new Trouble(
            'overtaken',
            'The change has moved on while the rollout was planned; look at it and begin again.',
          );
        const now = at(this.house);
        const open = await unfinishedIn(tx, fabric);
        if (open.some((u) => !unfinished.some((x) => x.id === u.id))) throw busy(fabric, open[0]!);
        for (const u of older)
          if (!(await moveJob(tx, u.id, AT_REST, 'closed', `gone on with as rollout ${id}`, now)))
            throw notNow(`Rollout ${u.id} is under way; pause it first.`);
        if (into) await this.overtake(tx, into, id, by, request.reason, now);
        await setChangeState(tx, row, ['Approved'], 'Rolling out', now);
      },
      into?.id ?? null,
    );
  }

  /** The unfinished rollout is left as it is; its change has to be proved and approved again before it goes on. */
  private async overtake(
    tx: Tx,
    into: RolloutRow,
    by: string,
    author: string,
    reason: string,
    now: string,
  ): Promise<void> {
    const words = `${author} broke in with rollout ${by}: ${reason}. Prove its change again, have it approved, then go on`;
    if (!(await moveJob(tx, into.id, AT_REST, 'stopped', words, now)))
      throw notNow(`Rollout ${into.id} is under way; pause it first.`);
    const change = await changeOf(tx, into.change_id);
    await moveChange(tx, change, { state: 'Stale' }, now);
    await addLogLine(tx, into.id, '', words, now);
  }

  private async pauseOthers(fabric: string, change: string, by: string): Promise<void> {
    for (const u of await unfinishedIn(this.house.db, fabric)) {
      if (u.change_id === change) continue;
      if (u.state === 'running' && u.kind === 'send') await this.pause(u.id, by);
      await this.engine.rest(u.id);
    }
  }

  /** Sends what is live to the switches that wait for it: after a rollout was closed as it stood, or a change given up. */
  async catchUp(fabric: string, request: CatchUpRequest, by: string): Promise<string> {
    return this.beginFromLive('catch up', fabric, undefined, request, by, (plan) => {
      if (plan.rows.length === 0)
        throw notNow(`No switch of ${fabric} waits: all have what revision ${plan.live} means.`);
    });
  }

  /**
   * Puts what is live back on switches that somebody edited by hand. What is put back is what was proved and sent before;
   * a switch that runs something else by then than what was seen is left alone.
   */
  async putBack(fabric: string, request: PutBackRequest, by: string): Promise<string> {
    const { serials } = request;
    const id = await this.beginFromLive('put back', fabric, serials, request, by, (plan) => {
      const missing = serials.findIndex((s) => !plan.rows.some((r) => r.serial === s));
      if (missing < 0) return;
      throw refused([
        problem(
          'drifted',
          `/serials/${missing}`,
          `${serials[missing]} was not seen to run anything else than is meant in ${fabric}.`,
          'Read it, then choose those that were edited by hand.',
        ),
      ]);
    });
    await this.engine.say(id, '', `reason: ${request.reason}`);
    return id;
  }

  /** Begins a rollout of what is live already: on switches that wait, or `over` what runs on these by hand. */
  private beginFromLive(
    kind: RolloutKind,
    fabric: string,
    over: readonly string[] | undefined,
    options: CatchUpRequest,
    by: string,
    judge: (plan: Plan) => void,
  ): Promise<string> {
    const { db, desks, compiler } = this.house;
    return desks.at(fabric, async () => {
      const unfinished = await unfinishedIn(db, fabric);
      if (unfinished.length > 0) throw busy(fabric, unfinished[0]!);
      const plan = await compiler.run<'plan'>({
        do: 'plan',
        fabric,
        change: null,
        into: null,
        today: today(this.house),
        ...(over === undefined ? {} : { over }),
      });
      judge(plan);
      return this.pinAndStart(kind, fabric, plan, options, by, async (tx) => {
        if ((await liveRevision(tx, fabric)) !== plan.live || (await unfinishedIn(tx, fabric)).length > 0)
          throw new Trouble('overtaken', 'Something went live while this was planned; look again.');
      });
    });
  }

  private async pinAndStart(
    kind: RolloutKind,
    fabric: string,
    plan: Plan,
    options: CatchUpRequest,
    by: string,
    checks: (tx: Tx, id: string) => Promise<void>,
    into: string | null = null,
  ): Promise<string> {
    togetherAsked(plan.waves, options.together, !plan.waves.some((w) => w.carried) || (await this.allUp(fabric)));
    const id = newId();
    const rows = plan.rows.map((p): SwitchRow => ({
      ...freshRow(
        id,
        plan.waves.findIndex((w) => w.hosts.includes(p.host)),
      ),
      host: p.host,
      seat: p.seat,
      serial: p.serial,
      target: p.target,
      expected: p.expected,
      expected_revision: p.expectedRevision,
      expected_change: p.expectedChange,
      live_revision: kind === 'catch up' || kind === 'put back' ? plan.live : null,
      live_change: plan.change,
      added: p.added,
      removed: p.removed,
      leaves: p.leaves ? 1 : 0,
    }));
    await this.house.db.transaction().execute(async (tx) => {
      await mustBeTried(
        tx,
        rows.map((r) => r.serial),
      );
      await checks(tx, id);
      await keepTexts(tx, plan.texts);
      await this.write(
        tx,
        {
          id,
          change_id: plan.change,
          fabric,
          kind,
          stop_line: options.stopLine,
          undo_seconds: options.undoSeconds,
          waves: JSON.stringify(plan.waves),
          version: plan.version,
          base_revision: plan.live,
          digest: plan.digest,
          intent: plan.intent,
          drawn: JSON.stringify(plan.drawn),
          meant: JSON.stringify(plan.meant),
          overtaken_by: null,
          broke_into: into,
          undoes: null,
        },
        rows,
        by,
      );
      if (into !== null) await markOvertaken(tx, into, id);
    });
    this.started(id, fabric);
    return id;
  }

  /** Writes a rollout down, with what every switch is sent, as it begins. */
  async write(tx: Tx, pin: RolloutPin, rows: readonly SwitchRow[], by: string): Promise<void> {
    const now = at(this.house);
    await addJob(tx, { id: pin.id, kind: 'rollout', fabric: pin.fabric, author: by, started_at: now });
    await addRollout(tx, pin, rows);
    const what = { send: 'rollout', undo: 'undo', 'catch up': 'catching up', 'put back': 'putting back' }[pin.kind];
    const text = `${what} of ${rows.length} switches in ${wavesOf(pin).length} waves, begun by ${by}`;
    await addLogLine(tx, pin.id, '', pin.broke_into ? `${text}; breaks into rollout ${pin.broke_into}` : text, now);
  }

  /** Says that it is under way, and lets it go. */
  started(id: string, fabric: string): void {
    this.house.events.tell('rollouts', id, fabric);
    this.house.events.tell('changes', undefined, fabric);
    this.engine.start(id);
  }
}
