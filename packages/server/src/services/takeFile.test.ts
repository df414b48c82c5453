import type { TakenFileAnswer } from '@anthemion/contract';
import type { Finding } from '@anthemion/core';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { intentAt, liveRevision } from '../store/fabrics.ts';
import { Trouble } from '../trouble.ts';
import { INES, networkEdit, SmallHouse } from '../testing/smallHouse.ts';
import { takeFile } from './fabrics.ts';

const house = new SmallHouse(['tarn']);
beforeAll(async () => {
  await house.open();
  await house.build();
  const change = await house.propose('tarn', 'Networks', networkEdit('echo', 214, [1, 2]), networkEdit('lamp', 215));
  await house.toLive(change);
});
afterAll(() => house.close());

const file = (): Promise<string> =>
  house.house.compiler
    .run<'intent file'>({ do: 'intent file', fabric: 'tarn', change: null })
    .then((bytes) => Buffer.from(bytes).toString('utf8'));
const take = (text: string, title = ''): Promise<TakenFileAnswer> =>
  takeFile(house.house, house.changes, 'tarn', { text, title }, INES);
const refusals = async (text: string): Promise<readonly Finding[]> => {
  const error: unknown = await take(text).catch((e: unknown) => e);
  if (!(error instanceof Trouble)) throw new Error('it was taken');
  return error.findings;
};
const live = async () => intentAt(house.house.db, 'tarn', await liveRevision(house.house.db, 'tarn'));

test('what was written out and changed comes in as the change it is, and goes live as the file says', async () => {
  const before = await live();
  const text = (await file()).replace(/name: echo\n(\s+)vrf: tides/, 'name: echo\n$1mtu: 1500\n$1vrf: tides');
  const { change, edits } = await take(text);
  expect(edits).toEqual(['MTU of network echo default → 1500']);
  expect((await house.changes.answer(change)).title).toBe('tarn as its file says');
  await house.toLive(change);
  const after = await live();
  expect(after).toEqual({
    ...before,
    networks: before.networks.map((n) => (n.name === 'echo' ? { ...n, mtu: 1500 } : n)),
  });
  expect((await refusals(text)).map((f) => f.message)).toEqual(['The file says what is live: nothing would change.']);
});

test('what it does not say any more goes, what it says besides comes', async () => {
  const text = (await file()).replace('name: lamp', 'name: lantern');
  const { change, edits } = await take(text, 'Lanterns');
  expect(edits.join('; ')).toMatch(/Remove network lamp/);
  expect(edits.join('; ')).toMatch(/Add network lantern to VRF tides/);
  expect((await house.changes.answer(change)).title).toBe('Lanterns');
  await house.changes.withdraw(change, await house.version(change));
});

test('what cannot be is refused at its line, and no change is opened', async () => {
  const open = async () => (await house.house.db.selectFrom('changes').select('id').execute()).length;
  const [text, count] = [await file(), await open()];
  const vlan = text.split('\n').findIndex((l) => l.includes('vlan: 214')) + 1;
  expect((await refusals(text.replace('vlan: 214', 'vlan: 4999'))).map((f) => [f.path, f.message])).toEqual([
    [`/text/${vlan}`, expect.stringMatching(new RegExp(`^Line ${vlan}: .*4094`))],
  ]);
  expect((await refusals(text.replace('vlan: 214', 'vlan: 215')))[0]!.message).toMatch(/^Line \d+: VLAN 215 is /);
  expect((await refusals(text.replace(/name: tarn\n/, 'name: fell\n')))[0]!.message).toMatch(
    /^The file is of fell with switches named a-…; this is tarn/,
  );
  expect((await refusals('anthemion: [')).map((f) => f.path)).toEqual(['/text/1']);
  expect((await refusals('no intent'))[0]!.message).toBe('The file holds no intent.');
  expect(await open()).toBe(count);
});
