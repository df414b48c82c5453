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
export const at = (house: Pick<House, 'now'>): string => house.now().toISOString();
