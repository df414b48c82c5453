import { pino } from 'pino';
import { Events } from '../events/events.ts';
import { Desks } from '../services/desk.ts';
import type { House } from '../services/house.ts';
import type { Db } from '../store/database.ts';
import type { Compiler } from '../workers/compilePool.ts';

/** What services work with, over a store and a compiler, with nobody at the door and nothing logged. */
export const houseOver = (db: Db, compiler: Compiler): House => ({
  db,
  compiler,
  desks: new Desks(),
  events: new Events(),
  log: pino({ level: 'silent' }),
  now: () => new Date(),
});
