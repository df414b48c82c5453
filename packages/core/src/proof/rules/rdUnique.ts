import type { Place } from '../../config/switchConfig.ts';
import { found, type DesignRule } from '../rule.ts';

export const rdUnique: DesignRule = {
  id: 'rd-unique',
  title: 'Route distinguishers differ',
  severity: 'error',
  scope: 'network',
  source: 'RFC 4364 §4.2, RFC 7432 §7.9',
  reads: ['bgp'],
  judge: ({ switches }) => {
    const holder = new Map<string, string>();
    const out = [];
    for (const { host, config } of switches) {
      const own: readonly { readonly rd: string | undefined; readonly what: string; readonly configPlace: Place }[] = [
        ...(config.bgp?.evpn.vnis ?? []).map((v) => ({
          rd: v.rd,
          what: `VNI ${v.vni}`,
          configPlace: ['bgp', 'evpn', 'vnis', String(v.vni), 'rd'] as const,
        })),
        ...(config.bgp?.vrfs ?? []).map((v) => ({
          rd: v.rd,
          what: `VRF ${v.vrf}`,
          configPlace: ['bgp', 'vrfs', v.vrf, 'rd'] as const,
        })),
      ];
      for (const { rd, what, configPlace } of own) {
        if (rd === undefined) continue;
        const other = holder.get(rd);
        if (other === undefined) holder.set(rd, `${what} of ${host}`);
        else
          out.push(
            found(
              rdUnique,
              { host, configPlace },
              `RD ${rd} is used by ${what} of ${host} and by ${other}.`,
              'Use router id : number, the number once per switch.',
            ),
          );
      }
    }
    return out;
  },
};
