import { sviKey } from '../../config/interfaces.ts';
import { routersIn, type PeerPolicy } from '../../config/bgp.ts';
import { staticKey } from '../../config/static.ts';
import type { Place, SwitchConfig } from '../../config/switchConfig.ts';
import type { Finding } from '../../finding.ts';
import { found, type DesignRule } from '../rule.ts';

interface Known {
  readonly lists: ReadonlySet<string>;
  readonly maps: ReadonlySet<string>;
}
type Miss = (what: string, name: string, configPlace: Place) => void;

const EVPN: readonly string[] = ['bgp', 'evpn'];
/** Names that policies of neighbours use, and those that route maps use among themselves. */
function policyNames(config: SwitchConfig, { lists, maps }: Known, miss: Miss): void {
  const paths = new Set(config.asPathLists?.map((l) => l.name));
  const communities = new Set(config.communityLists?.map((l) => l.name));
  const check = (known: ReadonlySet<string>, what: string, name: string | undefined, place: Place): void => {
    if (name !== undefined && !known.has(name)) miss(what, name, place);
  };
  const said = routersIn(config).map(({ speaker, place }) => ({ family: speaker.ipv4, place: [...place, 'ipv4'] }));
  for (const { speaker, place } of routersIn(config))
    for (const [network, map] of Object.entries(speaker.ipv4.networkMaps ?? {}))
      check(maps, 'route map', map, [...place, 'ipv4', 'networkMaps', network] as readonly string[] as Place);
  for (const { family, place } of [...said, ...(config.bgp ? [{ family: config.bgp.evpn, place: EVPN }] : [])])
    for (const p of family.policies ?? []) {
      const at = (field: keyof PeerPolicy): Place =>
        [...place, 'policies', p.peer, field] as readonly string[] as Place;
      for (const field of ['mapIn', 'mapOut'] as const) check(maps, 'route map', p[field], at(field));
      for (const field of ['prefixListIn', 'prefixListOut'] as const) check(lists, 'prefix list', p[field], at(field));
      for (const field of ['asPathIn', 'asPathOut'] as const) check(paths, 'AS path list', p[field], at(field));
    }
  for (const m of config.routeMaps)
    for (const e of m.entries) {
      const at = (field: 'match' | 'set' | 'call'): Place => ['routeMaps', m.name, 'entries', String(e.seq), field];
      check(communities, 'community list', e.match?.community?.list, at('match'));
      check(communities, 'community list', e.set?.withoutCommunities, at('set'));
      check(paths, 'AS path list', e.match?.asPath, at('match'));
      check(maps, 'route map', e.call, at('call'));
    }
}

export const namesDefined: DesignRule = {
  id: 'names-defined',
  title: 'Every name that is used is defined',
  severity: 'error',
  source: 'a daemon treats an undefined list as “deny all”, without a word',
  reads: [
    'asPathLists',
    'bfdProfiles',
    'bgp',
    'communityLists',
    'port addresses',
    'prefixLists',
    'routeMaps',
    'staticRoutes',
    'svis',
    'vrfs',
  ],
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
      for (const { speaker, place } of routersIn(config)) {
        const at = (...path: readonly string[]): Place => [...place, ...path] as readonly string[] as Place;
        for (const kind of ['connected', 'static'] as const) {
          const map = speaker.ipv4[kind]?.routeMap;
          if (map !== undefined && !maps.has(map)) miss('route map', map, at('ipv4', kind));
        }
        for (const p of speaker.peers)
          if (p.bfdProfile !== undefined && !profiles.has(p.bfdProfile))
            miss('BFD profile', p.bfdProfile, at('peers', p.name, 'bfdProfile'));
      }
      policyNames(config, { lists, maps }, miss);
      for (const p of config.ports)
        if (p.vrf !== undefined && !vrfs.has(p.vrf)) miss('VRF', p.vrf, ['ports', p.name, 'vrf']);
      for (const r of config.staticRoutes ?? [])
        if (r.vrf !== undefined && !vrfs.has(r.vrf)) miss('VRF', r.vrf, ['staticRoutes', staticKey(r), 'vrf']);
      for (const s of config.svis)
        if (s.vrf !== undefined && !vrfs.has(s.vrf)) miss('VRF', s.vrf, ['svis', sviKey(s), 'vrf']);
      for (const v of config.bgp?.vrfs ?? []) if (!vrfs.has(v.vrf)) miss('VRF', v.vrf, ['bgp', 'vrfs', v.vrf]);
    }
    return out;
  },
};
