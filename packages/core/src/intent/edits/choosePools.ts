import { valueSentence } from '../collections/sentences.ts';
import type { PoolRoles } from '../intent.ts';
import { poolRolesSchema } from '../schemas/objects.ts';
import { done, editFields, type EditKindOf } from './edit.ts';

export interface ChoosePools {
  readonly kind: 'choosePools';
  readonly pools: Partial<PoolRoles>;
}

export const choosePools: EditKindOf<ChoosePools> = {
  kind: 'choosePools',
  schema: editFields('choosePools', { pools: poolRolesSchema }),
  apply: (intent, edit) => done({ ...intent, pools: { ...intent.pools, ...edit.pools } }),
  sentence: (edit, before) =>
    `Draw ${Object.entries(edit.pools)
      .map(([role, pool]) => valueSentence(before, 'pool', role, pool))
      .join(', ')}`,
  subjects: (edit) => Object.keys(edit.pools).map((role) => `pool:${role}` as const),
};
