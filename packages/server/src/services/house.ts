import type { Logger } from 'pino';
import type { Events } from '../events/events.ts';
import type { Db } from '../store/database.ts';
import type { Compiler } from '../workers/compilePool.ts';
import type { Desks } from './desk.ts';

/** What all services share. */
export interface House {
  readonly db: Db;
  readonly compiler: Compiler;
  readonly desks: Desks;
  readonly events: Events;
  readonly log: Logger;
  readonly now: () => Date;
}

/** The time as it is written down. */
/** The day, in UTC: `2026-11-30`. */
export const today = (house: Pick<House, 'now'>): string => at(house).slice(0, 10);
export const at = (house: Pick<House, 'now'>): string => house.now().toISOString();

/** What services ask of the job engine. */
export interface JobRunner {
  /** Has a job work, unless it does already; answers at once. */
  readonly start: (id: string) => void;
  /** Waits until a job is not at work in this server. Never to be awaited at the desk of the job's fabric. */
  readonly rest: (id: string) => Promise<void>;
  /** A line of the job's log; `item` is the part of the job it is about, or empty. */
  readonly say: (id: string, item: string, text: string) => Promise<void>;
}
