import type { Place } from '../../config/switchConfig.ts';
import { nodeKey } from '../../network/nextHop.ts';
import { hostPart } from '../../numbers/ipv4.ts';
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
    const out = [];
    for (const { host, config } of switches) {
      const own: readonly (readonly [string, Place, vrf: string | undefined])[] = [
        ...config.loopbacks.map((a) => [a, ['loopbacks'], undefined] as const),
        ...(config.ipv6Loopbacks ?? []).map((a) => [a, ['ipv6Loopbacks'], undefined] as const),
        ...config.ports.flatMap((p) => [
          ...p.addresses.map((a) => [a, ['ports', p.name, 'addresses'], p.vrf] as const),
          ...(p.ipv6Addresses ?? []).map((a) => [a, ['ports', p.name, 'ipv6Addresses'], p.vrf] as const),
        ]),
      ];
      for (const [cidr, configPlace, vrf] of own) {
        const address = hostPart(cidr);
        const key = nodeKey(address, vrf);
        const other = holder.get(key);
        // A port without a subnet of its own may borrow the address of the loopback (RFC 1812 §2.2.7).
        if (other === host && cidr.endsWith('/32') && config.loopbacks.includes(cidr) && configPlace[0] === 'ports')
          continue;
        if (other === undefined) holder.set(key, host);
        else
          out.push(
            found(
              addressUnique,
              { host, configPlace },
              `${host} has ${address}, which ${other === host ? 'it has twice' : `is ${other}'s`}.`,
              'Draw another address for one of them.',
            ),
          );
      }
    }
    return out;
  },
};
