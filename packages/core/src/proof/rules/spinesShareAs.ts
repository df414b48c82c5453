import type { NetworkModel } from '../../network/networkModel.ts';
import { found, type DesignRule } from '../rule.ts';

type SwitchOfNetwork = NetworkModel['switches'][number];

/** A switch that announces no VNI and joins two or more that do passes traffic on: a spine. */
export const spinesShareAs: DesignRule = {
  id: 'spines-share-as',
  title: 'Spines share one AS number',
  severity: 'warning',
  source: 'RFC 7938 §5.2.1: else leaves become transit when links fail',
  judge: ({ switches, sessions }) => {
    const isLeaf = ({ config }: SwitchOfNetwork): boolean =>
      config.vxlans.length > 0 || config.bgp?.evpn.advertiseAllVni === true;
    const tunnels = new Set(switches.filter(isLeaf).map((s) => s.host));
    const below = new Map<string, Set<string>>();
    for (const { host, farHost } of sessions) {
      if (farHost === null || tunnels.has(host) || !tunnels.has(farHost)) continue;
      const known = below.get(host);
      if (known) known.add(farHost);
      else below.set(host, new Set([farHost]));
    }
    const spines = switches.filter((s) => (below.get(s.host)?.size ?? 0) > 1);
    // Spines of one pod have leaves in common; those of different pods have none, and numbers of their own.
    const firstOver = new Map<string, SwitchOfNetwork>();
    return spines.flatMap((s) => {
      const beside = [...below.get(s.host)!].map((leaf) => firstOver.get(leaf)).find((f) => f !== undefined);
      for (const leaf of below.get(s.host)!) if (!firstOver.has(leaf)) firstOver.set(leaf, beside ?? s);
      const [asn, first] = [s.config.bgp?.asn, beside?.config.bgp?.asn];
      return beside === undefined || asn === first
        ? []
        : [
            found(
              spinesShareAs,
              { host: s.host, configPlace: ['bgp'] },
              `${s.host} has AS ${asn}, ${beside.host} has ${first}.`,
              `Give all spines AS ${first}.`,
            ),
          ];
    });
  },
};
