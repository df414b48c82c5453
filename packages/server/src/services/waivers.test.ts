import type { ProofReport } from '@anthemion/core';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { INES, SmallHouse } from '../testing/smallHouse.ts';

const house = new SmallHouse(['tarn']);
/** Days the clock is set forward. */
let ahead = 0;
const DAY_MS = 86_400_000;
const dayIn = (days: number): string => new Date(Date.now() + days * DAY_MS).toISOString().slice(0, 10);
beforeAll(async () => {
  await house.open();
  Object.assign(house.house, { now: () => new Date(Date.now() + ahead * DAY_MS) });
  await house.build();
});
afterAll(() => house.close());

const proofOf = async (change: string): Promise<ProofReport> => (await house.changes.answer(change)).proof!;
const version = async (change: string): Promise<number> => (await house.changes.answer(change)).version;

test('a waiver is of who makes the edit; a proof that rests on it holds to its last day, for the yes and for the rollout', async () => {
  const change = await house.propose('tarn', 'Wide frames', {
    kind: 'addNetwork',
    network: { name: 'wide', vrf: 'tides', vlan: 215, subnetLength: 24, racks: [1], mtu: 9300 },
  });
  expect(await house.stateOf(change)).toBe('Drafting');
  const rules = [...new Set((await proofOf(change)).findings.flatMap((f) => (f.severity === 'error' ? [f.rule] : [])))];
  const waive = (until: string) =>
    rules.map((rule) => ({ kind: 'putWaiver', waiver: { rule, until, reason: 'Until May', by: 'somebody' } }) as const);
  await house.changes.addEdits(change, waive(dayIn(2)), INES);
  expect(await house.stateOf(change)).toBe('Proven');
  expect((await proofOf(change)).findings.find((f) => f.rule === rules[0])!.waived).toEqual({
    by: 'ines',
    reason: 'Until May',
    until: dayIn(2),
  });

  ahead = 3;
  await expect(house.approve(change)).rejects.toThrow(`ended with ${dayIn(2)}: prove the change again`);
  await house.changes.prove(change, await version(change));
  expect(await house.stateOf(change)).toBe('Drafting');

  await house.changes.addEdits(change, waive(dayIn(5)), INES);
  await house.approve(change);
  ahead = 6;
  await expect(house.begin(change)).rejects.toThrow(`ended with ${dayIn(5)}`);
  expect(await house.stateOf(change)).toBe('Approved');
  ahead = 4;
  const { state } = await house.rest(await house.begin(change));
  expect(state).toBe('done');
  expect((await house.live('tarn')).intent.waivers.map((w) => [w.rule, w.by])).toEqual(
    [...rules].sort().map((r) => [r, 'ines']),
  );
});
