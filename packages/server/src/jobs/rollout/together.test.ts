import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { togetherAsked } from '../../services/refusals.ts';
import { mustHold } from '../../testing/invariants.ts';
import { serialOf, SmallHouse } from '../../testing/smallHouse.ts';

const SEATS = ['leaf-1', 'leaf-2', 'leaf-3', 'spine-1'];
const serials = SEATS.map((s) => serialOf('tarn', s));

let small: SmallHouse;
const runs = (): Record<string, string>[] => serials.map((s) => ({ ...small.fleet.at(s).running }));
/** A change that both ends of every session must share. */
async function numbered(): Promise<string> {
  const { underlay } = (await small.live('tarn')).intent.settings;
  const change = await small.propose('tarn', 'Links get addresses', {
    kind: 'changeSettings',
    settings: { underlay: underlay === 'numbered' ? 'unnumbered' : 'numbered' },
  });
  await small.approve(change);
  return change;
}
const did = (): string[] => small.fleet.journal.map((j) => j.did);

beforeEach(async () => {
  small = new SmallHouse(['tarn']);
  small.fleet.secondsLeft = 60;
  await (await small.open()).build();
  small.fleet.journal.length = 0;
});
afterEach(() => small.close());

describe('a change that both ends of sessions must share', () => {
  test('is not begun unasked, and what is asked for says with whom', async () => {
    const change = await numbered();
    const refused = small.begin(change);
    await expect(refused).rejects.toMatchObject({ findings: [{ path: '/together', rule: 'together' }] });
    await expect(refused).rejects.toThrow(/4 switches have to be sent to together/);
    expect(await small.stateOf(change)).toBe('Approved');
    expect(did()).toEqual([]);
  });

  test('by halves it is begun unasked, but not where a session is not seen up that would carry it', () => {
    const carried = [{ name: 'Together', why: '', hosts: ['a', 'b'], together: true, carried: true }] as const;
    const wave = [{ name: 'Together', why: '', hosts: ['a', 'b'], together: true }] as const;
    const begun =
      (...asked: Parameters<typeof togetherAsked>) =>
      () =>
        togetherAsked(...asked);
    expect(begun(carried, false, true)).not.toThrow();
    expect(begun(carried, false, false)).toThrow(/not all others are seen up that would carry the fabric/);
    expect(begun(carried, true, false)).not.toThrow();
    expect(begun(wave, false, true)).toThrow(/2 switches have to be sent to together \(a, b\)/);
  });

  test('is loaded by all before anybody is confirmed', async () => {
    const before = runs();
    const change = await numbered();
    const rollout = await small.begin(change, { together: true });
    const rest = await small.rest(rollout);
    expect(rest.waves.map((w) => [w.name, w.together, w.hosts.length])).toEqual([['Together', true, 4]]);
    expect(rest.switches.map((s) => s.outcome)).toEqual(Array(4).fill('as meant'));
    expect(did()).toEqual([...Array<string>(4).fill('applied'), ...Array<string>(4).fill('confirmed')]);
    expect(rest.state).toBe('done');
    runs().forEach((text, i) => expect(text).not.toEqual(before[i]));
  });

  test.each([
    ['refuses', [], 'refused, untouched'],
    ['unreachable', [], 'refused, untouched'],
    ['never settles', ['applied', 'went back'], 'went back'],
  ] as const)('one that %s: nobody has it; mended, all get it', async (fault, each, outcome) => {
    const before = runs();
    const change = await numbered();
    const odd = small.fleet.at(serialOf('tarn', 'leaf-2'));
    odd.faults.add(fault);
    small.pace = { ...small.pace, confirmMargin: 59_500 };
    await small.crash();
    await small.open();
    const rollout = await small.begin(change, { together: true });
    const stopped = await small.rest(rollout);
    expect(stopped.state).toBe('stopped');
    expect(stopped.switches.map((s) => s.outcome)).toEqual(Array(4).fill(outcome));
    expect(stopped.switches.filter((s) => /changes together with a-lf-02/.test(s.message))).toHaveLength(3);
    expect(runs()).toEqual(before);
    expect(did().sort()).toEqual(each.flatMap((w) => Array<string>(4).fill(w)));
    odd.faults.clear();
    await small.rollouts.retry(rollout, 'tamar');
    expect((await small.rest(rollout)).state).toBe('done');
    runs().forEach((text, i) => expect(text).not.toEqual(before[i]));
  });

  test('one that is lost after all had settled: the others keep it, and it says so; an undo takes those back, and a new begin brings all', async () => {
    const before = runs();
    const change = await numbered();
    const odd = small.fleet.at(serialOf('tarn', 'leaf-2'));
    odd.faults.add('refuses to confirm');
    const rollout = await small.begin(change, { together: true, undoSeconds: 1 });
    const stopped = await small.rest(rollout);
    expect([stopped.state, stopped.switches.map((s) => s.outcome)]).toEqual([
      'stopped',
      ['as meant', 'went back', 'as meant', 'as meant'],
    ]);
    const undone = await small.rest(await small.rollouts.undo(rollout, 'tamar'));
    expect([undone.state, undone.waves.map((w) => [w.together, w.hosts.length])]).toEqual(['done', [[true, 3]]]);
    expect(runs()).toEqual(before);
    odd.faults.clear();
    expect((await small.rest(await small.begin(change, { together: true }))).state).toBe('done');
  });

  test('killed at any moment, again and again: all end with the new text or all with the old, and none is loaded twice', async () => {
    for (let kills = 0; kills < 40; kills++) {
      const before = runs();
      const change = await numbered();
      const rollout = await small.begin(change, { together: true });
      const steps = kills * 3;
      for (let i = 0; i < steps; i++) await new Promise((done) => setImmediate(done));
      await small.crash();
      await small.open();
      const rest = await small.rest(rollout);
      const now = runs();
      if (rest.state === 'done') now.forEach((text, i) => expect(text, `kill ${kills}`).not.toEqual(before[i]));
      else {
        expect(now, `kill ${kills}`).toEqual(before);
        await small.rollouts.retry(rollout, 'tamar');
        expect((await small.rest(rollout)).state).toBe('done');
      }
      for (const s of serials) {
        const { applied } = small.fleet.at(s);
        expect(new Set(applied).size).toBe(applied.length);
      }
      await mustHold(small.house.db);
    }
  });
});
