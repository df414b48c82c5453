import { familyName, routersIn, type BgpFamily, type BgpRouterSaid, type PeerPolicy } from './bgp.ts';
import type { Place, SwitchConfig } from './switchConfig.ts';

/** What is defined once and used by its name: of each kind the names are its own. */
export type PolicyKind =
  | 'route map'
  | 'prefix list'
  | 'IPv6 prefix list'
  | 'community list'
  | 'large community list'
  | 'extended community list'
  | 'AS path list'
  | 'access list'
  | 'IPv6 access list';

/** All of a kind that a switch has. */
export const POLICIES = {
  'route map': (c) => c.routeMaps,
  'prefix list': (c) => c.prefixLists,
  'IPv6 prefix list': (c) => c.ipv6PrefixLists ?? [],
  'community list': (c) => c.communityLists ?? [],
  'large community list': (c) => c.largeCommunityLists ?? [],
  'extended community list': (c) => c.extendedCommunityLists ?? [],
  'AS path list': (c) => c.asPathLists ?? [],
  'access list': (c) => c.accessLists ?? [],
  'IPv6 access list': (c) => c.ipv6AccessLists ?? [],
} satisfies Readonly<Record<PolicyKind, (config: SwitchConfig) => readonly { readonly name: string }[]>>;

/** A place where a policy is used by its name. */
export interface PolicyUse {
  readonly kind: PolicyKind;
  readonly name: string;
  readonly place: Place;
  /** What goes through it: `what p49 tells`. */
  readonly words: string;
}

type Say = (kind: PolicyKind, name: string | undefined, place: readonly string[], words: string) => void;

const FAMILY_WORDS = { ipv4: 'IPv4', ipv6: 'IPv6', evpn: 'EVPN' } as const;
type FamilyName = keyof typeof FAMILY_WORDS;

/** What one neighbour, or group of them, tells and is told in a family. */
function peerUses(p: PeerPolicy, name: FamilyName, inVrf: string, place: readonly string[], say: Say): void {
  const at = (field: keyof PeerPolicy): readonly string[] => [...place, name, 'policies', p.peer, field];
  const tells = `what ${p.peer} tells of ${FAMILY_WORDS[name]}${inVrf}`;
  const told = `what ${p.peer} is told of ${FAMILY_WORDS[name]}${inVrf}`;
  const list = name === 'ipv6' ? 'IPv6 prefix list' : 'prefix list';
  say('route map', p.mapIn, at('mapIn'), tells);
  say('route map', p.mapOut, at('mapOut'), told);
  say(list, p.prefixListIn, at('prefixListIn'), tells);
  say(list, p.prefixListOut, at('prefixListOut'), told);
  const access = name === 'ipv6' ? 'IPv6 access list' : 'access list';
  say(access, p.accessListIn, at('accessListIn'), tells);
  say(access, p.accessListOut, at('accessListOut'), told);
  say('AS path list', p.asPathIn, at('asPathIn'), tells);
  say('AS path list', p.asPathOut, at('asPathOut'), told);
}

function routerUses({ speaker, vrf, place }: BgpRouterSaid, say: Say): void {
  const inVrf = vrf === undefined ? '' : ` in ${vrf}`;
  for (const family of [4, 6] as const) {
    const name = familyName(family);
    const said = speaker[name];
    if (!said) continue;
    for (const [network, map] of Object.entries(said.networkMaps ?? {}))
      say('route map', map, [...place, name, 'networkMaps', network], `${network}, which BGP announces${inVrf}`);
    for (const from of ['connected', 'static'] as const)
      say('route map', said[from]?.routeMap, [...place, name, from], `${from} routes that BGP tells${inVrf}`);
    say('route map', said.importMap, [...place, name, 'importMap'], `routes that ${vrf ?? 'BGP'} has from other VRFs`);
    for (const p of said.policies ?? []) peerUses(p, name, inVrf, place, say);
  }
}

function mapUses({ routeMaps }: SwitchConfig, say: Say): void {
  for (const m of routeMaps)
    for (const e of m.entries) {
      const at = (field: string): readonly string[] => ['routeMaps', m.name, 'entries', String(e.seq), field];
      const words = `entry ${e.seq} of route map ${m.name}`;
      say('prefix list', e.matchPrefixList, at('matchPrefixList'), words);
      say('IPv6 prefix list', e.matchIpv6PrefixList, at('matchIpv6PrefixList'), words);
      say('access list', e.matchAccessList, at('matchAccessList'), words);
      say('IPv6 access list', e.matchIpv6AccessList, at('matchIpv6AccessList'), words);
      say('community list', e.match?.community?.list, at('match'), words);
      say('community list', e.set?.withoutCommunities, at('set'), words);
      say('large community list', e.match?.largeCommunity?.list, at('match'), words);
      say('large community list', e.set?.withoutLarge, at('set'), words);
      say('extended community list', e.match?.extendedCommunity, at('match'), words);
      say('AS path list', e.match?.asPath, at('match'), words);
      const hops = e.match?.nextHops;
      if (hops)
        say(
          'list' in hops ? 'prefix list' : 'access list',
          'list' in hops ? hops.list : 'access' in hops ? hops.access : undefined,
          at('match'),
          words,
        );
      say('route map', e.call, at('call'), words);
    }
}

/** Every place of a switch that uses a route map or a list by its name. */
export function policyUses(config: SwitchConfig): readonly PolicyUse[] {
  const out: PolicyUse[] = [];
  const say: Say = (kind, name, place, words) => {
    if (name !== undefined) out.push({ kind, name, place: place as Place, words });
  };
  for (const router of routersIn(config)) routerUses(router, say);
  for (const v of config.bgp?.vrfs ?? []) {
    say('route map', v.advertiseIpv4Map, ['bgp', 'vrfs', v.vrf, 'advertiseIpv4Map'], `what EVPN tells of ${v.vrf}`);
    say(
      'route map',
      v.advertiseIpv6Map,
      ['bgp', 'vrfs', v.vrf, 'advertiseIpv6Map'],
      `what EVPN tells of IPv6 of ${v.vrf}`,
    );
  }
  const evpn: BgpFamily | undefined = config.bgp?.evpn;
  for (const p of evpn?.policies ?? []) peerUses(p, 'evpn', '', ['bgp'], say);
  for (const router of ['ospf', 'ospf6'] as const)
    for (const from of ['connected', 'static'] as const)
      say(
        'route map',
        config[router]?.[from]?.routeMap,
        [router, from],
        `${from} routes that ${router === 'ospf' ? 'OSPF' : 'OSPFv3'} tells`,
      );
  mapUses(config, say);
  return out;
}
