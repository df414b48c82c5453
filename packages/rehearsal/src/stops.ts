import { placeKey, type BothWays, type SwitchFolder } from '@anthemion/core';
import { rulesByLine, seesOnlyServers } from './filters.ts';
import type { Lab } from './lab.ts';

/** A line of a filter, whether the model says that it stops something of what was sent, and what its counter says. */
export interface StopSight {
  readonly host: string;
  readonly line: number;
  readonly model: boolean;
  readonly seen: 'stops packets' | 'stops none';
}

/** Watches the counters of all filters while packets are sent of which the model says where they end. */
export async function stopsBefore(
  folder: SwitchFolder,
  lab: Lab,
): Promise<{ readonly expect: (ways: BothWays) => void; readonly seen: () => Promise<StopSight[]> }> {
  const hosts = folder.switches.filter((s) => s.config.filters).map((s) => s.host);
  const countAll = async (): Promise<ReadonlyMap<string, ReadonlyMap<number, number>>> =>
    new Map(await Promise.all(hosts.map(async (h) => [h, await lab.counted(h)] as const)));
  const before = await countAll();
  const expected = new Set<string>();
  let allCertain = true;
  return {
    expect: ({ there, back }) => {
      for (const way of [there, back]) {
        if (way?.unsure) allCertain = false;
        const { host, configPlace } = way?.trouble ?? {};
        if (configPlace && !way?.unsure) expected.add(`${host} ${placeKey(configPlace)}`);
      }
    },
    seen: async () => {
      const after = await countAll();
      return folder.switches.flatMap(({ host }) => {
        const counters = after.get(host);
        if (!counters) return [];
        return [...rulesByLine(folder.files.get(host)!)].flatMap(([line, { place, rule }]): StopSight[] => {
          const counter = counters.get(line);
          if (counter === undefined) return [];
          const model = expected.has(`${host} ${placeKey(place)}`);
          // What else than servers sends something, or may, is nothing the model speaks of.
          if (!model && !(allCertain && seesOnlyServers(rule))) return [];
          const more = counter > (before.get(host)?.get(line) ?? 0);
          return [{ host, line, model, seen: more ? 'stops packets' : 'stops none' }];
        });
      });
    },
  };
}
