import { handOver, type HandedOver } from '@anthemion/core';
import type { Db } from '../../store/database.ts';
import { notThere } from '../../trouble.ts';
import { compiledState, snapshot, stateAt } from './state.ts';

/** What routers outside have to be told to speak with a fabric. */
export interface OutsideTask {
  readonly do: 'outside';
  readonly fabric: string;
  readonly change: string | null;
}

export const outsideTask = (db: Db, { fabric, change }: OutsideTask): Promise<readonly HandedOver[]> =>
  snapshot(db, async (tx) => {
    const state = await stateAt(tx, fabric, change);
    if (state.intent.name !== fabric) throw notThere(`change ${change} of ${fabric}`);
    return handOver(state.intent, await compiledState(tx, state), state.values);
  });
