import { found, type DesignRule } from '../rule.ts';

/** A switch without VXLAN that joins two or more with it passes traffic on: a spine. */
export const spinesShareAs: DesignRule = {
  id: 'spines-share-as',
  title: 'Spines share one AS number',
  severity: 'warning',
  source: 'RFC 7938 §5.2.1: else leaves become transit when links fail',
  judge: ({ switches, sessions }) => {
    const tunnels = new Set(switches.filter((s) => s.config.vxlans.length > 0).map((s) => s.host));
    const spines = switches.filter(
      (s) =>
        !tunnels.has(s.host) &&
        new Set(
          sessions
            .filter((x) => x.host === s.host && x.farHost !== null && tunnels.has(x.farHost))
            .map((x) => x.farHost),
        ).size > 1,
    );
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
