import { linksFrom } from '../cablesByHost.ts';
import { found, hostByHost } from '../rule.ts';

export const linkMtuEqual = hostByHost({
  id: 'link-mtu-equal',
  title: 'Both ends of a link have one MTU',
  severity: 'error',
  source: 'a frame the far end cannot take is dropped in silence',
  reads: ['ports'],
  judgeHost: (network, host) =>
    linksFrom(network, host).flatMap(({ a, b }) => {
      const pa = network.views.get(a.host)?.portByName.get(a.port);
      const pb = network.views.get(b.host)?.portByName.get(b.port);
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
