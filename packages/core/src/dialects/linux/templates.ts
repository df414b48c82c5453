/** ifupdown2 `/etc/network/interfaces`. Sees `c`, the SwitchConfig. */
export const INTERFACES_TEMPLATE = `# {{ c.hostname }}: written by Anthemion from its intent; edits here are found as drift
auto lo
iface lo inet loopback
{%- for a in c.loopbacks %}
    address {{ a }}
{%- endfor %}
{%- for p in c.ports %}

auto {{ p.name }}
iface {{ p.name }}
{%- if p.description %}
    alias {{ p.description }}
{%- endif %}
{%- for a in p.addresses %}
    address {{ a }}
{%- endfor %}
{%- if p.mtu %}
    mtu {{ p.mtu }}
{%- endif %}
{%- if p.bridging %}{{ p.bridging | bridging }}{% endif %}
{%- endfor %}
{%- for l in c.lags %}

auto {{ l.name }}
iface {{ l.name }}
{%- if l.description %}
    alias {{ l.description }}
{%- endif %}
    bond-slaves {{ l.members | join: ' ' }}
    bond-mode 802.3ad
    bond-miimon 100
    bond-lacp-rate 1
{%- if l.segment %}
    bond-ad-actor-system {{ l.segment.systemMac }}
{%- endif %}
{%- if l.mtu %}
    mtu {{ l.mtu }}
{%- endif %}
{%- if l.bridging %}{{ l.bridging | bridging }}{% endif %}
{%- endfor %}
{%- for v in c.vxlans %}

auto {{ v.name }}
iface {{ v.name }}
    vxlan-id {{ v.vni }}
{%- if v.localAddress %}
    vxlan-local-tunnelip {{ v.localAddress }}
{%- endif %}
{%- if v.vlan %}
    bridge-access {{ v.vlan }}
{%- endif %}
    bridge-learning {% if v.learning %}on{% else %}off{% endif %}
    bridge-arp-nd-suppress {% if v.arpSuppression %}on{% else %}off{% endif %}
{%- if v.mtu %}
    mtu {{ v.mtu }}
{%- endif %}
{%- endfor %}
{%- if c.bridge %}

auto {{ c.bridge.name }}
iface {{ c.bridge.name }}
    bridge-vlan-aware yes
    bridge-ports {{ c.bridge.members | join: ' ' }}
    bridge-vids {{ c.bridge.vlans | join: ' ' }}
    bridge-stp off
{%- endif %}
{%- for v in c.vrfs %}

auto {{ v.name }}
iface {{ v.name }}
    vrf-table auto
{%- endfor %}
{%- for s in c.svis %}

auto {{ s.name }}
iface {{ s.name }}
{%- for a in s.addresses %}
    address {{ a }}
{%- endfor %}
{%- if s.virtual %}
    address-virtual {{ s.virtual.mac }} {{ s.virtual.address }}
{%- endif %}
    vlan-id {{ s.vlan }}
    vlan-raw-device {{ c.bridge.name | default: 'bridge' }}
{%- if s.mac %}
    hwaddress {{ s.mac }}
{%- endif %}
{%- if s.mtu %}
    mtu {{ s.mtu }}
{%- endif %}
{%- if s.vrf %}
    vrf {{ s.vrf }}
{%- endif %}
{%- endfor %}
`;

/** FRR integrated `/etc/frr/frr.conf`. Sees `c`, the SwitchConfig. */
export const FRR_TEMPLATE = `{% unless c.bgp.policyRequired %}frr defaults datacenter{% else %}frr defaults traditional{% endunless %}
hostname {{ c.hostname }}
service integrated-vtysh-config
log syslog informational
!
{%- for v in c.vrfs %}
vrf {{ v.name }}
{%- if v.l3Vni %}
 vni {{ v.l3Vni }}
{%- endif %}
exit-vrf
!
{%- endfor %}
{%- for p in c.ports %}{% if p.tracked %}
interface {{ p.name }}
 evpn mh uplink
exit
!
{%- endif %}{% endfor %}
{%- for l in c.lags %}{% if l.segment %}
interface {{ l.name }}
 evpn mh es-id {{ l.segment.number }}
 evpn mh es-sys-mac {{ l.segment.systemMac }}
exit
!
{%- endif %}{% endfor %}
{%- for l in c.prefixLists %}{% for e in l.entries %}
ip prefix-list {{ l.name }} seq {{ e.seq }} {% if e.permit %}permit{% else %}deny{% endif %} {{ e.prefix }}
{%- if e.ge %} ge {{ e.ge }}{% endif %}{% if e.le %} le {{ e.le }}{% endif %}
{%- endfor %}
!
{%- endfor %}
{%- for m in c.routeMaps %}{% for e in m.entries %}
route-map {{ m.name }} {% if e.permit %}permit{% else %}deny{% endif %} {{ e.seq }}
{%- if e.matchPrefixList %}
 match ip address prefix-list {{ e.matchPrefixList }}
{%- endif %}
exit
{%- endfor %}
!
{%- endfor %}
{%- if c.bfdProfiles.size > 0 %}
bfd
{%- for p in c.bfdProfiles %}
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
!
{%- endif %}
{%- if c.bgp %}{% assign b = c.bgp %}
router bgp {{ b.asn }}
{%- if b.routerId %}
 bgp router-id {{ b.routerId }}
{%- endif %}
{%- unless b.defaultIpv4 %}
 no bgp default ipv4-unicast
{%- endunless %}
{%- if b.multipathRelax %}
 bgp bestpath as-path multipath-relax
{%- endif %}
{%- for p in b.peers %}
{%- if p.kind == 'group' %}
 neighbor {{ p.name }} peer-group
{%- if p.remoteAs %}
 neighbor {{ p.name }} remote-as {{ p.remoteAs }}
{%- endif %}
{%- elsif p.kind == 'interface' %}
{%- if p.remoteAs %}
 neighbor {{ p.name }} interface remote-as {{ p.remoteAs }}
{%- endif %}
{%- if p.group %}
 neighbor {{ p.name }} interface peer-group {{ p.group }}
{%- endif %}
{%- else %}
{%- if p.remoteAs %}
 neighbor {{ p.name }} remote-as {{ p.remoteAs }}
{%- endif %}
{%- if p.group %}
 neighbor {{ p.name }} peer-group {{ p.group }}
{%- endif %}
{%- endif %}
{%- if p.description %}
 neighbor {{ p.name }} description {{ p.description }}
{%- endif %}
{%- if p.keepalive %}
 neighbor {{ p.name }} timers {{ p.keepalive }} {{ p.hold }}
{%- endif %}
{%- if p.connect %}
 neighbor {{ p.name }} timers connect {{ p.connect }}
{%- endif %}
{%- if p.bfd %}
 neighbor {{ p.name }} bfd
{%- endif %}
{%- if p.bfdProfile %}
 neighbor {{ p.name }} bfd profile {{ p.bfdProfile }}
{%- endif %}
{%- if p.shutdown %}
 neighbor {{ p.name }} shutdown
{%- endif %}
{%- endfor %}
 !
 address-family ipv4 unicast
{%- if b.ipv4.connected %}
  redistribute connected{% if b.ipv4.connected.routeMap %} route-map {{ b.ipv4.connected.routeMap }}{% endif %}
{%- endif %}
{%- for a in b.ipv4.active %}
  neighbor {{ a }} activate
{%- endfor %}
{%- for a in b.ipv4.ownAsAllowed %}
  neighbor {{ a[0] }} allowas-in {{ a[1] }}
{%- endfor %}
{%- if b.ipv4.maximumPaths %}
  maximum-paths {{ b.ipv4.maximumPaths }}
{%- endif %}
 exit-address-family
 !
 address-family l2vpn evpn
{%- for a in b.evpn.active %}
  neighbor {{ a }} activate
{%- endfor %}
{%- for a in b.evpn.ownAsAllowed %}
  neighbor {{ a[0] }} allowas-in {{ a[1] }}
{%- endfor %}
{%- if b.evpn.advertiseAllVni %}
  advertise-all-vni
{%- endif %}
{%- for v in b.evpn.vnis %}
  vni {{ v.vni }}
{%- if v.rd %}
   rd {{ v.rd }}
{%- endif %}
{%- for t in v.imports %}
   route-target import {{ t }}
{%- endfor %}
{%- for t in v.exports %}
   route-target export {{ t }}
{%- endfor %}
  exit-vni
{%- endfor %}
 exit-address-family
exit
!
{%- for v in b.vrfs %}
router bgp {{ v.asn }} vrf {{ v.vrf }}
{%- if v.routerId %}
 bgp router-id {{ v.routerId }}
{%- endif %}
 !
 address-family ipv4 unicast
{%- if v.connected %}
  redistribute connected{% if v.connected.routeMap %} route-map {{ v.connected.routeMap }}{% endif %}
{%- endif %}
{%- if v.maximumPaths %}
  maximum-paths {{ v.maximumPaths }}
{%- endif %}
 exit-address-family
 !
 address-family l2vpn evpn
{%- if v.advertiseIpv4 %}
  advertise ipv4 unicast
{%- endif %}
{%- if v.rd %}
  rd {{ v.rd }}
{%- endif %}
{%- for t in v.imports %}
  route-target import {{ t }}
{%- endfor %}
{%- for t in v.exports %}
  route-target export {{ t }}
{%- endfor %}
 exit-address-family
exit
!
{%- endfor %}
{%- endif %}
`;
