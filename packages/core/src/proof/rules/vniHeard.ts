import { groupBy } from '../../numbers/order.ts';
import { found, type DesignRule } from '../rule.ts';

export const vniHeard: DesignRule = {
  id: 'vni-heard',
  title: 'Every VTEP of a VNI hears every other',
  severity: 'error',
  scope: 'network',
  source: 'RFC 7432 §11.2, RFC 8365 §5.1.3',
  reads: [],
  judge: ({ unheard, views }) =>
    [...groupBy(unheard, (u) => `${u.vni} ${u.speaker} ${u.reason.replaceAll(u.listener, '')}`).values()].map(
      (same) => {
        const u = same[0]!;
        const vlan = views.get(u.speaker)?.l2Vnis.get(u.vni)?.vxlan.vlan;
        return found(
          vniHeard,
          {
            host: u.speaker,
            configPlace: ['bgp', 'evpn', 'vnis', String(u.vni)],
            ...(vlan === undefined ? {} : { subjects: [`vlan:${vlan}`] }),
          },
          `VNI ${u.vni}: ${u.listener}${same.length > 1 ? ` and ${same.length - 1} more` : ''} cannot hear ${u.speaker}: ${u.reason}.`,
          'Make route targets meet, and bring the sessions and loopback routes between them up.',
        );
      },
    ),
};
