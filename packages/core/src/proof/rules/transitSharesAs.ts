import type { NetworkModel } from '../../network/networkModel.ts';
import { tenantsOf } from '../../network/tenants.ts';
import { found, type DesignRule } from '../rule.ts';

type SwitchOfNetwork = NetworkModel['switches'][number];

/** A switch that announces no VNI and joins two or more that do passes traffic on. */
export const transitSharesAs: DesignRule = {
  id: 'transit-shares-as',
  title: 'Switches that pass traffic on side by side share one AS number',
  severity: 'warning',
  scope: 'network',
  source: 'RFC 7938 §5.2.1: else those below become transit when links fail',
  reads: ['bgp', 'staticRoutes', 'vxlans'],
  judge: (network) => {
    const { switches, sessions } = network;
    const tenants = tenantsOf(network);
    const hasTunnels = ({ config }: SwitchOfNetwork): boolean =>
      config.vxlans.length > 0 || config.bgp?.evpn.advertiseAllVni === true;
    const tunnels = new Set(switches.filter(hasTunnels).map((s) => s.host));
    const below = new Map<string, Set<string>>();
    for (const { host, farHost } of sessions) {
      if (farHost === null || tunnels.has(host) || !tunnels.has(farHost) || tenants.isOutside(host)) continue;
      const known = below.get(host);
      if (known) known.add(farHost);
      else below.set(host, new Set([farHost]));
    }
    const transit = switches.filter((s) => (below.get(s.host)?.size ?? 0) > 1);
    // Those of one pod have switches below in common; those of different pods have none, and numbers of their own.
    const firstOver = new Map<string, SwitchOfNetwork>();
    return transit.flatMap((s) => {
      const beside = [...below.get(s.host)!].map((one) => firstOver.get(one)).find((f) => f !== undefined);
      for (const one of below.get(s.host)!) if (!firstOver.has(one)) firstOver.set(one, beside ?? s);
      const [asn, first] = [s.config.bgp?.asn, beside?.config.bgp?.asn];
      return beside === undefined || asn === first
        ? []
        : [
            found(
              transitSharesAs,
              { host: s.host, configPlace: ['bgp'] },
              `${s.host} has AS ${asn}, ${beside.host} has ${first}.`,
              `Give both AS ${first}.`,
            ),
          ];
    });
  },
};
