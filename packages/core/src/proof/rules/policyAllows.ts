import { routersIn } from '../../config/bgp.ts';
import type { EffectivePolicy } from '../../network/bgp.ts';
import type { Place } from '../../config/switchConfig.ts';
import { found, type DesignRule } from '../rule.ts';

export const policyAllows: DesignRule = {
  id: 'policy-allows',
  title: 'Sessions inside the fabric exchange routes',
  severity: 'error',
  scope: 'network',
  source: 'RFC 8212: without a policy an eBGP peer sends and takes nothing',
  reads: ['bgp'],
  judge: ({ switches, views }) =>
    switches.flatMap((s) =>
      routersIn(s.config).flatMap(({ vrf, speaker, place }) => {
        if (!speaker.policyRequired) return [];
        const { peers } = views.get(s.host)!.router(vrf)!;
        const outside = peers.filter((p) => p.remoteAs !== 'internal' && p.remoteAs !== speaker.asn);
        const lacks = ({ in: inward, out }: EffectivePolicy): boolean => inward === null || out === null;
        // Who speaks IPv6 alone needs none for IPv4.
        const bare = outside.filter(
          (p) => (p.ipv6 && lacks(p.ipv6Policy)) || ((p.ipv4 || !p.ipv6) && lacks(p.ipv4Policy)),
        );
        if (bare.length === 0) return [];
        const whom = bare.length === outside.length ? '' : ` for ${bare.map((p) => p.name).join(', ')}`;
        const where = vrf === undefined ? '' : ` in VRF ${vrf}`;
        return found(
          policyAllows,
          { host: s.host, configPlace: [...place, 'policyRequired'] as readonly string[] as Place },
          `${s.host} wants a policy on every eBGP peer${where} and has none${whom}, so it exchanges no route${whom === '' ? '' : ' with them'}.`,
          'Open frr.conf with “frr defaults datacenter”, or say “no bgp ebgp-requires-policy”.',
        );
      }),
    ),
};
