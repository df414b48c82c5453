/**
 * ifupdown2 `/etc/network/interfaces`, one template for each kind of stanza. Each sees its part of the SwitchConfig as `x`.
 */
export const INTERFACES = {
  head: `# {{ x.hostname }}: written by Anthemion from its intent; edits here are found as drift
auto lo
iface lo inet loopback
{%- for a in x.loopbacks %}
    address {{ a }}
{%- endfor %}`,
  port: `

auto {{ x.name }}
iface {{ x.name }}
{%- if x.description %}
    alias {{ x.description }}
{%- endif %}
{%- for a in x.addresses %}
    address {{ a }}
{%- endfor %}
{%- if x.mtu %}
    mtu {{ x.mtu }}
{%- endif %}
{%- if x.shut %}
    link-down yes
{%- endif %}
{%- if x.bridging %}{{ x.bridging | bridging }}{% endif %}`,
  lag: `

auto {{ x.name }}
iface {{ x.name }}
{%- if x.description %}
    alias {{ x.description }}
{%- endif %}
    bond-slaves {{ x.members | join: ' ' }}
    bond-mode 802.3ad
    bond-miimon 100
    bond-lacp-rate 1
{%- if x.segment %}
    bond-ad-actor-system {{ x.segment.systemMac }}
{%- endif %}
{%- if x.mtu %}
    mtu {{ x.mtu }}
{%- endif %}
{%- if x.bridging %}{{ x.bridging | bridging }}{% endif %}`,
  vxlan: `

auto {{ x.name }}
iface {{ x.name }}
    vxlan-id {{ x.vni }}
{%- if x.localAddress %}
    vxlan-local-tunnelip {{ x.localAddress }}
{%- endif %}
{%- if x.vlan %}
    bridge-access {{ x.vlan }}
{%- endif %}
    bridge-learning {% if x.learning %}on{% else %}off{% endif %}
    bridge-arp-nd-suppress {% if x.arpSuppression %}on{% else %}off{% endif %}
{%- if x.mtu %}
    mtu {{ x.mtu }}
{%- endif %}`,
  bridge: `

auto {{ x.name }}
iface {{ x.name }}
    bridge-vlan-aware yes
    bridge-ports {{ x.members | join: ' ' }}
    bridge-vids {{ x.vlans | join: ' ' }}
    bridge-stp off`,
  vrf: `

auto {{ x.name }}
iface {{ x.name }}
    vrf-table auto`,
  svi: `

auto {{ x.name }}
iface {{ x.name }}
{%- for a in x.addresses %}
    address {{ a }}
{%- endfor %}
{%- if x.virtual %}
    address-virtual {{ x.virtual.mac }} {{ x.virtual.address }}
{%- endif %}
    vlan-id {{ x.vlan }}
    vlan-raw-device bridge
{%- if x.mac %}
    hwaddress {{ x.mac }}
{%- endif %}
{%- if x.mtu %}
    mtu {{ x.mtu }}
{%- endif %}
{%- if x.vrf %}
    vrf {{ x.vrf }}
{%- endif %}`,
} as const;

/** FRR's integrated `/etc/frr/frr.conf`, one template for each kind of block. */
export const FRR = {
  head: `{% unless x.policyRequired %}frr defaults datacenter{% else %}frr defaults traditional{% endunless %}
hostname {{ x.hostname }}
service integrated-vtysh-config
log syslog informational
!`,
  vrf: `
vrf {{ x.name }}
{%- if x.l3Vni %}
 vni {{ x.l3Vni }}
{%- endif %}
exit-vrf
!`,
  trackedPort: `
interface {{ x.name }}
 evpn mh uplink
exit
!`,
  segment: `
interface {{ x.name }}
 evpn mh es-id {{ x.segment.number }}
 evpn mh es-sys-mac {{ x.segment.systemMac }}
exit
!`,
  prefixList: `{% for e in x.entries %}
ip prefix-list {{ x.name }} seq {{ e.seq }} {% if e.permit %}permit{% else %}deny{% endif %} {{ e.prefix }}
{%- if e.ge %} ge {{ e.ge }}{% endif %}{% if e.le %} le {{ e.le }}{% endif %}
{%- endfor %}
!`,
  routeMap: `{% for e in x.entries %}
route-map {{ x.name }} {% if e.permit %}permit{% else %}deny{% endif %} {{ e.seq }}
{%- if e.matchPrefixList %}
 match ip address prefix-list {{ e.matchPrefixList }}
{%- endif %}
exit
{%- endfor %}
!`,
  bfd: `
bfd
{%- for p in x.profiles %}
 profile {{ p.name }}
{%- if p.multiplier %}
  detect-multiplier {{ p.multiplier }}
{%- endif %}
{%- if p.transmit %}
  transmit-interval {{ p.transmit }}
{%- endif %}
{%- if p.receive %}
  receive-interval {{ p.receive }}
{%- endif %}
 exit
{%- endfor %}
exit
!`,
  bgpHead: `
router bgp {{ x.asn }}
{%- if x.routerId %}
 bgp router-id {{ x.routerId }}
{%- endif %}
{%- unless x.defaultIpv4 %}
 no bgp default ipv4-unicast
{%- endunless %}
{%- if x.multipathRelax %}
 bgp bestpath as-path multipath-relax
{%- endif %}`,
  peer: `
{%- if x.kind == 'group' %}
 neighbor {{ x.name }} peer-group
{%- if x.remoteAs %}
 neighbor {{ x.name }} remote-as {{ x.remoteAs }}
{%- endif %}
{%- elsif x.kind == 'interface' %}
{%- if x.remoteAs %}
 neighbor {{ x.name }} interface remote-as {{ x.remoteAs }}
{%- endif %}
{%- if x.group %}
 neighbor {{ x.name }} interface peer-group {{ x.group }}
{%- endif %}
{%- else %}
{%- if x.remoteAs %}
 neighbor {{ x.name }} remote-as {{ x.remoteAs }}
{%- endif %}
{%- if x.group %}
 neighbor {{ x.name }} peer-group {{ x.group }}
{%- endif %}
{%- endif %}
{%- if x.description %}
 neighbor {{ x.name }} description {{ x.description }}
{%- endif %}
{%- if x.keepalive %}
 neighbor {{ x.name }} timers {{ x.keepalive }} {{ x.hold }}
{%- endif %}
{%- if x.connect %}
 neighbor {{ x.name }} timers connect {{ x.connect }}
{%- endif %}
{%- if x.bfd %}
 neighbor {{ x.name }} bfd
{%- endif %}
{%- if x.bfdProfile %}
 neighbor {{ x.name }} bfd profile {{ x.bfdProfile }}
{%- endif %}
{%- if x.password %}
 neighbor {{ x.name }} password {{ x.password }}
{%- endif %}
{%- if x.shutdown %}
 neighbor {{ x.name }} shutdown
{%- endif %}`,
  bgpFamilies: `
 !
 address-family ipv4 unicast
{%- if x.ipv4.connected %}
  redistribute connected{% if x.ipv4.connected.routeMap %} route-map {{ x.ipv4.connected.routeMap }}{% endif %}
{%- endif %}
{%- for a in x.ipv4.active %}
  neighbor {{ a }} activate
{%- endfor %}
{%- for a in x.ipv4.ownAsAllowed %}
  neighbor {{ a[0] }} allowas-in {{ a[1] }}
{%- endfor %}
{%- if x.ipv4.maximumPaths %}
  maximum-paths {{ x.ipv4.maximumPaths }}
{%- endif %}
 exit-address-family
 !
 address-family l2vpn evpn
{%- for a in x.evpn.active %}
  neighbor {{ a }} activate
{%- endfor %}
{%- for a in x.evpn.ownAsAllowed %}
  neighbor {{ a[0] }} allowas-in {{ a[1] }}
{%- endfor %}
{%- if x.evpn.advertiseAllVni %}
  advertise-all-vni
{%- endif %}`,
  evpnVni: `
  vni {{ x.vni }}
{%- if x.rd %}
   rd {{ x.rd }}
{%- endif %}
{%- for t in x.imports %}
   route-target import {{ t }}
{%- endfor %}
{%- for t in x.exports %}
   route-target export {{ t }}
{%- endfor %}
  exit-vni`,
  bgpTail: `
 exit-address-family
exit
!`,
  bgpVrf: `
router bgp {{ x.asn }} vrf {{ x.vrf }}
{%- if x.routerId %}
 bgp router-id {{ x.routerId }}
{%- endif %}
 !
 address-family ipv4 unicast
{%- if x.connected %}
  redistribute connected{% if x.connected.routeMap %} route-map {{ x.connected.routeMap }}{% endif %}
{%- endif %}
{%- if x.maximumPaths %}
  maximum-paths {{ x.maximumPaths }}
{%- endif %}
 exit-address-family
 !
 address-family l2vpn evpn
{%- if x.advertiseIpv4 %}
  advertise ipv4 unicast
{%- endif %}
{%- if x.rd %}
  rd {{ x.rd }}
{%- endif %}
{%- for t in x.imports %}
  route-target import {{ t }}
{%- endfor %}
{%- for t in x.exports %}
  route-target export {{ t }}
{%- endfor %}
 exit-address-family
exit
!`,
} as const;
