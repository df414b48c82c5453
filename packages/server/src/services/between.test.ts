import type { FabricBetween, TextsBetween } from '@anthemion/contract';
import { readSwitchFolder } from '@anthemion/core';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { FIRST_PAGE } from '../store/pages.ts';
import { backupPage } from '../store/ranTexts.ts';
import { noteSwitch } from '../store/switches.ts';
import { keepText, pruneTexts } from '../store/texts.ts';
import { networkEdit, serialOf, SmallHouse } from '../testing/smallHouse.ts';

const house = new SmallHouse(['tarn']);
beforeAll(async () => {
  await house.open();
  await house.build();
  await house.toLive(await house.propose('tarn', 'Echo', networkEdit('echo', 214, [1, 2])));
  const [echo] = (await house.live('tarn')).intent.networks;
  const grown = { ...echo!, mtu: 1600 };
  await house.toLive(
    await house.propose('tarn', 'Echo grows', { kind: 'changeNetwork', name: 'echo', network: grown }),
  );
});
afterAll(() => house.close());

const between = (left: string, right: string, change: string | null = null): Promise<FabricBetween> =>
  house.house.compiler.run<'between'>({ do: 'between', fabric: 'tarn', change, left, right });
const texts = (left: string, right: string, seat: string, other = seat, change: string | null = null) =>
  house.house.compiler.run<'texts between'>({
    do: 'texts between',
    fabric: 'tarn',
    change,
    left,
    right,
    seat,
    with: other,
  });
const words = (t: TextsBetween): string[] => t.says!.map((s) => s.words);

test('two revisions: the edits between them, the switches that differ with their lines, and what those mean', async () => {
  const there = await between('revision-1', 'revision-3');
  expect(there.left).toBe('revision 1');
  expect(there.edits).toEqual([expect.stringMatching(/^Add network echo to VRF tides/)]);
  const differ = there.switches.filter((s) => s.stand === 'differs');
  expect(differ.map((s) => s.host)).toEqual(['a-lf-01', 'a-lf-02']);
  expect(differ.every((s) => s.added > 5 && s.removed < s.added)).toBe(true);
  // The other way round it is the same with the sides exchanged.
  const back = await between('revision-3', 'revision-1');
  expect(back.edits).toEqual(['Remove network echo']);
  expect(back.switches.map((s) => [s.host, s.added, s.removed])).toEqual(
    there.switches.map((s) => [s.host, s.removed, s.added]),
  );
  expect((await between('revision-3', 'live')).switches.every((s) => s.stand === 'same')).toBe(true);
  const leaf = await texts('revision-2', 'revision-3', 'leaf-1');
  expect(words(leaf).length).toBeGreaterThan(0);
  expect(words(leaf).every((w) => /^MTU of .* → 16\d\d$/.test(w))).toBe(true);
  expect(words(await texts('live', 'live', 'leaf-1'))).toEqual([]);
});

test('two switches: what each has of its own is told apart from what they differ in', async () => {
  const alike = await texts('live', 'live', 'leaf-1', 'leaf-2');
  expect(alike.says!.length).toBeGreaterThan(3);
  expect(words(alike).some((w) => w.includes('65'))).toBe(true);
  expect(alike.says!.filter((s) => !s.own)).toEqual([]);
  // One that carries another network differs in that.
  const other = await texts('live', 'live', 'leaf-1', 'leaf-3');
  const shared = other.says!.filter((s) => !s.own).map((s) => s.words);
  expect(shared).toEqual([
    'EVPN block of VNI 10001: only in a-lf-01',
    'VRF tides of BGP: only in a-lf-01',
    'The bridge: VLANs 214, 4001, MTU 1600, VXLAN interfaces 10000, 10001 → nothing',
    'VLAN interface 214: only in a-lf-01',
    'VLAN interface 4001: only in a-lf-01',
    'VRF tides: only in a-lf-01',
    'VXLAN interface 10000: only in a-lf-01',
    'VXLAN interface 10001: only in a-lf-01',
  ]);
});

test('what runs: a hand edit is a back-up of its own that no revision means, and is compared with any other', async () => {
  const serial = serialOf('tarn', 'leaf-1');
  const { db } = house.house;
  const backups = async () => (await backupPage(db, serial, FIRST_PAGE, null)).items;
  const readAgain = async (): Promise<void> => {
    const running = await keepText(db, house.fleet.at(serial).running);
    await noteSwitch(db, serial, { running, read_at: new Date().toISOString() });
  };
  const before = await backups();
  expect(before[0]!.revisions).toEqual({ first: 3, last: 3 });
  // Texts of revision 1 to 3, and what was on it before anything was ours.
  expect(before.map((b) => b.revisions?.first ?? null)).toEqual([3, 2, 1, null]);
  const { running } = house.fleet.at(serial);
  house.fleet.at(serial).running = {
    ...running,
    interfaces: running['interfaces']!.replace(/(iface vlan214\n[^]+?mtu) 1600/, '$1 1700'),
  };
  await readAgain();
  const [hand, ...rest] = await backups();
  expect(rest).toEqual(before);
  expect(hand!.revisions).toBeNull();
  const said = await texts(`kept-${hand!.id}`, 'live', 'leaf-1');
  expect(words(said)).toEqual([expect.stringMatching(/^MTU of .*: 1700 → 1600$/)]);
  expect((await between('live', 'running')).switches.filter((s) => s.stand !== 'same')).toHaveLength(1);
  expect((await between('live', 'running')).edits).toBeNull();
  // It is read once more and is the same: there is no further back-up.
  await readAgain();
  expect(await backups()).toHaveLength(before.length + 1);
  // No text of a back-up is taken for one that nobody needs, once the switch runs something else again.
  house.fleet.at(serial).running = running;
  await readAgain();
  await pruneTexts(db, 10_000);
  expect((await texts(`kept-${hand!.id}`, 'live', 'leaf-1')).left.files!['interfaces']).toContain('mtu 1700');
});

test('a seat only one moment has is said; what is no moment, or not of this fabric, is refused', async () => {
  const change = await house.propose('tarn', 'Rack', { kind: 'removeRack', number: 3 });
  const seats = (await between('live', 'meant', change)).switches;
  expect(seats.find((s) => s.seat === 'leaf-3')).toMatchObject({ stand: 'only left', added: 0 });
  // Its text is shown all the same, with nothing on the other side.
  const gone = await texts('live', 'meant', 'leaf-3', 'leaf-3', change);
  expect([gone.left.host, gone.right.host, gone.right.files, gone.says]).toEqual(['a-lf-03', 'a-lf-03', null, null]);
  expect(gone.left.files!['frr.conf']).toContain('hostname a-lf-03');
  await expect(texts('live', 'meant', 'leaf-9', 'leaf-9', change)).rejects.toThrow('seat leaf-9 in what is live');
  await house.changes.withdraw(change, await house.version(change));
  for (const moment of ['revision-9', 'yesterday', 'revision-0', 'kept-1'])
    await expect(between('live', moment)).rejects.toThrow();
  await expect(texts('kept-999999', 'live', 'leaf-1')).rejects.toThrow('back-up 999999');
});

test('all texts of a moment are a folder that can be read on its own', async () => {
  const folder = await house.house.compiler.run<'texts of'>({ do: 'texts of', fabric: 'tarn', moment: 'revision-2' });
  const read = readSwitchFolder(folder);
  if (typeof read === 'string') throw new Error(read);
  expect(read.switches.map((s) => s.host)).toHaveLength(4);
  expect(read.cables.length).toBe(3);
  // Texts of a revision that were not kept are said to be missing; an empty archive would look like a fabric of none.
  await house.house.db.deleteFrom('revision_texts').where('number', '=', 2).execute();
  const texts2 = house.house.compiler.run<'texts of'>({ do: 'texts of', fabric: 'tarn', moment: 'revision-2' });
  await expect(texts2).rejects.toThrow('none is kept');
  expect(new Set((await between('revision-2', 'live')).switches.map((s) => s.stand))).toEqual(
    new Set(['no text left']),
  );
});
