import { workerData } from 'piscina';
import { openReader } from '../store/database.ts';
import { Trouble } from '../trouble.ts';
import { doTask, type Task } from './tasks/index.ts';

const { data } = workerData as { readonly data: string };
const db = openReader(data);

/** A no crosses between threads as a value, since errors lose their class on the way. */
export default async function work(
  task: Task,
): Promise<{ answer: unknown } | { trouble: Pick<Trouble, 'kind' | 'message' | 'findings'> }> {
  try {
    return { answer: await doTask(db, task) };
  } catch (error) {
    if (error instanceof Trouble)
      return { trouble: { kind: error.kind, message: error.message, findings: error.findings } };
    throw error;
  }
}
