import type { CompiledFabric } from '../compile/compileFabric.ts';
import type { Finding } from '../finding.ts';
import { naturally } from '../numbers/order.ts';

/**
 * Says where what EVPN tells of a VRF is taken back for a moment, though it stands before and after a change: FRR's own reload
 * (8.4.4) takes the line away that tells it, to write it with another map.
 * @param seated does a switch sit there already
 */
export function toldAnew(after: CompiledFabric, before: CompiledFabric, seated: (host: string) => boolean): Finding[] {
  const was = new Map(before.switches.map((s) => [s.seat.id, s]));
  const vrfs = new Set<string>();
  let hosts = 0;
  for (const { seat, config } of after.switches) {
    const old = was.get(seat.id)?.config;
    if (!old?.bgp || !config.bgp || old.bgp === config.bgp || !seated(seat.host)) continue;
    const then = new Map(old.bgp.vrfs.map((v) => [v.vrf, v]));
    const anew = config.bgp.vrfs.filter((v) => {
      const o = then.get(v.vrf);
      const four = o?.advertiseIpv4 && v.advertiseIpv4 && o.advertiseIpv4Map !== v.advertiseIpv4Map;
      const six = o?.advertiseIpv6 && v.advertiseIpv6 && o.advertiseIpv6Map !== v.advertiseIpv6Map;
      return four === true || six === true;
    });
    if (anew.length > 0) hosts++;
    for (const { vrf } of anew) vrfs.add(vrf);
  }
  if (hosts === 0) return [];
  return [
    {
      rule: 'prefixes-told-anew',
      severity: 'warning',
      message: `${hosts} switches take back for a moment what EVPN tells of ${[...vrfs].sort(naturally).join(', ')}, and tell it anew: subnets that only one of them has are not reached meanwhile.`,
      cure: 'It goes in waves, a few switches at a time: roll it out when that may stand still for a moment.',
      subjects: ['fabric'],
    },
  ];
}
