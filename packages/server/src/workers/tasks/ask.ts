import {
  applyEdits,
  ask,
  describeEdits,
  differencesByStep,
  differing,
  readQuestion,
  withLines,
  type Answer,
  type NetworkModel,
  type Step,
} from '@anthemion/core';
import type { Db, Reads } from '../../store/database.ts';
import { liveValues } from '../../store/ledger.ts';
import { allPools } from '../../store/pools.ts';
import { refused } from '../../trouble.ts';
import { memoryOf } from '../fabricMemory.ts';
import { networkAt, networkOf } from './network.ts';
import { changeView, compileRemembered, liveState, snapshot, stateAt } from './state.ts';

/** One question to the network that a fabric makes, live or as a change would have it. */
export interface AskTask {
  readonly do: 'ask';
  readonly fabric: string;
  readonly change: string | null;
  readonly question: string;
}

/** More steps than these are not told apart. */
const MOST_STEPS = 12;

/** What a change makes otherwise than what is live, each answer with the edit that did it. */
async function differs(
  tx: Reads,
  fabric: string,
  change: string,
  before: NetworkModel,
  after: NetworkModel,
): Promise<Answer> {
  const view = await changeView(tx, change);
  const skip = new Set(view.conflicts.map((c) => c.edit));
  const edits = view.edits.flatMap(({ edit }, i) => (skip.has(i) ? [] : [edit]));
  const last: Step = { by: '', network: after };
  if (edits.length === 0 || edits.length > MOST_STEPS) {
    const rows = differencesByStep(before, [last]).map(({ by: _, ...row }) => row);
    return differing(rows);
  }
  const sentences = describeEdits(edits, view.base);
  const pools = await allPools(tx);
  const state = await stateAt(tx, fabric, change);
  // What an edit takes away has its live values until then.
  const values = new Map([...(await liveValues(tx, fabric)), ...state.values]);
  const steps: Step[] = [];
  for (const [i, by] of sentences.entries()) {
    const whole = i === edits.length - 1;
    const { intent } = applyEdits(view.base, edits.slice(0, i + 1));
    const compiled = compileRemembered(intent, values, pools, 'after');
    steps.push({ by, network: whole ? after : networkOf(compiled, intent, values, steps.at(-1)?.network ?? before) });
  }
  return differing(differencesByStep(before, steps));
}

export const askTask = (db: Db, task: AskTask): Promise<Answer> =>
  snapshot(db, async (tx) => {
    const { fabric, change } = task;
    const wrong = (message: string) =>
      refused([{ rule: 'question', severity: 'error', message: `${message}.`, path: '/question' }]);
    const question = readQuestion(task.question.trim().split(/\s+/));
    if (typeof question === 'string') throw wrong(question);
    const { compiled, network } = await networkAt(tx, fabric, change);
    if (question.ask === 'differs') {
      if (change === null) return differing([]);
      const live = await liveState(tx, fabric);
      const was = compileRemembered(live.intent, live.values, await allPools(tx), 'before');
      const before = networkOf(was, live.intent, live.values, memoryOf(fabric).before?.network ?? null);
      return differs(tx, fabric, change, before, network);
    }
    const answer = ask(network, question);
    if (typeof answer === 'string') throw wrong(answer);
    const written = new Map(compiled.switches.map((s) => [s.seat.host, s]));
    return withLines(answer, (host) => written.get(host));
  });
