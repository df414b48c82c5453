import { found, type DesignRule } from '../rule.ts';

export const policyAllows: DesignRule = {
  id: 'policy-allows',
  title: 'Sessions inside the fabric exchange routes',
  severity: 'error',
  source: 'RFC 8212: without a policy an eBGP peer sends and takes nothing',
  reads: ['bgp'],
  judge: ({ switches }) =>
    switches
      .filter((s) => s.config.bgp?.policyRequired)
      .map((s) =>
        found(
          policyAllows,
          { host: s.host, configPlace: ['bgp', 'policyRequired'] },
          `${s.host} wants a policy on every eBGP peer and has none, so it exchanges no route.`,
          'Open frr.conf with “frr defaults datacenter”, or say “no bgp ebgp-requires-policy”.',
        ),
      ),
};
