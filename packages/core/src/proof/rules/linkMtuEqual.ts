import { found, type DesignRule } from '../rule.ts';

export const linkMtuEqual: DesignRule = {
  id: 'link-mtu-equal',
  title: 'Both ends of a link have one MTU',
  severity: 'error',
  source: 'a frame the far end cannot take is dropped in silence',
  reads: ['ports'],
  judge: ({ cables, views }) =>
    cables.flatMap(({ a, b }) => {
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
};
