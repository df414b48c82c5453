import type { PoolAnswer } from '@anthemion/contract';
import { checkPool, checkServes, intervalsOf, problem, type Finding, type Pool } from '@anthemion/core';
import type { Tx } from '../store/database.ts';
import { heldOutside, heldPerPool } from '../store/ledger.ts';
import { addPool, allPools, changePool, poolOf, removePool } from '../store/pools.ts';
import { notNow, notThere, refused } from '../trouble.ts';
import { at, type House } from './house.ts';

const clean = (findings: readonly Finding[]): void => {
  if (findings.length > 0) throw refused(findings);
};
async function mustHave(tx: Tx, name: string): Promise<Pool> {
  const pool = await poolOf(tx, name);
  if (!pool) throw notThere(`pool ${name}`);
  return pool;
}

export async function poolsWithUse({ db }: House): Promise<PoolAnswer[]> {
  const held = await heldPerPool(db);
  return (await allPools(db)).map((p) => ({
    ...p,
    size: intervalsOf(p).reduce((n, r) => n + r.to - r.from + 1, 0),
    held: held.get(p.name) ?? 0,
  }));
}

export async function makePool(house: House, pool: Pool): Promise<void> {
  await house.db.transaction().execute(async (tx) => {
    const pools = await allPools(tx);
    if (pools.some((p) => p.name === pool.name))
      throw refused([problem('pool-new', '/name', `There is already a pool ${pool.name}.`, 'Choose another name.')]);
    clean([...checkPool(pool, pools), ...checkServes(pool)]);
    await addPool(tx, pool, at(house));
  });
  house.events.tell('pools', pool.name);
}

export async function putPool(house: House, pool: Pool): Promise<void> {
  await house.db.transaction().execute(async (tx) => {
    const old = await mustHave(tx, pool.name);
    if (old.kind !== pool.kind)
      throw refused([problem('pool-kind', '/kind', 'The kind of a pool stays as it is.', 'Make another pool.')]);
    clean([...checkPool(pool, await allPools(tx)), ...checkServes(pool)]);
    const left = await heldOutside(tx, pool.name, intervalsOf(pool));
    if (left)
      throw refused([
        problem(
          'pool-held',
          '/ranges/0',
          `${left.value} would be left outside; ${left.key} of ${left.fabric} holds it.`,
          'Keep a range around it.',
        ),
      ]);
    await changePool(tx, pool);
  });
  house.events.tell('pools', pool.name);
}

export async function deletePool(house: House, name: string): Promise<void> {
  await house.db.transaction().execute(async (tx) => {
    await mustHave(tx, name);
    const held = await heldOutside(tx, name, []);
    if (held)
      throw notNow(`Values of ${name} are held, ${held.value} by ${held.key} of ${held.fabric}; free them first.`);
    await removePool(tx, name);
  });
  house.events.tell('pools', name);
}
