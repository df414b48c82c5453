import type { Place } from '../../config/switchConfig.ts';

/** What becomes of a word of `interfaces` that makes no part of a configuration here. */
export interface StrangeWord {
  readonly why: string;
  readonly harmless?: true;
  /** What it may change; absent with `doubtful` = what the stanza is of. */
  readonly doubts?: Place;
  readonly doubtful: boolean;
}

const DRIVEN = 'it says how the link is driven, not what goes over it';
const WATCHED = 'it says how members are watched and shared';
const TIMED = 'it says how fast the bridge forgets and settles';
/** Words on which nothing hangs that is computed, and why. */
const HARMLESS: readonly (readonly [RegExp, string])[] = [
  [
    /^(link-(autoneg|fec|duplex)|\w+-offload|mpls-enable|arp-accept|address-purge|broadcast|scope|preferred-lifetime)$/,
    DRIVEN,
  ],
  [/^ip6-forward$/, 'of IPv6 nothing is computed'],
  [
    /^bond-(use-carrier|num-grat-arp|num-unsol-na|xmit-hash-policy|min-links|updelay|downdelay|primary|primary-reselect|ad-sys-priority|ad-actor-sys-prio|lacp-bypass-allow)$/,
    WATCHED,
  ],
  [
    /^bridge-(ageing|fd|gcint|hello|maxage|pathcosts|portprios|hashel|hashmax|waitport|maxwait|vlan-stats|always-up)$/,
    TIMED,
  ],
  [
    /^bridge-(mc\w+|portmc\w+|igmp\S+|mld\S+|ports-condone-regex)$/,
    'it is of multicast, or of members that may be missing',
  ],
  [/^vxlan-(ageing|ttl)$/, TIMED],
];
const RUNS = /^(pre-up|up|post-up|pre-down|down|post-down)$/;
/** Words that ifupdown2 3.0 knows and that change what a switch does in ways that are not modelled. */
const UNMODELLED =
  /^(address|address-virtual\S*|netmask|pointopoint|gateway|mtu|hwaddress|alias|clagd-vxlan-anycast-ip|ip-forward|ipv6-addrgen|vrrp\S*|batman-\S+|bond-\S+|es-sys-mac|bridge-\S+|link-\S+|veth-peer-name|mstpctl-\S+|ovs-\S+|provider|ppp-physdev|tunnel-\S+|mode|local|endpoint|ttl|vlan-\S+|vrf|vrf-table|vxlan-\S+|xfrm-\S+)$/;

/** What a word means that no kind of stanza here reads. */
export function strangeWord(key: string): StrangeWord {
  const because = HARMLESS.find(([words]) => words.test(key))?.[1];
  if (because !== undefined) return { why: because, harmless: true, doubtful: false };
  if (RUNS.test(key)) return { why: 'it runs a program, which may do anything', doubts: [], doubtful: true };
  if (key === 'gateway')
    return { why: 'it makes a default route, which is not modelled', doubts: ['staticRoutes'], doubtful: true };
  if (UNMODELLED.test(key)) return { why: `${key} is not modelled for this kind of interface`, doubtful: true };
  return { why: `ifupdown2 has no word ${key} and leaves it out`, doubtful: false };
}
