import { availableParallelism } from 'node:os';
import { Piscina } from 'piscina';
import { programOf } from '../programs.ts';
import { openReader, type Db, type HearQuery } from '../store/database.ts';
import { notNow, Trouble } from '../trouble.ts';
import { END } from './end.ts';
import { Places } from './places.ts';
import { doTask, type Answers, type Task, type TaskOf } from './tasks/index.ts';

/** Computes what is long, away from the requests. */
export interface Compiler {
  readonly run: <K extends Task['do']>(task: TaskOf<K>) => Promise<Answers[K]>;
  readonly close: () => Promise<void>;
}

const MOST_WORKERS = 4;
/** So long a worker may go on with what it does when the server is ended, milliseconds. */
const LAST_TASK_MS = 5_000;

/**
 * Worker threads over the data folder. A fabric always goes to the same worker, whose memory of it makes the next
 * computation quick; a worker is started when the first of its fabrics is asked for. Fabrics are spread evenly, so two are
 * proved at once.
 */
export class CompilePool implements Compiler {
  private readonly slots: (Piscina | undefined)[];
  private readonly places: Places;
  private readonly data: string;
  private ended = false;
  constructor(data: string) {
    this.data = data;
    this.slots = Array.from({ length: Math.max(1, Math.min(MOST_WORKERS, availableParallelism())) });
    this.places = new Places(this.slots.length);
  }

  private slotOf(fabric: string): Piscina {
    // A worker that is started now would outlive the server.
    if (this.ended) throw notNow('The server is ending.');
    return (this.slots[this.places.of(fabric)] ??= this.start());
  }

  private start(): Piscina {
    const { file, execArgv } = programOf('compile.worker');
    return new Piscina({
      filename: file,
      execArgv: [...execArgv],
      workerData: { data: this.data },
      maxThreads: 1,
      minThreads: 1,
      resourceLimits: { maxOldGenerationSizeMb: 3072, maxYoungGenerationSizeMb: 64 },
    });
  }

  run: Compiler['run'] = async (task) => {
    const done = (await this.slotOf(task.fabric).run(task)) as
      { readonly answer: never } | { readonly trouble: Pick<Trouble, 'kind' | 'message' | 'findings'> };
    if ('trouble' in done) throw new Trouble(done.trouble.kind, done.trouble.message, done.trouble.findings);
    return done.answer;
  };

  async close(): Promise<void> {
    this.ended = true;
    await Promise.all(
      this.slots.map(async (slot) => {
        if (!slot) return;
        let timer: NodeJS.Timeout | undefined;
        await Promise.race([
          slot.run(END).catch(() => undefined),
          new Promise((done) => (timer = setTimeout(done, LAST_TASK_MS))),
        ]);
        clearTimeout(timer);
        await slot.destroy();
      }),
    );
  }
}

/** The same in the caller's thread; for tests that run thousands of small tasks. */
export class InlineCompiler implements Compiler {
  private readonly db: Db;
  constructor(data: string, hear?: HearQuery) {
    this.db = openReader(data, hear);
  }
  run: Compiler['run'] = (task) => doTask(this.db, task) as never;
  close(): Promise<void> {
    return this.db.destroy();
  }
}
