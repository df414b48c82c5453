import type { Edit } from '@anthemion/core';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { buildEdits, INES, SmallHouse } from '../testing/smallHouse.ts';
import { beginFabric, removeFabric } from './fabrics.ts';

const house = new SmallHouse(['tarn']);
beforeAll(async () => {
  await house.open();
  await house.build();
});
afterAll(() => house.close());

const counts = async (): Promise<Record<string, number>> => {
  const out: Record<string, number> = {};
  for (const table of ['fabrics', 'changes', 'edits', 'ledger', 'seat_claims', 'findables'] as const)
    out[table] = (await house.house.db.selectFrom(table).selectAll().execute()).length;
  return out;
};

test('a fabric that never went live is forgotten with its changes, and what they held is free for the next', async () => {
  const before = await counts();
  const edits: Edit[] = buildEdits('fell').filter((e) => e.kind !== 'takeSeat');
  edits.push({ kind: 'takeSeat', seat: 'leaf-1', serial: 'SPARE-1' });
  const begin = async (): Promise<string> => {
    const { change } = await beginFabric(house.house, { name: 'fell', namePrefix: 'f', title: '' }, INES);
    await house.changes.addEdits(change, edits, INES);
    return change;
  };
  const first = await begin();
  const drawnBy = async (change: string) =>
    (await house.changes.answer(change)).drawn.map(({ key, value }) => [key, value]);
  const drawn = await drawnBy(first);
  expect(drawn.length).toBeGreaterThan(5);
  expect(await counts()).not.toEqual(before);
  await removeFabric(house.house, 'fell');
  expect(await counts()).toEqual(before);
  // The same values and the same switch again.
  expect(await drawnBy(await begin())).toEqual(drawn);
  await removeFabric(house.house, 'fell');
  await expect(removeFabric(house.house, 'fell')).rejects.toThrow('fell');
});

test('one that was live, and one somebody is bound to, stays', async () => {
  const before = await counts();
  await expect(removeFabric(house.house, 'tarn')).rejects.toThrow('tarn has been live');
  await beginFabric(house.house, { name: 'fell', namePrefix: 'f', title: '' }, INES);
  await house.house.db
    .insertInto('users')
    .values({
      name: 'olu',
      full_name: 'Olu',
      roles: '[]',
      admin: 0,
      salt: '',
      hash: '',
      created_at: '',
      bound: JSON.stringify({ fell: ['onlooker'] }),
    })
    .execute();
  await expect(removeFabric(house.house, 'fell')).rejects.toThrow('account olu is bound to it');
  expect((await counts())['fabrics']).toBe(before['fabrics']! + 1);
});
