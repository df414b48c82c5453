import type { PoolAnswer } from '@anthemion/contract';
import { POOL_ROLES, suitsRole, type Edit, type PoolRoles } from '@anthemion/core';
import { Fragment, useState } from 'react';
import { Link } from 'react-router';
import { Button, Cap, Facts, Faded, Stack } from '../../parts/basics.tsx';
import { Choice } from '../../parts/fields.tsx';
import { ROLE_TITLES } from '../../parts/poolRoles.ts';

const freeOf = (pool: PoolAnswer): string => `${pool.size - pool.held} of ${pool.size} free`;

interface Props {
  readonly chosen: PoolRoles;
  readonly pools: readonly PoolAnswer[];
  /** Absent = who looks may not choose. */
  readonly onEdit: ((edit: Edit) => void) | null;
}

/** Which pool each kind of value is drawn from, and how much it has left; chosen anew behind a button. */
export function DrawnFrom({ chosen, pools, onEdit }: Props) {
  const [choosing, setChoosing] = useState(false);
  if (choosing && onEdit)
    return (
      <Stack>
        <Cap>Drawn from</Cap>
        {POOL_ROLES.map((role) => (
          <Choice
            key={role}
            label={ROLE_TITLES[role]}
            value={chosen[role]}
            onChange={(name) => name !== chosen[role] && onEdit({ kind: 'choosePools', pools: { [role]: name } })}
            options={pools
              .filter((p) => suitsRole(p, role))
              .map((p) => ({ id: p.name, name: p.name, note: freeOf(p) }))}
            placeholder="None chosen"
          />
        ))}
        <div>
          <Button onPress={() => setChoosing(false)}>Done</Button>
        </div>
      </Stack>
    );
  return (
    <>
      <Cap>Drawn from</Cap>
      <Facts>
        {POOL_ROLES.map((role) => {
          const pool = pools.find((p) => p.name === chosen[role]);
          return (
            <Fragment key={role}>
              <dt>{ROLE_TITLES[role]}</dt>
              <dd>
                {chosen[role] ? <Link to={`/pools/${chosen[role]}`}>{chosen[role]}</Link> : <Faded>none chosen</Faded>}
                {/* Its line is there before pools are: what stands below must not move away from who is about to press it. */}
                {chosen[role] && (
                  <Faded as="div" style={{ whiteSpace: 'nowrap' }}>
                    {pool ? `${(pool.size - pool.held).toLocaleString('en')} free` : '\u00a0'}
                  </Faded>
                )}
              </dd>
            </Fragment>
          );
        })}
      </Facts>
      {onEdit && (
        <div>
          <Button onPress={() => setChoosing(true)}>Choose pools …</Button>
        </div>
      )}
    </>
  );
}
