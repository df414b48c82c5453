import { asksAround } from '../../config/drained.ts';
import { pairsOf, stillOver } from '../../network/goneRound.ts';
import { plural } from '../../plural.ts';
import { found, type DesignRule } from '../rule.ts';

export const goneRound: DesignRule = {
  id: 'gone-round',
  title: 'Nobody has to go over a switch that asks to be gone round',
  severity: 'warning',
  scope: 'network',
  source: 'RFC 8326, RFC 6987: who has another way takes that; who has none does not',
  reads: ['bgp', 'ipv6Loopbacks', 'staticRoutes', 'vxlans'],
  judge: (network) =>
    network.switches.flatMap(({ host, config }) => {
      if (!asksAround(config)) return [];
      const still = stillOver(network, host) ?? [];
      if (still.length === 0) return [];
      const { from, to, family } = still[0]!;
      const ends = still.flatMap((s) => [s.from, s.to]).find((end) => asksAround(network.views.get(end)!.config));
      const pairs = pairsOf(still).size;
      const alone = pairsOf(still.filter((s) => s.alone)).size;
      const cut = alone === 0 ? '' : ` ${alone === pairs ? 'They have' : `${alone} of them have`} no other way.`;
      return [
        found(
          goneRound,
          { host, configPlace: ['bgp', 'gracefulShutdown'] },
          `${host} asks to be gone round, and others still go over it: ${from} to ${to}${family === 6 ? ' by IPv6' : ''}${pairs === 1 ? '' : `, and ${plural(pairs - 1, 'more pair')}`}.${cut}`,
          ends === undefined
            ? 'Give them another way that is as short before it is taken down.'
            : `What leads to ${ends} is the last that is taken wherever it leads, as ${ends} asks to be gone round as well: bring ${ends} back first.`,
        ),
      ];
    }),
};
