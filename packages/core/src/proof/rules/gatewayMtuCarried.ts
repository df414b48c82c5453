import { sviKey, sviWords, type SviConfig } from '../../config/interfaces.ts';
import { sviMtu } from '../../network/interfaces.ts';
import { found, hostByHost } from '../rule.ts';

export const gatewayMtuCarried = hostByHost({
  id: 'gateway-mtu-carried',
  title: 'Gateways route packets as large as their networks have',
  severity: 'error',
  source:
    'an interface of a VLAN has no larger MTU than its bridge, which has 1500 where no line says more (ifupdown2 3.0)',
  reads: ['bridge', 'svis', 'vrfs', 'vxlans'],
  judgeHost: ({ views }, host) => {
    const { config } = views.get(host)!;
    const { bridge, svis, vxlans, vrfs } = config;
    if (!bridge) return [];
    const has =
      bridge.mtu === undefined ? 'of which no line says an MTU and which so has 1500' : `which has ${bridge.mtu}`;
    const small = svis.filter((s) => s.mtu !== undefined && sviMtu(config, s) < s.mtu);
    const largest = small.reduce<SviConfig | undefined>((most, s) => ((most?.mtu ?? 0) < s.mtu! ? s : most), undefined);
    if (largest)
      return [
        found(
          gatewayMtuCarried,
          {
            host,
            configPlace: bridge.mtu === undefined ? ['svis', sviKey(largest), 'mtu'] : ['bridge', 'mtu'],
            subjects: small.map((s) => `vlan:${s.vlan}` as const),
          },
          `${host} ${sviWords(largest)} is to have MTU ${largest.mtu} on a bridge ${has}: it gets no more${small.length === 1 ? '' : `, nor do ${small.length - 1} others`}.`,
          `Say “mtu ${largest.mtu}” of the bridge.`,
        ),
      ];
    // Across the fabric a VRF is routed over an interface of its own.
    return vrfs.flatMap((v) => {
      const vlan = vxlans.find((x) => x.vni === v.l3Vni)?.vlan;
      const own = svis.filter((s) => s.vrf === v.name);
      const across = own.find((s) => s.vlan === vlan);
      const most = Math.max(...own.map((s) => (s === across ? 0 : (s.mtu ?? 0))));
      if (!across || sviMtu(config, across) >= most) return [];
      return [
        found(
          gatewayMtuCarried,
          {
            host,
            configPlace: across.mtu === undefined ? ['bridge', 'mtu'] : ['svis', sviKey(across), 'mtu'],
            subjects: [`vrf:${v.name}`],
          },
          `${host} routes VRF ${v.name} across the fabric over ${sviWords(across)}, which has MTU ${sviMtu(config, across)}; a network of the VRF has ${most} there.`,
          `Give ${sviWords(across)} ${most} or more.`,
        ),
      ];
    });
  },
});
