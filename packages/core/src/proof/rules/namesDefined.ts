import { sviKey } from '../../config/interfaces.ts';
import { routersIn } from '../../config/bgp.ts';
import { POLICIES, policyUses, type PolicyKind, type PolicyUse } from '../../config/policyUses.ts';
import { staticKey } from '../../config/static.ts';
import type { Place, SwitchConfig } from '../../config/switchConfig.ts';
import type { Finding } from '../../finding.ts';
import { groupBy } from '../../numbers/order.ts';
import { found, type DesignRule } from '../rule.ts';

/** Where those of a kind stand. */
const PARTS: Readonly<Record<PolicyKind, keyof SwitchConfig>> = {
  'route map': 'routeMaps',
  'prefix list': 'prefixLists',
  'IPv6 prefix list': 'ipv6PrefixLists',
  'community list': 'communityLists',
  'large community list': 'largeCommunityLists',
  'extended community list': 'extendedCommunityLists',
  'AS path list': 'asPathLists',
  'access list': 'accessLists',
  'IPv6 access list': 'ipv6AccessLists',
};

/** The maps that lead from a map back to itself, the one that is called first; null = none do. */
function circleOf(map: string, calls: ReadonlyMap<string, readonly PolicyUse[]>): string[] | null {
  const ways: string[][] = [[map]];
  const seen = new Set<string>();
  for (let way = ways.shift(); way; way = ways.shift())
    for (const { name } of calls.get(way.at(-1)!) ?? []) {
      if (name === map) return [...way.slice(1), map];
      if (!seen.has(name)) ways.push([...way, name]);
      seen.add(name);
    }
  return null;
}

/** Maps that call themselves, over others or not. */
function circlesIn(host: string, uses: readonly PolicyUse[]): Finding[] {
  const calling = uses.filter((u) => u.kind === 'route map' && (u.place as readonly string[])[0] === 'routeMaps');
  const calls = groupBy(calling, (u) => (u.place as readonly string[])[1]!);
  return [...calls].flatMap(([map, own]) => {
    const circle = circleOf(map, calls);
    if (!circle) return [];
    const over = circle.length === 1 ? '' : ` over ${circle.slice(0, -1).join(' and ')}`;
    return [
      found(
        namesDefined,
        { host, configPlace: own.find((u) => u.name === circle[0])!.place },
        `${host}: route map ${map} calls itself${over}: FRR gives up after ten calls, and nothing gets through there.`,
        `Take the call of ${circle[0]} out.`,
      ),
    ];
  });
}

export const namesDefined: DesignRule = {
  id: 'names-defined',
  title: 'Every name that is used is defined, and no route map calls itself',
  severity: 'error',
  scope: 'network',
  source: 'a daemon treats an undefined list as “deny all”, without a word',
  reads: [
    'accessLists',
    'asPathLists',
    'bfdProfiles',
    'bgp',
    'communityLists',
    'extendedCommunityLists',
    'ipv6AccessLists',
    'ipv6PrefixLists',
    'largeCommunityLists',
    'ospf',
    'ospf6',
    'ospfPorts',
    'port addresses',
    'prefixLists',
    'routeMaps',
    'staticRoutes',
    'svis',
    'unread',
    'vrfs',
  ],
  judge: ({ switches }) => {
    const out: Finding[] = [];
    for (const { host, config, unread } of switches) {
      // What is defined in words that are not understood is defined.
      const unclear = new Set(unread.map((l) => (l.doubts ?? []).slice(0, 2).join(' ')));
      const known = new Map<PolicyKind, ReadonlySet<string>>();
      const has = (kind: PolicyKind, name: string): boolean => {
        let names = known.get(kind);
        if (!names) known.set(kind, (names = new Set(POLICIES[kind](config).map((p) => p.name))));
        return names.has(name);
      };
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
      const uses = policyUses(config);
      for (const { kind, name, place } of uses)
        if (!has(kind, name) && !unclear.has(`${PARTS[kind]} ${name}`)) miss(kind, name, place);
      out.push(...circlesIn(host, uses));
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
