import { groupBy } from '../../numbers/order.ts';
import { found, type DesignRule } from '../rule.ts';

export const routerIdUnique: DesignRule = {
  id: 'router-id-unique',
  title: 'Router ids differ',
  severity: 'error',
  scope: 'network',
  source: 'RFC 6286 §2.1',
  reads: ['bgp'],
  judge: ({ switches }) =>
    [
      ...groupBy(
        switches.filter((s) => s.config.bgp?.routerId),
        (s) => s.config.bgp!.routerId,
      ),
    ].flatMap(([id, same]) =>
      same
        .slice(1)
        .map((s) =>
          found(
            routerIdUnique,
            { host: s.host, configPlace: ['bgp', 'routerId'] },
            `${s.host} and ${same[0]!.host} both have router id ${id}.`,
            'Give each its own loopback as router id.',
          ),
        ),
    ),
};
