import type {
  CatchUpRequest,
  LogLine,
  PutBackRequest,
  RolloutAnswer,
  RolloutRequest,
  RolloutSummary,
} from '@anthemion/contract';
import type { RolloutWave, WaitsFor } from '@anthemion/core';
import type { Tx } from '../store/database.ts';
import { addLogLine, logPage, moveJob } from '../store/jobs.ts';
import type { Page, PageAsked, Sight } from '../store/pages.ts';
import {
  AT_REST,
  noteRow,
  rolloutOf,
  rolloutPage,
  rowsOf,
  unfinishedIn,
  wavesOf,
  type RolloutRow,
  type SwitchRow,
} from '../store/rollouts.ts';
import { notNow, Trouble } from '../trouble.ts';
import { Beginnings, type AllUp } from './beginRollouts.ts';
import { goLive } from './goingLive.ts';
import { at, type House, type JobRunner } from './house.ts';
import { afterUndo, mustStand, pinAlone, pinned } from './pins.ts';
import { busy } from './refusals.ts';
import { rolloutAnswer } from './rolloutAnswer.ts';
import { attempt, FAILED, newId, undoRows } from './rolloutRows.ts';

/** Rollouts as one steers them. How they begin is in beginRollouts.ts, what they do on switches in jobs/rollout/. */
export class Rollouts {
  private readonly house: House;
  private readonly engine: JobRunner;
  private readonly beginnings: Beginnings;
  constructor(house: House, engine: JobRunner, allUp: AllUp) {
    this.house = house;
    this.engine = engine;
    this.beginnings = new Beginnings({ house, engine, allUp, pause: (id, by) => this.pause(id, by) });
  }

  begin(request: RolloutRequest, by: string, version?: number): Promise<string> {
    return this.beginnings.begin(request, by, version);
  }
  catchUp(fabric: string, request: CatchUpRequest, by: string): Promise<string> {
    return this.beginnings.catchUp(fabric, request, by);
  }
  putBack(fabric: string, request: PutBackRequest, by: string): Promise<string> {
    return this.beginnings.putBack(fabric, request, by);
  }

  page(asked: PageAsked, sight: Sight): Promise<Page<RolloutSummary>> {
    return rolloutPage(this.house.db, asked, sight);
  }
  log(id: string, host: string | undefined, asked: PageAsked): Promise<Page<LogLine>> {
    return logPage(this.house.db, id, host, asked);
  }
  answer(id: string): Promise<RolloutAnswer> {
    return rolloutAnswer(this.house.db, id);
  }

  async pause(id: string, by: string): Promise<void> {
    await rolloutOf(this.house.db, id);
    const text = `paused by ${by}; switches under way are finished`;
    if (!(await moveJob(this.house.db, id, ['running'], 'paused', text, at(this.house))))
      throw notNow('Only a running rollout can be paused.');
    await this.engine.say(id, '', text);
  }

  resume(id: string, by: string): Promise<void> {
    return this.goOn(id, `going on, by ${by}`, (rows, r) => {
      if (r.state === 'stopped' && rows.every((x) => x.outcome !== 'waits'))
        throw notNow('Nothing waits; retry the failed instead.');
      return [];
    });
  }

  /** The failed get another attempt under a new id, then the rollout goes on. */
  retry(id: string, by: string): Promise<void> {
    return this.goOn(id, `retry by ${by}`, (rows) => {
      const failed = rows.filter((r) => FAILED.has(r.outcome));
      if (failed.length === 0) throw notNow('Nothing failed; go on instead.');
      return failed;
    });
  }

  private async goOn(
    id: string,
    words: string,
    again: (rows: readonly SwitchRow[], r: RolloutRow) => readonly SwitchRow[],
  ): Promise<void> {
    const { db, desks } = this.house;
    const { fabric } = await rolloutOf(db, id);
    await this.engine.rest(id);
    await desks.at(fabric, () =>
      db.transaction().execute(async (tx) => {
        const r = await rolloutOf(tx, id);
        if (r.state !== 'paused' && r.state !== 'stopped') throw notNow(`The rollout is ${r.state}.`);
        await mustStand(tx, r);
        const failed = again(await rowsOf(tx, id), r);
        for (const x of failed) await noteRow(tx, x, { ...attempt(id, x.attempt + 1), before: x.before });
        if (!(await moveJob(tx, id, AT_REST, 'running', '', at(this.house)))) throw notNow('Somebody was faster.');
        const hosts = failed.map((x) => x.host).join(', ');
        await addLogLine(tx, id, '', hosts ? `${words}: ${hosts}` : words, at(this.house));
      }),
    );
    this.beginnings.started(id, fabric);
  }

  /**
   * Takes every switch this rollout touched back to what it was confirmed with before, or, where another rollout broke in
   * since, to what is live now. A rollout of its own, in reverse order.
   */
  async undo(id: string, by: string): Promise<string> {
    const { db, desks } = this.house;
    const { fabric } = await rolloutOf(db, id);
    await this.engine.rest(id);
    const undo = newId();
    const started = await desks.at(fabric, () =>
      db.transaction().execute(async (tx) => {
        const r = await rolloutOf(tx, id);
        if (r.kind !== 'send' || (r.state !== 'paused' && r.state !== 'stopped'))
          throw notNow(
            r.state === 'done' || r.state === 'closed'
              ? 'It has gone live: return to the revision before under History.'
              : `Pause the rollout first; it is ${r.state}.`,
          );
        // One that broke in may be taken back while the one it overtook still waits.
        const other = (await unfinishedIn(tx, fabric)).find((u) => u.id !== id && u.overtaken_by !== id);
        if (other) throw busy(fabric, other);
        const rows = await undoRows(tx, r, undo);
        const now = at(this.house);
        await moveJob(tx, id, AT_REST, 'undone', `undone by ${by}`, now);
        await addLogLine(tx, id, '', `undone by ${by}`, now);
        if (rows.length === 0) {
          await afterUndo(tx, r, now);
          return false;
        }
        const turned = wavesOf(r).flatMap((w) => w.after ?? []);
        const waves = wavesOf(r)
          .map(({ after: _, ...w }) => ({ ...w, hosts: w.hosts.filter((h) => rows.some((x) => x.host === h)) }))
          .filter((w) => w.hosts.length > 0)
          .reverse()
          .map((w, i) => ({ ...w, ...takingTurns(w.hosts, turned), name: `Back ${i + 1}` }));
        const placed = rows.map((x) => ({ ...x, wave: waves.findIndex((w) => w.hosts.includes(x.host)) }));
        await this.beginnings.write(
          tx,
          {
            ...pinAlone(r),
            id: undo,
            kind: 'undo',
            waves: JSON.stringify(waves),
            overtaken_by: null,
            broke_into: null,
            undoes: id,
          },
          placed,
          by,
        );
        return true;
      }),
    );
    if (!started) {
      this.house.events.tell('rollouts', id, fabric);
      this.house.events.tell('changes', undefined, fabric);
      return id;
    }
    this.beginnings.started(undo, fabric);
    return undo;
  }

  /** Ends an unfinished rollout as it stands: the change goes live, the switches it did not reach wait. */
  async close(id: string, reason: string, by: string): Promise<void> {
    const { db, desks } = this.house;
    const { fabric } = await rolloutOf(db, id);
    await this.engine.rest(id);
    await desks.at(fabric, async () => {
      const r = await rolloutOf(db, id);
      if (r.state !== 'paused' && r.state !== 'stopped')
        throw notNow(r.state === 'running' ? 'Pause the rollout first.' : `The rollout is ${r.state}.`);
      const words = `closed as it stands by ${by}: ${reason}`;
      const leave = async (tx: Tx): Promise<void> => {
        for (const x of await rowsOf(tx, id)) if (x.outcome === 'waits') await noteRow(tx, x, { outcome: 'left out' });
        await addLogLine(tx, id, '', words, at(this.house));
      };
      if (r.kind === 'send') {
        await db.transaction().execute(async (tx) => mustStand(tx, r));
        const pin = pinned(r)!;
        const closed = await goLive(this.house, pin, [], 'Rolling out', {
          job: id,
          from: AT_REST,
          to: 'closed',
          reason: words,
        });
        if (!closed) throw new Trouble('overtaken', 'The rollout has moved on; look at it again.');
        await db.transaction().execute(leave);
      } else
        await db.transaction().execute(async (tx) => {
          if (!(await moveJob(tx, id, AT_REST, 'closed', words, at(this.house)))) throw notNow('Somebody was faster.');
          await leave(tx);
          if (r.kind === 'undo') await afterUndo(tx, r, at(this.house));
        });
    });
    this.house.events.tell('rollouts', id, fabric);
    this.house.events.tell('fabrics', fabric);
  }
}

/** Halves that took turns take them the other way round: who was brought back is drained again only once the other is back. */
function takingTurns(hosts: readonly string[], turned: readonly WaitsFor[]): Pick<RolloutWave, 'after'> {
  const after = turned.flatMap(({ host, other }) => (hosts.includes(other) ? [{ host: other, other: host }] : []));
  return after.length > 0 ? { after } : {};
}
