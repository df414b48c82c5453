import { sviKey } from '../../config/interfaces.ts';
import type { PeerPolicy } from '../../config/bgp.ts';
import type { Place, SwitchConfig } from '../../config/switchConfig.ts';
import type { Finding } from '../../finding.ts';
import { found, type DesignRule } from '../rule.ts';

interface Known {
  readonly lists: ReadonlySet<string>;
  readonly maps: ReadonlySet<string>;
}
type Miss = (what: string, name: string, configPlace: Place) => void;

/** Names that policies of neighbours use, and those that route maps use among themselves. */
function policyNames(config: SwitchConfig, { lists, maps }: Known, miss: Miss): void {
  const paths = new Set(config.asPathLists?.map((l) => l.name));
  const communities = new Set(config.communityLists?.map((l) => l.name));
  const check = (known: ReadonlySet<string>, what: string, name: string | undefined, place: Place): void => {
    if (name !== undefined && !known.has(name)) miss(what, name, place);
  };
  for (const family of ['ipv4', 'evpn'] as const)
    for (const p of config.bgp?.[family].policies ?? []) {
      const at = (field: keyof PeerPolicy): Place => ['bgp', family, 'policies', p.peer, field];
      for (const field of ['mapIn', 'mapOut'] as const) check(maps, 'route map', p[field], at(field));
      for (const field of ['prefixListIn', 'prefixListOut'] as const) check(lists, 'prefix list', p[field], at(field));
      for (const field of ['asPathIn', 'asPathOut'] as const) check(paths, 'AS path list', p[field], at(field));
    }
  for (const m of config.routeMaps)
    for (const e of m.entries) {
      const at = (field: 'match' | 'call'): Place => ['routeMaps', m.name, 'entries', String(e.seq), field];
      check(communities, 'community list', e.match?.community?.list, at('match'));
      check(paths, 'AS path list', e.match?.asPath, at('match'));
      check(maps, 'route map', e.call, at('call'));
    }
}

export const namesDefined: DesignRule = {
  id: 'names-defined',
  title: 'Every name that is used is defined',
  severity: 'error',
  source: 'a daemon treats an undefined list as “deny all”, without a word',
  reads: ['asPathLists', 'bfdProfiles', 'bgp', 'communityLists', 'prefixLists', 'routeMaps', 'svis', 'vrfs'],
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
      for (const kind of ['connected', 'static'] as const) {
        const map = config.bgp?.ipv4[kind]?.routeMap;
        if (map !== undefined && !maps.has(map)) miss('route map', map, ['bgp', 'ipv4', kind]);
      }
      policyNames(config, { lists, maps }, miss);
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
