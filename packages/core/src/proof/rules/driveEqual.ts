import type { PortConfig } from '../../config/interfaces.ts';
import type { Place } from '../../config/switchConfig.ts';
import { darkness } from '../../hardware/drive.ts';
import type { CableEnd } from '../../network/cablePlan.ts';
import { cablesFrom } from '../cablesByHost.ts';
import { found, hostByHost } from '../rule.ts';

export const driveEqual = hostByHost({
  id: 'drive-equal',
  title: 'Both ends of a cable run at one speed, with one FEC',
  severity: 'error',
  source:
    'IEEE 802.3 clauses 74, 91, 108: an end that corrects errors otherwise, or runs at another speed, sees no light',
  reads: ['ports'],
  judgeHost: (network, host) =>
    cablesFrom(network, host).flatMap(({ a, b }) => {
      const port = (end: CableEnd): PortConfig | undefined => network.views.get(end.host)?.portByName.get(end.port);
      const [pa, pb] = [port(a), port(b)];
      const unlike = pa && pb ? darkness(pa, pb, b.host) : null;
      if (!unlike) return [];
      const { why, certain, field } = unlike;
      const place: Place = pa![field] === undefined ? ['ports', a.port] : ['ports', a.port, field];
      return [
        {
          ...found(
            driveEqual,
            { host, configPlace: place },
            `${host} ${why}: ${certain ? 'there is no light between them' : 'there is light only where it has that by itself'}.`,
            certain ? 'Give both ends the same.' : 'Say it at both ends, or at neither.',
          ),
          ...(certain ? {} : { severity: 'warning' as const }),
        },
      ];
    }),
});
