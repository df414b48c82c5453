import fc from 'fast-check';
import { expect, test } from 'vitest';
import { skerryIntent } from '../demo/skerry.ts';
import { configsOf, intents } from '../testing/fabricOf.ts';
import { configDifferences, sayDifference } from './differences.ts';
import type { SwitchConfig } from './switchConfig.ts';

const leaf = configsOf(skerryIntent()).configs.get('leaf-7a')!;
const spoken = (runs: SwitchConfig): string[] => configDifferences(leaf, runs).map(sayDifference);

test('a configuration does not differ from itself, and two that differ are told apart at every place', () => {
  fc.assert(
    fc.property(intents, (intent) => {
      const all = [...configsOf(intent).configs.values()];
      for (const a of all) expect(configDifferences(a, structuredClone(a))).toEqual([]);
      const [a, b] = [all[0]!, all.at(-1)!];
      const there = configDifferences(a, b);
      if (a !== b) expect(there.length).toBeGreaterThan(0);
      // The other way round it is the same places with the two sides exchanged.
      const back = configDifferences(b, a).map(({ place, meant, runs }) => ({ place, meant: runs, runs: meant }));
      expect(there).toEqual(back);
    }),
    { numRuns: 25 },
  );
});

test('what was done by hand is said in words of the trade', () => {
  const server = leaf.ports.find((p) => p.bridging ?? leaf.lags.some((l) => l.members.includes(p.name)))!;
  const port = (set: object): SwitchConfig => ({
    ...leaf,
    ports: leaf.ports.map((p) => (p === server ? { ...p, ...set } : p)),
  });
  expect(spoken(port({ shut: true }))).toEqual([`${server.name} is shut by hand, meant open`]);
  expect(spoken(port({ mtu: 1600 }))).toEqual([`MTU of port ${server.name}: runs 1600, meant ${server.mtu}`]);
  expect(spoken({ ...leaf, ports: leaf.ports.filter((p) => p !== server) })).toEqual([
    `Port ${server.name} is missing`,
  ]);
  expect(
    spoken({
      ...leaf,
      bgp: {
        ...leaf.bgp!,
        peers: leaf.bgp!.peers.map((p) => (p.kind === 'group' ? { ...p, hold: 30 } : p)),
      },
    }),
  ).toEqual(['Hold time of BGP neighbour FABRIC: runs 30, meant 9']);
});
