import { findablesOf, layOut } from '@anthemion/core';
import type { Db } from '../../store/database.ts';
import { movedIn, type FindablesMoved } from '../../store/findables.ts';
import { liveState, snapshot } from './state.ts';

/** What is to be written so that the objects of the live revision can be found. */
export interface FindablesTask {
  readonly do: 'findables';
  readonly fabric: string;
}

export const findablesTask = (db: Db, { fabric }: FindablesTask): Promise<FindablesMoved> =>
  snapshot(db, async (tx) => {
    const { intent, values, revision } = await liveState(tx, fabric);
    return { revision, ...(await movedIn(tx, fabric, findablesOf(intent, layOut(intent), values))) };
  });
