import { afterEach, beforeEach, expect, test } from 'vitest';
import { serialOf, SmallHouse, SPARES } from '../../testing/smallHouse.ts';

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

test('whatever may fail, nobody is drained while another that carries what he does is not brought back; nor when it is undone', async () => {
  const [one, other] = [serialOf('tarn', 'spine-1'), SPARES[0]!];
  const drained = (): boolean[] =>
    [one, other].map((serial) => small.fleet.at(serial).running['frr.conf']!.includes('bgp graceful-shutdown'));
  const begun = async (title: string, ...edits: Parameters<SmallHouse['propose']>[2][]) => {
    const change = await small.propose('tarn', title, ...edits);
    await small.approve(change);
    return small.rest(await small.begin(change, { stopLine: 3 }));
  };
  const grown = await begun(
    'Another spine',
    { kind: 'setSpines', count: 2 },
    { kind: 'takeSeat', seat: 'spine-2', serial: other },
    { kind: 'drainSeat', seat: 'spine-1' },
  );
  expect([grown.state, grown.reason]).toEqual(['done', '']);
  expect(drained()).toEqual([true, false]);
  small.fleet.at(one).faults.add('refuses');
  const turned = await begun(
    'Take turns',
    { kind: 'bringBack', seat: 'spine-1' },
    { kind: 'drainSeat', seat: 'spine-2' },
  );
  expect(turned.switches.map((s) => [s.host, s.outcome])).toEqual([
    ['a-sp-01', 'refused, untouched'],
    ['a-sp-02', 'waits'],
  ]);
  expect([turned.state, drained()]).toEqual(['stopped', [true, false]]);
  const { items } = await small.rollouts.log(turned.id, 'a-sp-02', { after: null, limit: 50 });
  expect(items.map((l) => l.text)).toContain('left alone: a-sp-01, which carries what it does, is not as meant');
  small.fleet.at(one).faults.clear();
  // The second fails by itself; it is undone, and the first is drained again: it waits for nobody who was never touched.
  small.fleet.at(other).faults.add('refuses');
  await small.rollouts.retry(turned.id, 'tamar');
  expect([(await small.rest(turned.id)).state, drained()]).toEqual(['stopped', [false, false]]);
  const undone = await small.rest(await small.rollouts.undo(turned.id, 'tamar'));
  expect([undone.state, drained()]).toEqual(['done', [true, false]]);
});
