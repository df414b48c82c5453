import { POOL_ROLE_LABELS } from '../collections/whole.ts';
import type { PoolRoles } from '../intent.ts';
import { poolRolesSchema } from '../schemas/objects.ts';
import { done, editFields, type EditKindOf } from './edit.ts';

const MOST_SAID = 3;

export interface ChoosePools {
  readonly kind: 'choosePools';
  readonly pools: Partial<PoolRoles>;
}

export const choosePools: EditKindOf<ChoosePools> = {
  kind: 'choosePools',
  schema: editFields('choosePools', { pools: poolRolesSchema }),
  apply: (intent, edit) => done({ ...intent, pools: { ...intent.pools, ...edit.pools } }),
  sentence: (edit, before) => {
    const said = (Object.entries(edit.pools) as [keyof PoolRoles, string][]).map(([role, pool]) => {
      const was = before?.pools[role] ?? '';
      const from = `${POOL_ROLE_LABELS[role]} from ${pool || 'no pool'}`;
      return was === '' || was === pool ? from : `${from} (so far ${was})`;
    });
    const more = said.length > MOST_SAID ? ` and ${said.length - MOST_SAID} more` : '';
    return `Draw ${said.slice(0, MOST_SAID).join(', ')}${more}`;
  },
  subjects: (edit) => Object.keys(edit.pools).map((role) => `pool:${role}` as const),
  makes: { of: 'pool', patch: (pools) => ({ kind: 'choosePools', pools }) },
};
