import type { Logger } from 'pino';
import type { Events } from '../events/events.ts';
import { noted } from '../services/audit.ts';
import type { JobRunner } from '../services/house.ts';
import type { Db } from '../store/database.ts';
import { addLogLine, jobOf, jobsIn, moveJob, type JobState } from '../store/jobs.ts';
import { words } from '../trouble.ts';

/** A kind of job: how its work is done, from wherever it stands. */
export interface JobKind {
  readonly kind: string;
  /** Does what is left, and leaves when told to stop or when the job is not running any more. Safe to call again. */
  readonly run: (id: string, control: JobControl) => Promise<void>;
  /** Is something half done that must be brought to an end, though the job is paused or stopped? */
  readonly halfDone: (id: string) => Promise<boolean>;
}

export interface JobControl {
  /** The server is ending: leave as soon as what is written down is enough to go on from. */
  readonly stopping: () => boolean;
  readonly state: () => Promise<JobState>;
  /** A line of the job's log; `item` is the part of the job it is about, or empty. */
  readonly say: (item: string, text: string) => Promise<void>;
  readonly changed: () => void;
}

export interface EngineParts {
  readonly db: Db;
  readonly events: Events;
  readonly log: Logger;
  readonly now: () => Date;
}

/**
 * Runs jobs that outlive the server. A job is a row with a state; its kind writes each step down before it is done, so
 * that whatever ends the server, the next one goes on from there.
 */
export class JobEngine implements JobRunner {
  private readonly kinds = new Map<string, JobKind>();
  private readonly active = new Map<string, Promise<void>>();
  /** Fabric of each job that was at work here. */
  private readonly fabrics = new Map<string, string>();
  private readonly parts: EngineParts;
  private ending = false;
  constructor(parts: EngineParts) {
    this.parts = parts;
  }

  register(kind: JobKind): void {
    this.kinds.set(kind.kind, kind);
  }

  /** Has a job work, unless it does already; answers at once. */
  start(id: string): void {
    if (this.active.has(id) || this.ending) return;
    const work = this.work(id).finally(() => {
      this.active.delete(id);
      this.tell(id);
    });
    this.active.set(id, work);
  }

  /** Waits until a job is not at work in this server. Never to be awaited at the desk of the job's fabric. */
  async rest(id: string): Promise<void> {
    await this.active.get(id);
  }

  async say(id: string, item: string, text: string): Promise<void> {
    await addLogLine(this.parts.db, id, item, text, this.parts.now().toISOString());
    this.tell(id);
  }

  private tell(id: string): void {
    this.parts.events.tell('rollouts', id, this.fabrics.get(id));
  }

  private async work(id: string): Promise<void> {
    const { db, log, now } = this.parts;
    try {
      const job = await jobOf(db, id);
      const kind = job && this.kinds.get(job.kind);
      if (job) this.fabrics.set(id, job.fabric);
      if (!kind) throw new Error(`there is nobody for jobs of kind ${job?.kind ?? 'unknown'}`);
      await kind.run(id, {
        stopping: () => this.ending,
        state: async () => ((await jobOf(db, id))?.state ?? 'stopped') as JobState,
        say: (item, text) => this.say(id, item, text),
        changed: () => this.tell(id),
      });
      const after = await jobOf(db, id);
      if (after && after.state !== 'running' && !this.ending)
        await noted(this.parts, {
          action: job.kind,
          fabric: job.fabric,
          subject: id,
          outcome: after.reason === '' ? after.state : `${after.state}: ${after.reason}`,
        }).catch((error: unknown) => log.error({ err: error, job: id }, 'how it ended could not be written down'));
    } catch (error) {
      if (this.ending) return;
      log.error({ err: error, job: id }, 'a job was stopped by a fault');
      try {
        const text = `a fault of the server: ${words(error)}`;
        await moveJob(db, id, ['running', 'paused'], 'stopped', text, now().toISOString());
        await this.say(id, '', text);
      } catch (again) {
        log.error({ err: again, job: id }, 'and it could not be noted');
      }
    }
  }

  /** Takes up what an earlier run of the server left under way; what is paused or stopped brings its half-done parts to an end. */
  async resumeAll(): Promise<void> {
    for (const job of await jobsIn(this.parts.db, ['running', 'paused', 'stopped'])) {
      const kind = this.kinds.get(job.kind);
      if (!kind || (job.state !== 'running' && !(await kind.halfDone(job.id)))) continue;
      await this.say(job.id, '', 'the server was started again; going on');
      this.start(job.id);
    }
  }

  /** Lets every job leave at its next step. */
  async stop(): Promise<void> {
    this.ending = true;
    await Promise.allSettled(this.active.values());
  }
}
