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
/** The other words that ifupdown2 3.0 knows: they change what a switch does in ways that are not modelled here. */
const UNMODELLED = new Set(
  `address netmask pointopoint gateway mtu hwaddress alias clagd-vxlan-anycast-ip ip-forward ip6-forward ipv6-addrgen
address-virtual address-virtual-ipv6-addrgen vrrp vrrp-id vrrp-priority vrrp-virtual-ip
batman-ifaces batman-ifaces-ignore-regex batman-distributed-arp-table batman-gw-mode batman-hop-penalty batman-multicast-mode batman-routing-algo
bond-miimon bond-mode bond-lacp-rate bond-ad-sys-mac-addr bond-ad-actor-system bond-slaves bond-ports es-sys-mac
bridge-vlan-aware bridge-ports bridge-stp bridge-bridgeprio bridge-vids bridge-trunk bridge-pvid bridge-access bridge-allow-untagged
bridge-port-vids bridge-port-pvids bridge-learning bridge-unicast-flood bridge-multicast-flood bridge-broadcast-flood bridge-vlan-protocol
bridge-arp-nd-suppress bridge-l2protocol-tunnel bridge-vlan-vni-map link-speed link-type link-down veth-peer-name
mstpctl-ports mstpctl-stp mstpctl-treeprio mstpctl-ageing mstpctl-maxage mstpctl-fdelay mstpctl-maxhops mstpctl-txholdcount
mstpctl-forcevers mstpctl-portpathcost mstpctl-portp2p mstpctl-portrestrrole mstpctl-portrestrtcn mstpctl-bpduguard mstpctl-treeportprio
mstpctl-hello mstpctl-portnetwork mstpctl-portadminedge mstpctl-portautoedge mstpctl-treeportcost mstpctl-portbpdufilter
ovs-ports ovs-type ovs-mtu ovs-options ovs-extra ovs-ports-condone-regex ovs-bridge ovs-bonds ovs-tunnel-type ovs-tunnel-options ovs-patch-peer
provider ppp-physdev tunnel-mode mode tunnel-local local tunnel-endpoint endpoint tunnel-ttl ttl tunnel-dev tunnel-physdev
vlan-raw-device vlan-id vlan-protocol vrf-table vrf vxlan-id vxlan-local-tunnelip vxlan-svcnodeip vxlan-svcnodeip6 vxlan-remoteip
vxlan-learning vxlan-purge-remotes vxlan-port vxlan-physdev vxlan-mcastgrp vxlan-mcastgrp6 vxlan-mcastgrp-map xfrm-id xfrm-physdev`.split(
    /\s+/,
  ),
);

/** What a word means that no kind of stanza here reads. */
export function strangeWord(key: string): StrangeWord {
  const because = HARMLESS.find(([words]) => words.test(key))?.[1];
  if (because !== undefined) return { why: because, harmless: true, doubtful: false };
  if (RUNS.test(key)) return { why: 'it runs a program, which may do anything', doubts: [], doubtful: true };
  if (key === 'gateway')
    return { why: 'it makes a default route, which is not modelled', doubts: ['staticRoutes'], doubtful: true };
  if (UNMODELLED.has(key)) return { why: `${key} is not modelled for this kind of interface`, doubtful: true };
  return { why: `ifupdown2 has no word ${key} and leaves it out`, doubtful: false };
}
