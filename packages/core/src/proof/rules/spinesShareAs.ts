import { found, type DesignRule } from '../rule.ts';

/** A switch without VXLAN that joins two or more with it passes traffic on: a spine. */
export const spinesShareAs: DesignRule = {
  id: 'spines-share-as',
  title: 'Spines share one AS number',
  severity: 'warning',
  source: 'RFC 7938 §5.2.1: else leaves become transit when links fail',
  judge: ({ switches, sessions }) => {
    const tunnels = new Set(switches.filter((s) => s.config.vxlans.length > 0).map((s) => s.host));
    const below = new Map<string, Set<string>>();
    for (const { host, farHost } of sessions) {
      if (farHost === null || tunnels.has(host) || !tunnels.has(farHost)) continue;
      const known = below.get(host);
      if (known) known.add(farHost);
      else below.set(host, new Set([farHost]));
    }
    const spines = switches.filter((s) => (below.get(s.host)?.size ?? 0) > 1);
    const first = spines[0]?.config.bgp?.asn;
    return spines
      .filter((s) => s.config.bgp?.asn !== first)
      .map((s) =>
        found(
          spinesShareAs,
          { host: s.host, configPath: 'bgp' },
          `${s.host} has AS ${s.config.bgp?.asn}, ${spines[0]!.host} has ${first}.`,
          `Give all spines AS ${first}.`,
        ),
      );
  },
};
