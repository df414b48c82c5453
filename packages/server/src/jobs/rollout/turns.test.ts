import { afterEach, beforeEach, expect, test } from 'vitest';
import { serialOf, SmallHouse } from '../../testing/smallHouse.ts';

let small: SmallHouse;
beforeEach(async () => {
  small = new SmallHouse(['tarn']);
  await (await small.open()).build();
});
afterEach(() => small.close());

test('one is brought back before the next is drained, and where that fails the next is left alone', async () => {
  const [one, other] = ['leaf-1', 'leaf-2'].map((seat) => serialOf('tarn', seat)) as [string, string];
  const drained = (serial: string): boolean =>
    small.fleet.at(serial).running['frr.conf']!.includes('bgp graceful-shutdown');
  const rolled = async (title: string, ...edits: Parameters<SmallHouse['propose']>[2][]) => {
    const change = await small.propose('tarn', title, ...edits);
    await small.approve(change);
    return small.rest(await small.begin(change));
  };
  expect((await rolled('Drain one', { kind: 'drainSeat', seat: 'leaf-1' })).state).toBe('done');
  expect([one, other].map(drained)).toEqual([true, false]);
  small.fleet.journal.length = 0;
  small.fleet.at(one).faults.add('refuses');
  // Said the other way round: it is no matter of the order of edits.
  const turned = await rolled(
    'Take turns',
    { kind: 'drainSeat', seat: 'leaf-2' },
    { kind: 'bringBack', seat: 'leaf-1' },
  );
  expect(turned.waves.map((w) => w.hosts)).toEqual([['a-lf-01'], ['a-lf-02']]);
  expect(turned.state).toBe('stopped');
  expect([one, other].map(drained)).toEqual([true, false]);
  small.fleet.at(one).faults.clear();
  await small.rollouts.retry(turned.id, 'tamar');
  expect((await small.rest(turned.id)).state).toBe('done');
  expect([one, other].map(drained)).toEqual([false, true]);
  expect(small.fleet.journal).toEqual(
    [one, one, other, other].map((serial, i) => ({ serial, did: i % 2 === 0 ? 'applied' : 'confirmed' })),
  );
});
