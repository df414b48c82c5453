import { performance } from 'node:perf_hooks';
import { find, Finding } from '../../services/finding.ts';
import type { House } from '../../services/house.ts';
import { liveValues } from '../../store/ledger.ts';

const cpuOf = async (work: () => Promise<unknown>): Promise<number> => {
  const before = process.cpuUsage();
  await work();
  const { user, system } = process.cpuUsage(before);
  return (user + system) / 1000;
};

/** What it costs to find something in all fabrics of a store, a keystroke, in ms of CPU; and to write what is found. */
export async function findFigures(house: House): Promise<{
  readonly keystrokes: readonly number[];
  readonly words: number;
  readonly written: number;
  readonly blocked: number;
}> {
  const finding = new Finding(house);
  const before = performance.eventLoopUtilization();
  const written = await cpuOf(async () => {
    finding.catchUp();
    await finding.rest();
  });
  const blocked = performance.eventLoopUtilization(before).active;
  await finding.stop();
  const values = await liveValues(house.db, 'fabric-7');
  const subnet = values.get('network:net-5/subnet')!;
  const sought = [
    'f11-lf-0417',
    'rack 700',
    'net-42',
    'fabric-3 tides',
    'leaf-9',
    'vlan 142',
    `${subnet.slice(0, subnet.lastIndexOf('.'))}.9`,
    values.get('leaf-77/loopback')!.replace(/\/32$/, ''),
    values.get('leaf-77/asn')!,
    values.get('network:net-5/vni')!,
    'no such thing',
  ];
  const keystrokes: number[] = [];
  for (const text of sought)
    for (let n = 1; n <= text.length; n++)
      keystrokes.push(await cpuOf(() => find(house, text.slice(0, n), 'fabric-3', null)));
  return { keystrokes, words: sought.length, written, blocked };
}
