import { sviKey, type SviConfig } from '../../config/interfaces.ts';
import { gatewaysOfSvi } from '../../network/interfaces.ts';
import {
  familyOf,
  formatAny,
  holdsAny,
  isLinkLocal,
  networkOfAny,
  parseAnyCidr,
  type AnyPrefix,
} from '../../numbers/prefix.ts';
import { found, type DesignRule } from '../rule.ts';

interface Subnet {
  readonly vlan: number;
  readonly vrf: string;
  readonly prefix: AnyPrefix;
  readonly host: string;
  readonly key: string;
}
const NONE: readonly string[] = [];
const before = (a: AnyPrefix, b: AnyPrefix): number =>
  familyOf(a) - familyOf(b) || (a.address < b.address ? -1 : a.address > b.address ? 1 : a.length - b.length);

export const subnetOverlap: DesignRule = {
  id: 'subnet-overlap',
  title: 'Subnets of a VRF do not overlap',
  severity: 'error',
  scope: 'network',
  source: 'two networks cannot both own an address',
  reads: ['svis'],
  judge: ({ switches }) => {
    const seen = new Map<string, Subnet>();
    const see = (host: string, svi: SviConfig, address: string | undefined): void => {
      const key = `${svi.vrf ?? ''} ${svi.vlan} ${address}`;
      const cidr = address === undefined || seen.has(key) ? null : parseAnyCidr(address);
      if (cidr && !isLinkLocal(cidr))
        seen.set(key, { vlan: svi.vlan, vrf: svi.vrf ?? '', prefix: networkOfAny(cidr), host, key: sviKey(svi) });
    };
    for (const { host, config } of switches)
      for (const svi of config.svis) {
        for (const address of gatewaysOfSvi(svi)) see(host, svi, address);
        for (const address of svi.ipv6Addresses ?? NONE) see(host, svi, address);
        for (const address of svi.virtual?.ipv6Addresses ?? NONE) see(host, svi, address);
      }
    const all = [...seen.values()].sort((a, b) => before(a.prefix, b.prefix));
    const out = [];
    // What lies in a prefix follows it without a gap.
    for (const [i, a] of all.entries())
      for (let j = i + 1; j < all.length && holdsAny(a.prefix, all[j]!.prefix); j++) {
        const b = all[j]!;
        if (a.vrf !== b.vrf || a.vlan === b.vlan) continue;
        const field = familyOf(b.prefix) === 4 ? 'addresses' : 'ipv6Addresses';
        out.push(
          found(
            subnetOverlap,
            { host: b.host, configPlace: ['svis', b.key, field], subjects: [`vlan:${b.vlan}`, `vlan:${a.vlan}`] },
            `${formatAny(b.prefix)} of VLAN ${b.vlan} lies inside ${formatAny(a.prefix)} of VLAN ${a.vlan} in VRF ${a.vrf || 'default'}.`,
            'Give one of them another subnet.',
          ),
        );
      }
    return out;
  },
};
