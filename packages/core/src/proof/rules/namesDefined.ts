import { sviKey } from '../../config/interfaces.ts';
import type { Place } from '../../config/switchConfig.ts';
import type { Finding } from '../../finding.ts';
import { found, type DesignRule } from '../rule.ts';

export const namesDefined: DesignRule = {
  id: 'names-defined',
  title: 'Every name that is used is defined',
  severity: 'error',
  source: 'a daemon treats an undefined list as “deny all”, without a word',
  reads: ['bfdProfiles', 'bgp', 'prefixLists', 'routeMaps', 'svis', 'vrfs'],
  judge: ({ switches }) => {
    const out: Finding[] = [];
    for (const { host, config } of switches) {
      const lists = new Set(config.prefixLists.map((l) => l.name));
      const maps = new Set(config.routeMaps.map((m) => m.name));
      const profiles = new Set(config.bfdProfiles.map((p) => p.name));
      const vrfs = new Set(config.vrfs.map((v) => v.name));
      const miss = (what: string, name: string, configPlace: Place): void => {
        out.push(
          found(
            namesDefined,
            { host, configPlace },
            `${host}: ${what} ${name} is used but not defined.`,
            `Define ${name}, or take its use out.`,
          ),
        );
      };
      for (const m of config.routeMaps)
        for (const e of m.entries)
          if (e.matchPrefixList !== undefined && !lists.has(e.matchPrefixList))
            miss('prefix list', e.matchPrefixList, ['routeMaps', m.name, 'entries', String(e.seq), 'matchPrefixList']);
      const map = config.bgp?.ipv4.connected?.routeMap;
      if (map !== undefined && !maps.has(map)) miss('route map', map, ['bgp', 'ipv4', 'connected']);
      for (const p of config.bgp?.peers ?? [])
        if (p.bfdProfile !== undefined && !profiles.has(p.bfdProfile))
          miss('BFD profile', p.bfdProfile, ['bgp', 'peers', p.name, 'bfdProfile']);
      for (const s of config.svis)
        if (s.vrf !== undefined && !vrfs.has(s.vrf)) miss('VRF', s.vrf, ['svis', sviKey(s), 'vrf']);
      for (const v of config.bgp?.vrfs ?? []) if (!vrfs.has(v.vrf)) miss('VRF', v.vrf, ['bgp', 'vrfs', v.vrf]);
    }
    return out;
  },
};
