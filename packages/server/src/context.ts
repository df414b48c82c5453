import type { Logger } from 'pino';
import type { BenchDoor } from './reach/benchDoor.ts';
import type { Compiler } from './workers/compiler.ts';
import type { Db } from './store/database.ts';
import type { RolloutRunner } from './jobs/rolloutRunner.ts';
import type { Reach } from './reach/reach.ts';

/** What the parts of the server share. */
export interface ServerContext {
  readonly db: Db;
  readonly log: Logger;
  readonly compiler: Compiler;
  readonly reach: Reach;
  readonly runner: RolloutRunner;
  readonly bench: BenchDoor | null;
  readonly demo: boolean;
  readonly now: () => Date;
}
