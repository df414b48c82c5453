import type { Place } from '../../config/switchConfig.ts';
import type { Finding } from '../../finding.ts';
import { nodeKey } from '../../network/nextHop.ts';
import { hostPart, type Cidr } from '../../numbers/ipv4.ts';
import { found, type DesignRule } from '../rule.ts';

export const addressUnique: DesignRule = {
  id: 'address-unique',
  title: 'No fabric address is used twice in one VRF',
  severity: 'error',
  scope: 'network',
  source: 'each loopback, VTEP and link address belongs to one switch',
  reads: ['ipv6Loopbacks', 'loopbacks', 'port addresses'],
  judge: ({ switches }) => {
    const holder = new Map<string, string>();
    const out: Finding[] = [];
    for (const { host, config } of switches) {
      const see = (cidrs: readonly Cidr[] = [], configPlace: Place, vrf?: string): void => {
        for (const cidr of cidrs) {
          const address = hostPart(cidr);
          const key = nodeKey(address, vrf);
          const other = holder.get(key);
          if (other === undefined) {
            holder.set(key, host);
            continue;
          }
          // A port without a subnet of its own may borrow the address of the loopback (RFC 1812 §2.2.7).
          const borrows = configPlace[0] === 'ports' && cidr.endsWith('/32') && config.loopbacks.includes(cidr);
          if (other === host && borrows) continue;
          const whose = other === host ? 'it has twice' : `is ${other}'s`;
          const words = `${host} has ${address}, which ${whose}.`;
          out.push(found(addressUnique, { host, configPlace }, words, 'Draw another address for one of them.'));
        }
      };
      see(config.loopbacks, ['loopbacks']);
      see(config.ipv6Loopbacks, ['ipv6Loopbacks']);
      for (const p of config.ports) {
        see(p.addresses, ['ports', p.name, 'addresses'], p.vrf);
        see(p.ipv6Addresses, ['ports', p.name, 'ipv6Addresses'], p.vrf);
      }
    }
    return out;
  },
};
