import { found, type DesignRule } from '../rule.ts';

export const loopGuarded: DesignRule = {
  id: 'loop-guarded',
  title: 'No loop of bridges without spanning tree',
  severity: 'error',
  scope: 'network',
  source: 'IEEE 802.1D: a broadcast in such a loop never ends',
  reads: ['bridge', 'trunks'],
  judge: ({ trunks, views }) => {
    // A switch that takes part in a spanning tree hears itself in a loop and closes a port; so only loops without one count.
    const plain = (host: string): boolean => views.get(host)?.config.bridge?.spanningTree === undefined;
    const above = new Map<string, string>();
    const top = (host: string): string => {
      const up = above.get(host);
      return up === undefined ? host : top(up);
    };
    return trunks.flatMap(({ a, b }) => {
      if (!plain(a.host) || !plain(b.host)) return [];
      const [x, y] = [top(a.host), top(b.host)];
      if (x !== y) {
        above.set(x, y);
        return [];
      }
      return [
        found(
          loopGuarded,
          { host: a.host, configPlace: [...a.place] },
          `${a.host} ${a.name} and ${b.host} ${b.name} close a loop of bridges that take no part in a spanning tree.`,
          'Turn bridge-stp on at these switches, bundle parallel links into a LAG, or take the port out of the bridge.',
        ),
      ];
    });
  },
};
