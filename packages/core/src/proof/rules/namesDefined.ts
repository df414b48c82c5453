import { sviKey } from '../../config/interfaces.ts';
import { routersIn, type PeerPolicy } from '../../config/bgp.ts';
import { staticKey } from '../../config/static.ts';
import type { Place, SwitchConfig } from '../../config/switchConfig.ts';
import type { Finding } from '../../finding.ts';
import { found, type DesignRule } from '../rule.ts';

interface Known {
  readonly lists: ReadonlySet<string>;
  /** Those of IPv6 have names of their own. */
  readonly ipv6Lists: ReadonlySet<string>;
  readonly maps: ReadonlySet<string>;
}
type Miss = (what: string, name: string, configPlace: Place) => void;

const EVPN: readonly string[] = ['bgp', 'evpn'];
/** Families of a router, with their places. */
const familiesOf = (config: SwitchConfig) =>
  routersIn(config).flatMap(({ speaker, place }) => [
    { family: speaker.ipv4, place: [...place, 'ipv4'], ofIpv6: false },
    ...(speaker.ipv6 ? [{ family: speaker.ipv6, place: [...place, 'ipv6'], ofIpv6: true }] : []),
  ]);

/** Names that policies of neighbours use, and those that route maps use among themselves. */
function policyNames(config: SwitchConfig, { lists, ipv6Lists, maps }: Known, miss: Miss): void {
  const paths = new Set(config.asPathLists?.map((l) => l.name));
  const communities = new Set(config.communityLists?.map((l) => l.name));
  const check = (known: ReadonlySet<string>, what: string, name: string | undefined, place: Place): void => {
    if (name !== undefined && !known.has(name)) miss(what, name, place);
  };
  const said = familiesOf(config);
  for (const { family, place } of said) {
    for (const [network, map] of Object.entries(family.networkMaps ?? {}))
      check(maps, 'route map', map, [...place, 'networkMaps', network] as readonly string[] as Place);
    for (const kind of ['connected', 'static'] as const)
      check(maps, 'route map', family[kind]?.routeMap, [...place, kind] as readonly string[] as Place);
  }
  const evpn = config.bgp ? [{ family: config.bgp.evpn, place: EVPN, ofIpv6: false }] : [];
  for (const { family, place, ofIpv6 } of [...said, ...evpn])
    for (const p of family.policies ?? []) {
      const at = (field: keyof PeerPolicy): Place =>
        [...place, 'policies', p.peer, field] as readonly string[] as Place;
      for (const field of ['mapIn', 'mapOut'] as const) check(maps, 'route map', p[field], at(field));
      const known = ofIpv6 ? ipv6Lists : lists;
      for (const field of ['prefixListIn', 'prefixListOut'] as const)
        check(known, ofIpv6 ? 'IPv6 prefix list' : 'prefix list', p[field], at(field));
      for (const field of ['asPathIn', 'asPathOut'] as const) check(paths, 'AS path list', p[field], at(field));
    }
  for (const m of config.routeMaps)
    for (const e of m.entries) {
      type Field = 'match' | 'set' | 'call' | 'matchPrefixList' | 'matchIpv6PrefixList';
      const at = (field: Field): Place => ['routeMaps', m.name, 'entries', String(e.seq), field];
      check(lists, 'prefix list', e.matchPrefixList, at('matchPrefixList'));
      check(ipv6Lists, 'IPv6 prefix list', e.matchIpv6PrefixList, at('matchIpv6PrefixList'));
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
    'ipv6PrefixLists',
    'ospfPorts',
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
      const ipv6Lists = new Set(config.ipv6PrefixLists?.map((l) => l.name));
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
      for (const { speaker, place } of routersIn(config)) {
        const at = (...path: readonly string[]): Place => [...place, ...path] as readonly string[] as Place;
        for (const p of speaker.peers)
          if (p.bfdProfile !== undefined && !profiles.has(p.bfdProfile))
            miss('BFD profile', p.bfdProfile, at('peers', p.name, 'bfdProfile'));
      }
      for (const p of config.ospfPorts ?? [])
        if (p.bfdProfile !== undefined && !profiles.has(p.bfdProfile))
          miss('BFD profile', p.bfdProfile, ['ospfPorts', p.name, 'bfdProfile']);
      policyNames(config, { lists, ipv6Lists, maps }, miss);
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
