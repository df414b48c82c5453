import { afterAll, beforeAll, expect, test } from 'vitest';
import { layOut } from '@anthemion/core';
import { addPool, removePool } from '../store/pools.ts';
import { intentAt, liveRevision } from '../store/fabrics.ts';
import { liveValues } from '../store/ledger.ts';
import { INES, networkEdit, serialOf, SmallHouse } from '../testing/smallHouse.ts';
import { find, Finding } from './finding.ts';

const house = new SmallHouse(['tarn', 'fell']);
let finding: Finding;
beforeAll(async () => {
  await house.open();
  await house.build();
  finding = new Finding(house.house);
  finding.catchUp();
  await finding.rest();
});
afterAll(async () => {
  await finding.stop();
  await house.close();
});
const found = async (text: string, { near = '', sight = null as readonly string[] | null } = {}) =>
  (await find(house.house, text, near, sight)).found.map((f) => `${f.fabric}/${f.subject}`);

test('everything in every fabric: by name, serial, number, address, wherever the words stand', async () => {
  expect(await found('tides')).toEqual(['fell/vrf:tides', 'tarn/vrf:tides']);
  expect(await found('tides', { near: 'tarn' })).toEqual(['tarn/vrf:tides', 'fell/vrf:tides']);
  expect(await found('TIDES fell')).toEqual(['fell/vrf:tides']);
  // Two letters and more: of what begins so; within words from three on.
  expect(await found('ra')).toContain('tarn/rack:1');
  expect(await found('rack 2')).toEqual(['fell/rack:2', 'tarn/rack:2', ...(await found('rack 2')).slice(2)]);
  const serial = serialOf('tarn', 'leaf-2');
  expect((await found(serial)).slice(0, 2).sort()).toEqual(['/switch:' + serial, 'tarn/seat:leaf-2']);
  expect(await found(serial.slice(1, -1))).toContain('tarn/seat:leaf-2');
  const { db } = house.house;
  for (const [key, value] of await liveValues(db, 'tarn')) {
    const text = value.replace(/\/32$/, '');
    const best = (await find(house.house, text, 'tarn', null)).found.filter((f) => f.fabric === 'tarn');
    expect(best[0]!.why.endsWith(` ${text}`), `${key} ${value}`).toBe(true);
  }
  const seats = layOut(await intentAt(db, 'tarn', await liveRevision(db, 'tarn'))).seats;
  for (const { host, id } of seats) expect((await found(host, { near: 'tarn' }))[0]).toBe(`tarn/seat:${id}`);
  for (const odd of ['"', '""" OR', '*', 'a AND', "'; drop table findables", '%', '￿', '/', '::', '10.0.0.0/99', ' '])
    expect(await found(odd)).toEqual([]);
});

test('nothing of a fabric that is not seen, nor its switches and changes', async () => {
  const serial = serialOf('tarn', 'leaf-2');
  expect(await found('tides', { sight: ['fell'] })).toEqual(['fell/vrf:tides']);
  expect(await found(serial, { sight: ['fell'] })).toEqual([]);
  expect(await found('SPARE-1', { sight: ['fell'] })).toEqual(['/switch:SPARE-1']);
  expect((await found('Build', { sight: ['fell'] })).map((f) => f.slice(0, 12))).toEqual(['fell/change:']);
});

test('what goes live is found, and what went is not; a start that missed it catches up', async () => {
  await finding.stop();
  const change = await house.changes.open({ fabric: 'tarn', title: 'Echoes', reason: '', ticket: 'T-17' }, INES, [
    networkEdit('echo', 214, [1, 2]),
  ]);
  expect(await found('echo')).toEqual([`tarn/change:${change}`]);
  expect(await found('T-17')).toEqual([`tarn/change:${change}`]);
  await house.toLive(change);
  expect(await find(house.house, '214', '', null)).toMatchObject({ found: [], behind: ['tarn'] });
  finding = new Finding(house.house);
  finding.catchUp();
  await finding.rest();
  const { found: now, behind } = await find(house.house, '214', '', null);
  expect([now.map((f) => [f.subject, f.why]), behind]).toEqual([[['network:echo', 'VLAN 214']], []]);
  const subnet = (await liveValues(house.house.db, 'tarn')).get('network:echo/subnet')!;
  expect((await find(house.house, subnet.replace('0/24', '77'), '', null)).found[0]).toMatchObject({
    subject: 'network:echo',
    why: `subnet ${subnet}`,
  });
  const back = await house.changes.open({ fabric: 'tarn', title: 'No more', reason: '', ticket: '' }, INES, [
    { kind: 'removeNetwork', name: 'echo' },
  ]);
  await house.toLive(back);
  // It is told, and written by itself.
  for (let i = 0; i < 200 && (await found('network echo')).length > 0; i++) await finding.rest();
  expect(await found('network echo')).toEqual([]);
  expect((await find(house.house, 'x', '', null)).behind).toEqual([]);
});

test('pools and switches as they come and go', async () => {
  const { db } = house.house;
  await addPool(db, { name: 'far-side', kind: 'vni', ranges: ['88000-88999'] }, '');
  expect(await found('far-side')).toEqual(['/pool:far-side']);
  expect(await found('88000-88999')).toEqual(['/pool:far-side']);
  await removePool(db, 'far-side');
  expect(await found('far-side')).toEqual([]);
  await db.updateTable('switches').set({ location: 'attic of the mill' }).where('serial', '=', 'SPARE-2').execute();
  expect(await found('attic')).toEqual(['/switch:SPARE-2']);
});
