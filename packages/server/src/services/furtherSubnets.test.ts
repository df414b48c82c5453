import type { Edit, Network } from '@anthemion/core';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { liveValues } from '../store/ledger.ts';
import { mustHold } from '../testing/invariants.ts';
import { INES, networkEdit, serialOf, SmallHouse } from '../testing/smallHouse.ts';

let small: SmallHouse;
beforeAll(async () => {
  small = await (await new SmallHouse(['tarn', 'mere']).open()).build();
  await small.toLive(await small.propose('tarn', 'A network', networkEdit('web', 101), networkEdit('store', 103)));
});
afterAll(() => small.close());

const change = async (more: Partial<Network>, name = 'web'): Promise<Edit> => {
  const network = (await small.live('tarn')).intent.networks.find((n) => n.name === name)!;
  const { subnet: _, furtherSubnets: __, ...bare } = network;
  return { kind: 'changeNetwork', name, network: { ...bare, ...more } };
};
const held = async (name = 'web'): Promise<Record<string, string>> =>
  Object.fromEntries([...(await liveValues(small.house.db, 'tarn'))].filter(([k]) => k.startsWith(`network:${name}/`)));
/** Addresses of the gateway that runs on a leaf. */
const running = (): string[] =>
  [
    .../iface vlan101\n((?: .*\n)*)/
      .exec(small.fleet.at(serialOf('tarn', 'leaf-1')).running['interfaces']!)![1]!
      .matchAll(/^ {4}address (\S+)$/gm),
  ].map((m) => m[1]!);
const gateway = (subnet: string): string => subnet.replace('.0/', '.1/');

test('a network is numbered anew in steps: both gateways, then the new one; what it held goes back to its pool when nobody needs it', async () => {
  const old = (await held())['network:web/subnet']!;
  const [a, b] = old
    .split(/\.0\/24$/)[0]!
    .match(/^(.*\.)(\d+)$/)!
    .slice(1) as [string, string];
  const next = `${a}${Number(b) + 7}.0/24`;

  // Both: the new one first, what was drawn is kept beside it.
  const both = await small.propose('tarn', 'Both', await change({ subnet: next, furtherSubnets: [old] }));
  expect((await small.changes.answer(both)).proof!.findings).toEqual([]);
  await mustHold(small.house.db);
  // Nobody else gets either meanwhile.
  const mere = await small.propose('mere', 'Wants it', networkEdit('far', 105));
  for (const wanted of [old, next]) {
    const edit: Edit = {
      kind: 'addNetwork',
      network: { name: 'thief', vrf: 'tides', vlan: 107, subnetLength: 24, racks: [1], subnet: wanted },
    };
    await small.changes.addEdits(mere, [edit], INES);
    const { proof, steps, version } = await small.changes.answer(mere);
    expect(proof!.findings).toMatchObject([{ rule: 'value-taken', severity: 'error' }]);
    await small.changes.undoEdit(mere, steps.at(-1)!.position, INES, version);
  }
  await small.toLive(both);
  await mustHold(small.house.db);
  expect(running()).toEqual([gateway(next), gateway(old)]);
  expect(Object.values(await held()).sort()).toEqual(expect.arrayContaining([next, old]));

  // A way back: the old one first again, in an open change that is withdrawn, holds nothing after it.
  const back = await small.propose('tarn', 'Back', await change({ subnet: old, furtherSubnets: [next] }));
  expect((await small.changes.answer(back)).proof!.findings).toEqual([]);
  await small.changes.withdraw(back, await small.version(back));
  await mustHold(small.house.db);

  await small.toLive(await small.propose('tarn', 'The new one', await change({ subnet: next })));
  await mustHold(small.house.db);
  expect(running()).toEqual([gateway(next)]);
  expect(await held()).toMatchObject({ 'network:web/subnet': next });
  expect(Object.values(await held())).not.toContain(old);
  const taker = await small.propose('mere', 'Gets it', {
    kind: 'addNetwork',
    network: { name: 'heir', vrf: 'tides', vlan: 109, subnetLength: 24, racks: [1], subnet: old },
  });
  expect((await small.changes.answer(taker)).proof!.findings).toEqual([]);
});
