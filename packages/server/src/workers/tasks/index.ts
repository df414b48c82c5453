import type { ClashAnswer, FabricBetween, TextsBetween, TouchAnswer } from '@anthemion/contract';
import { editsBetween, type Answer, type Edit, type HandedOver } from '@anthemion/core';
import type { Db } from '../../store/database.ts';
import type { FindablesMoved } from '../../store/findables.ts';
import { intentAt } from '../../store/fabrics.ts';
import { askTask, type AskTask } from './ask.ts';
import { editTask, type EditOutcome, type EditRefused, type EditTask } from './edit.ts';
import { findablesTask, type FindablesTask } from './findables.ts';
import { portsOfTask, type PortsOf, type PortsOfTask } from './portsOf.ts';
import { hearingTask, type Hearing, type HearingTask } from './hearing.ts';
import {
  betweenTask,
  textsBetweenTask,
  textsOfTask,
  type BetweenTask,
  type TextsBetweenTask,
  type TextsOfTask,
} from './between.ts';
import { expectTask, type Expectation, type ExpectTask } from './expect.ts';
import { overtakeTask, type OvertakeOutcome, type OvertakeTask } from './overtake.ts';
import {
  pageTask,
  surroundingsTask,
  textTask,
  type PageTask,
  type Surroundings,
  type SurroundingsTask,
  type TextTask,
} from './pages.ts';
import { adoptTask, type AdoptOutcome, type AdoptTask } from './adopt.ts';
import { outsideTask, type OutsideTask } from './outside.ts';
import { routingTask, type RoutingTask } from './routing.ts';
import { takeFileTask, type TakeFileTask, type TakenFile } from './takeFile.ts';
import { touchedTask, type TouchedTask } from './touched.ts';
import { clashesTask, type ClashesTask } from './clashes.ts';
import { watchTask, type Watched, type WatchTask } from './watch.ts';
import { rehearseTask, type RehearseTask, type ToRehearse } from './rehearse.ts';
import { releaseTask, type ReleaseTask } from './release.ts';
import { planTask, type Plan, type PlanTask } from './plan.ts';
import { liveState, snapshot } from './state.ts';

/** The edits that lead from what is live back to an earlier revision. */
export interface ReturnTask {
  readonly do: 'return';
  readonly fabric: string;
  readonly revision: number;
}

export type Task =
  | EditTask
  | PlanTask
  | OvertakeTask
  | ExpectTask
  | FindablesTask
  | HearingTask
  | PortsOfTask
  | PageTask<'fabric page'>
  | PageTask<'live proof'>
  | PageTask<'intent file'>
  | TextTask
  | BetweenTask<'between'>
  | TextsBetweenTask
  | TextsOfTask
  | AskTask
  | RoutingTask
  | OutsideTask
  | SurroundingsTask
  | ReleaseTask
  | RehearseTask
  | WatchTask
  | AdoptTask
  | ClashesTask
  | TouchedTask
  | ReturnTask
  | TakeFileTask;

/** The task of one kind. */
export type TaskOf<K extends Task['do']> = Extract<Task, { readonly do: K }>;

/** What each task answers. */
export interface Answers {
  readonly edit: EditOutcome | EditRefused;
  readonly plan: Plan;
  readonly overtake: OvertakeOutcome;
  readonly expect: [string, Expectation][];
  readonly findables: FindablesMoved;
  readonly hearing: Hearing[];
  readonly 'ports of': PortsOf | null;
  readonly 'fabric page': Uint8Array;
  readonly 'live proof': Uint8Array;
  readonly 'intent file': Uint8Array;
  readonly 'text page': Uint8Array;
  readonly between: FabricBetween;
  readonly 'texts between': TextsBetween;
  readonly 'texts of': ReadonlyMap<string, string>;
  readonly ask: Answer;
  readonly routing: Uint8Array;
  readonly outside: readonly HandedOver[];
  readonly surroundings: Surroundings;
  readonly release: string[];
  readonly rehearse: ToRehearse;
  readonly watch: Watched;
  readonly adopt: AdoptOutcome;
  readonly clashes: ClashAnswer[];
  readonly touched: TouchAnswer | null;
  readonly return: Edit[];
  readonly 'take file': TakenFile;
}

/** Does one task over a connection that only reads. Every task names its fabric, which decides the worker. */
export function doTask(db: Db, task: Task): Promise<unknown> {
  switch (task.do) {
    case 'edit':
      return editTask(db, task);
    case 'plan':
      return planTask(db, task);
    case 'overtake':
      return overtakeTask(db, task);
    case 'expect':
      return expectTask(db, task);
    case 'findables':
      return findablesTask(db, task);
    case 'hearing':
      return hearingTask(db, task);
    case 'ports of':
      return portsOfTask(db, task);
    case 'text page':
      return textTask(db, task);
    case 'between':
      return betweenTask(db, task);
    case 'texts between':
      return textsBetweenTask(db, task);
    case 'texts of':
      return textsOfTask(db, task);
    case 'ask':
      return askTask(db, task);
    case 'routing':
      return routingTask(db, task);
    case 'outside':
      return outsideTask(db, task);
    case 'rehearse':
      return rehearseTask(db, task);
    case 'release':
      return releaseTask(db, task);
    case 'watch':
      return watchTask(db, task);
    case 'adopt':
      return adoptTask(db, task);
    case 'touched':
      return touchedTask(db, task);
    case 'clashes':
      return clashesTask(db, task);
    case 'surroundings':
      return surroundingsTask(db, task);
    case 'take file':
      return takeFileTask(db, task);
    case 'return':
      return snapshot(db, async (tx) =>
        editsBetween((await liveState(tx, task.fabric)).intent, await intentAt(tx, task.fabric, task.revision)),
      );
    case 'fabric page':
    case 'live proof':
    case 'intent file':
      return pageTask(db, task);
  }
}
