import type { Cable } from '../../hardware/cable.ts';
import { groupBy } from '../../numbers/order.ts';
import { onceFor } from '../../onceFor.ts';
import { found, hostByHost } from '../rule.ts';

/** Cables by the switch that is named first. */
const cablesFrom = onceFor((cables: readonly Cable[]) => groupBy(cables, (c) => c.a.host));

export const linkMtuEqual = hostByHost({
  id: 'link-mtu-equal',
  title: 'Both ends of a link have one MTU',
  severity: 'error',
  source: 'a frame the far end cannot take is dropped in silence',
  reads: ['ports'],
  judgeHost: ({ cables, views }, host) =>
    (cablesFrom(cables).get(host) ?? []).flatMap(({ a, b }) => {
      const pa = views.get(a.host)?.portByName.get(a.port);
      const pb = views.get(b.host)?.portByName.get(b.port);
      return pa && pb && pa.mtu !== pb.mtu
        ? [
            found(
              linkMtuEqual,
              { host: a.host, configPlace: ['ports', a.port, 'mtu'] },
              `${a.host} ${a.port} has MTU ${pa.mtu ?? 'default'}, ${b.host} ${b.port} has ${pb.mtu ?? 'default'}.`,
              'Give both ends the same.',
            ),
          ]
        : [];
    }),
});
