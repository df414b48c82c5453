import { sviKey, sviWords } from '../../config/interfaces.ts';
import { refusedGatewayMac } from '../../numbers/mac.ts';
import { found, type DesignRule } from '../rule.ts';

export const gatewayMacFree: DesignRule = {
  id: 'gateway-mac',
  title: 'Gateway MACs are unicast and clear of VRRP',
  severity: 'warning',
  scope: 'network',
  source: 'RFC 9568 §7.3',
  reads: ['svis'],
  judge: ({ switches }) => {
    const told = new Set<string>();
    return switches.flatMap(({ host, config }) =>
      config.svis.flatMap((s) => {
        const mac = s.virtual?.mac ?? s.mac;
        const why = mac === undefined ? null : refusedGatewayMac(mac);
        if (why === null || told.has(mac!)) return [];
        told.add(mac!);
        return [
          found(
            gatewayMacFree,
            {
              host,
              configPlace: ['svis', sviKey(s), s.virtual ? 'virtual' : 'mac'],
              subjects: [`vlan:${s.vlan}`],
            },
            `${host} ${sviWords(s)}: MAC ${mac} is ${why}.`,
            'Use a locally administered MAC, such as 02:00:5e:00:xx:xx.',
          ),
        ];
      }),
    );
  },
};
