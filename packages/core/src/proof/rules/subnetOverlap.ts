import { contains, formatPrefix, overlaps, parseCidr, prefixOf, type Prefix } from '../../numbers/ipv4.ts';
import { sviKey } from '../../config/interfaces.ts';
import { gatewayOfSvi } from '../../network/interfaces.ts';
import { found, type DesignRule } from '../rule.ts';

export const subnetOverlap: DesignRule = {
  id: 'subnet-overlap',
  title: 'Subnets of a VRF do not overlap',
  severity: 'error',
  source: 'two networks cannot both own an address',
  reads: ['svis'],
  judge: ({ switches }) => {
    const seen = new Map<string, { vlan: number; vrf: string; prefix: Prefix; host: string; key: string }>();
    for (const { host, config } of switches)
      for (const svi of config.svis) {
        const address = gatewayOfSvi(svi);
        const cidr = address === undefined ? null : parseCidr(address);
        const key = `${svi.vrf ?? ''} ${svi.vlan} ${address}`;
        if (cidr && !seen.has(key))
          seen.set(key, { vlan: svi.vlan, vrf: svi.vrf ?? '', prefix: prefixOf(cidr), host, key: sviKey(svi) });
      }
    const all = [...seen.values()].sort(
      (a, b) => a.prefix.address - b.prefix.address || a.prefix.length - b.prefix.length,
    );
    const out = [];
    for (let i = 0; i < all.length; i++)
      for (
        let j = i + 1;
        j < all.length && all[j]!.prefix.address < all[i]!.prefix.address + 2 ** (32 - all[i]!.prefix.length);
        j++
      ) {
        const [a, b] = [all[i]!, all[j]!];
        if (a.vrf !== b.vrf || a.vlan === b.vlan || !overlaps(a.prefix, b.prefix)) continue;
        out.push(
          found(
            subnetOverlap,
            { host: b.host, configPlace: ['svis', b.key, 'addresses'], subjects: [`vlan:${b.vlan}`, `vlan:${a.vlan}`] },
            `${formatPrefix(b.prefix)} of VLAN ${b.vlan} ${contains(a.prefix, b.prefix) ? 'lies inside' : 'overlaps'} ${formatPrefix(a.prefix)} of VLAN ${a.vlan} in VRF ${a.vrf || 'default'}.`,
            'Give one of them another subnet.',
          ),
        );
      }
    return out;
  },
};
