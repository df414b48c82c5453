import type { TouchAnswer } from '@anthemion/contract';
import { subjectsOf } from '@anthemion/core';
import { newestEdit } from '../../store/changes.ts';
import type { Db } from '../../store/database.ts';

/** Who touched an object last: live, or in an open change. */
export interface TouchedTask {
  readonly do: 'touched';
  readonly fabric: string;
  readonly change: string | null;
  /** Its subject, such as `network:echo-store`. */
  readonly at: string;
}

export const touchedTask = (db: Db, { fabric, change, at }: TouchedTask): Promise<TouchAnswer | null> =>
  newestEdit(db, fabric, change, (edit) => subjectsOf(edit).some((s) => s === at || s === 'fabric'));
