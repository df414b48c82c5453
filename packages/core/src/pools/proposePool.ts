import { problem, type Finding } from '../finding.ts';
import { POOL_ROLE_LABELS } from '../intent/collections/whole.ts';
import type { PoolRole } from '../intent/intent.ts';
import { kindOfRole, suitsRole } from './demands.ts';
import type { Pool } from './pool.ts';

/** A word that pools for each kind of value often have in their name. */
const HINTS: Readonly<Record<PoolRole, string>> = {
  spineAsn: 'spine',
  leafAsn: 'leaf',
  loopback: 'loopback',
  vtep: 'vtep',
  link: 'link',
  vni: 'overlay',
  subnet: 'tenant',
  subnet6: 'tenant',
  loopback6: 'loopback',
  link6: 'link',
};
export const POOL_ROLES = Object.keys(HINTS) as readonly PoolRole[];

/** A pool that is proposed, and why that one; an empty name = none is. */
export interface ProposedPool {
  readonly pool: string;
  readonly why: string;
}

/**
 * Of the pools that have what is drawn for a role: one that says it is for that before one that says nothing, never one that
 * is for other things. Among them one whose name says what it is for, and one that is named for this fabric before one
 * named for none, and that before one named for another fabric.
 * @param others names of the other fabrics
 */
export function proposePool(
  pools: readonly Pool[],
  role: PoolRole,
  fabric: string,
  others: readonly string[],
): ProposedPool {
  const fit = pools
    .filter((p) => suitsRole(p, role) && (p.serves?.includes(role) ?? true))
    .map(({ name, serves }) => {
      const other = others.find((o) => name.includes(o));
      const rank = name.includes(fabric) ? 2 : other === undefined ? 1 : 0;
      return { name, other, rank, serves: serves !== undefined, hints: name.includes(HINTS[role]) };
    });
  const [best] = fit.toSorted(
    (a, b) => Number(b.serves) - Number(a.serves) || Number(b.hints) - Number(a.hints) || b.rank - a.rank,
  );
  if (!best) return { pool: '', why: '' };
  return { pool: best.name, why: whyOf(best) };
}

function whyOf(best: {
  readonly rank: number;
  readonly other: string | undefined;
  readonly serves: boolean;
  readonly hints: boolean;
}): string {
  if (best.rank === 2) return 'named for this fabric';
  if (best.other !== undefined) return `named for ${best.other}: is it meant for both?`;
  if (best.serves) return 'it says that it is for these';
  return best.hints ? 'proposed by its name' : 'the first of this kind: is it meant for these?';
}

/** What a pool cannot be for: values of another kind, or of a length that it has not. */
export function checkServes(pool: Pool): Finding[] {
  return (pool.serves ?? []).flatMap((role, i) =>
    suitsRole(pool, role)
      ? []
      : problem(
          'pool-serves',
          `/serves/${i}`,
          kindOfRole(role) === pool.kind
            ? `Its ranges hold nothing of the length that is drawn for ${POOL_ROLE_LABELS[role]}.`
            : `It does not hold what is drawn for ${POOL_ROLE_LABELS[role]}.`,
          'Take that away, or make another pool for it.',
        ),
  );
}
