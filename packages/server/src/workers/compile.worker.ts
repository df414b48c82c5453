import { workerData } from 'piscina';
import { openReader } from '../store/database.ts';
import { Trouble } from '../trouble.ts';
import { END } from './end.ts';
import { doTask, type Task } from './tasks/index.ts';

const { data } = workerData as { readonly data: string };
const db = openReader(data);

/** A no crosses between threads as a value, since errors lose their class on the way. */
export default async function work(
  task: Task | typeof END,
): Promise<{ answer: unknown } | { trouble: Pick<Trouble, 'kind' | 'message' | 'findings'> }> {
  if (task === END) {
    await db.destroy();
    return { answer: null };
  }
  try {
    return { answer: await doTask(db, task) };
  } catch (error) {
    if (error instanceof Trouble)
      return { trouble: { kind: error.kind, message: error.message, findings: error.findings } };
    throw error;
  }
}
