import { readdirSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { findingsIn, skerryTexts, type Texts } from '../../testing/skerryFolder.ts';
import { DESIGN_RULES } from './index.ts';

/** Damages text; throws where the text to damage is not there, so that no case can pass by accident. */
function swap(texts: Texts, host: string, file: 'interfaces' | 'frr.conf', from: string | RegExp, to: string): void {
  const before = texts[host]![file];
  const after = typeof from === 'string' ? before.replaceAll(from, to) : before.replace(from, to);
  if (after === before) throw new Error(`nothing to damage in ${host} ${file}: ${from}`);
  texts[host]![file] = after;
}
const every = (texts: Texts, file: 'interfaces' | 'frr.conf', from: string, to: string): void => {
  for (const host of Object.keys(texts)) if (texts[host]![file].includes(from)) swap(texts, host, file, from, to);
};

/** Two leaves and two spines joined by bridges in a square, on VLAN 210; `stp` = the spines take part in a spanning tree. */
function bridgeTheSquare(texts: Texts, stp: readonly 'on'[]): void {
  for (const host of ['sk-lf-01', 'sk-lf-02'])
    for (const port of ['p49', 'p50']) {
      swap(texts, host, 'interfaces', new RegExp(`(iface ${port}\\n)`), '$1    bridge-vids 210\n');
      swap(texts, host, 'interfaces', /(bridge-ports .*)/, `$1 ${port}`);
    }
  for (const host of ['sk-sp-01', 'sk-sp-02']) {
    for (const port of ['p1', 'p2'])
      swap(texts, host, 'interfaces', new RegExp(`(iface ${port}\\n)`), '$1    bridge-vids 210\n');
    const bridge = `auto bridge\niface bridge\n    bridge-vlan-aware yes\n    bridge-ports p1 p2\n    bridge-vids 210\n    bridge-stp ${stp[0] ?? 'off'}\n`;
    swap(texts, host, 'interfaces', /$/, `\n${bridge}`);
  }
}

/** For each rule a damage it must see, and the place it must point to. */
const DAMAGES: Record<string, { damage: (t: Texts) => void; says: RegExp; line?: RegExp }> = {
  'text-read': {
    damage: (t) => swap(t, 'sk-lf-01', 'frr.conf', ' multipath-relax', ' multipath-relaxed'),
    says: /not understood/,
    line: /multipath-relaxed/,
  },
  'line-strays': {
    damage: (t) => swap(t, 'sk-lf-01', 'frr.conf', '  advertise-all-vni', '  maximum-paths 2\n  advertise-all-vni'),
    says: /“maximum-paths 2” does not work where it stands: FRR puts it into router bgp › address-family ipv4 unicast/,
    line: /^ {2}maximum-paths 2/,
  },
  'way-in-open': {
    damage: (t) => swap(t, 'sk-lf-01', 'interfaces', /$/, '\nauto eth0\niface eth0\n    mtu 1500\n'),
    says: /brings eth0, its management port, up without an address/,
    line: /iface eth0/,
  },
  'tunnel-passes': {
    damage: (t) =>
      void Object.assign(t['sk-sp-01']!, {
        'nftables.conf':
          'table inet an_t {\n chain an_c {\n  type filter hook forward priority 0; policy accept;\n  tcp dport 179 accept\n  meta l4proto udp drop\n }\n}\n',
      }),
    says: /^sk-sp-01 stops every tunnel: a filter of sk-sp-01 stops it: rule 2 of chain an_c in inet an_t\.$/,
    line: /meta l4proto udp drop/,
  },
  'bgp-session-up': {
    damage: (t) => swap(t, 'sk-lf-01', 'frr.conf', 'p49 interface remote-as external', 'p49 interface remote-as 65999'),
    says: /AS 65999 is said here, sk-sp-01 has AS 65100/,
    line: /neighbor p49/,
  },
  'ospf-neighbour-up': {
    damage: (t) => {
      for (const host of ['sk-lf-01', 'sk-sp-01']) {
        swap(t, host, 'frr.conf', /^(router bgp .*\n)/m, 'router ospf\nexit\n$1');
        const port = host === 'sk-lf-01' ? 'p49' : 'p1';
        const said = `interface ${port}\n ip address 10.9.9.${port === 'p1' ? 1 : 0}/31\n ip ospf area ${port === 'p1' ? 1 : 0}\nexit\n`;
        swap(t, host, 'frr.conf', /^(bfd\n)/m, `${said}$1`);
      }
    },
    says: /sk-lf-01: no OSPF with sk-sp-01 over p49: area 0\.0\.0\.0 here, 0\.0\.0\.1 on sk-sp-01/,
    line: /interface p49|ip ospf area 0/,
  },
  'path-width': {
    damage: (t) => swap(t, 'sk-lf-01', 'frr.conf', /maximum-paths 64/, 'maximum-paths 2'),
    says: /sk-lf-01 uses 2 of 4 paths/,
    line: /maximum-paths 2/,
  },
  'gone-round': {
    damage: (t) => {
      asksAround(t, 'sk-sp-01');
      for (const port of ['p50', 'p51', 'p52']) shutAt(t, 'sk-lf-01', port);
    },
    says: /^sk-sp-01 asks to be gone round, and others still go over it: sk-lf-0[12] to sk-lf-0[12], and \d+ more pairs\. They have no other way\.$/,
    line: /bgp graceful-shutdown/,
  },
  'policy-allows': {
    damage: (t) => swap(t, 'sk-lf-01', 'frr.conf', 'frr defaults datacenter', 'frr defaults traditional'),
    says: /exchanges no route/,
    line: /frr defaults traditional/,
  },
  'leaks-filtered': {
    damage: (t) =>
      swap(t, 'sk-lf-01', 'frr.conf', '  redistribute connected\n', '  redistribute connected\n  import vrf tides\n'),
    says: /^\w+ has every route of tides on sk-lf-01, and all that they ever learn\.$/,
    line: /import vrf tides/,
  },
  'map-goes-on': {
    damage: (t) =>
      swap(
        t,
        'sk-lf-01',
        'frr.conf',
        /^(bfd\n)/m,
        'route-map M permit 10\n set metric 5\n on-match next\nexit\nroute-map M permit 20\n match tag 7\nexit\n$1',
      ),
    says: /^sk-lf-01: route map M goes on after entry 10, and what no later entry takes is denied after all\.$/,
    line: /on-match next/,
  },
  'peer-asked': {
    damage: (t) =>
      swap(
        t,
        'sk-lf-01',
        'frr.conf',
        /^(bfd\n)/m,
        'route-map M permit 10\n match peer 192.0.2.7\nexit\nroute-map M permit 20\nexit\n$1',
      ),
    says: /^sk-lf-01: route map M hears nothing from 192\.0\.2\.7, so its entry 10 never matches\.$/,
    line: /match peer/,
  },
  'timers-sound': {
    damage: (t) => swap(t, 'sk-lf-01', 'frr.conf', ' neighbor FABRIC timers 3 9', ' neighbor FABRIC timers 9 3'),
    says: /^sk-lf-01: FABRIC has keepalive 9 and hold time 3: one keepalive that is lost, or late, ends the session\.$/,
    line: /timers 9 3/,
  },
  'asn-valid': {
    damage: (t) => swap(t, 'sk-lf-01', 'frr.conf', 'router bgp 65110', 'router bgp 23456'),
    says: /23456, which is reserved/,
    line: /router bgp 23456/,
  },
  'transit-shares-as': {
    damage: (t) => swap(t, 'sk-sp-02', 'frr.conf', 'router bgp 65100', 'router bgp 65105'),
    says: /sk-sp-02 has AS 65105/,
  },
  'router-id-unique': {
    damage: (t) => swap(t, 'sk-lf-02', 'frr.conf', /bgp router-id \S+/, 'bgp router-id 10.255.0.4'),
    says: /both have router id 10.255.0.4/,
    line: /router-id 10.255.0.4/,
  },
  'address-unique': {
    damage: (t) => swap(t, 'sk-lf-02', 'interfaces', '10.255.1.1', '10.255.1.0'),
    says: /10\.255\.1\.0, which is sk-lf-01's/,
  },
  'drive-equal': {
    damage: (t) => {
      swap(t, 'sk-lf-01', 'interfaces', /(iface p49\n.*\n)/, '$1    link-fec rs\n');
      swap(t, 'sk-sp-01', 'interfaces', /(iface p1\n.*\n)/, '$1    link-fec off\n');
    },
    says: /sk-lf-01 p49 has RS-FEC, p1 of sk-sp-01 has no FEC: there is no light/,
    line: /link-fec rs/,
  },
  'link-mtu-equal': {
    damage: (t) => swap(t, 'sk-lf-01', 'interfaces', /(iface p49\n.*\n) {4}mtu 9216/, '$1    mtu 9150'),
    says: /9150, sk-sp-01 p1 has 9216/,
    line: /mtu 9150/,
  },
  'bfd-both-ends': {
    damage: (t) => swap(t, 'sk-sp-01', 'frr.conf', /( neighbor FABRIC bfd.*\n)+/, ''),
    says: /runs BFD, sk-sp-01 does not/,
  },
  'names-defined': {
    damage: (t) =>
      swap(
        t,
        'sk-lf-01',
        'frr.conf',
        'redistribute connected route-map CONNECTED',
        'redistribute connected route-map CONECTED',
      ),
    says: /route map CONECTED is used but not defined/,
    line: /CONECTED/,
  },
  'vtep-local': {
    damage: (t) => swap(t, 'sk-lf-01', 'interfaces', 'tunnelip 10.255.1.0', 'tunnelip 10.255.1.77'),
    says: /which the switch does not have/,
    line: /10\.255\.1\.77/,
  },
  'mtu-carries-vxlan': {
    damage: (t) => every(t, 'interfaces', 'mtu 9000', 'mtu 9200'),
    says: /needs 9250, the links have 9216/,
    line: /mtu 9200/,
  },
  'gateway-mtu-carried': {
    damage: (t) => swap(t, 'sk-lf-01', 'interfaces', /(iface bridge\n(?: .*\n)*?) {4}mtu 9000\n/, '$1'),
    says: /is to have MTU 9000 on a bridge of which no line says an MTU and which so has 1500: it gets no more/,
    line: /mtu 9000/,
  },
  'network-mtu-equal': {
    damage: (t) => swap(t, 'sk-lf-01', 'interfaces', /(iface vlan210\n(?:.*\n)*?) {4}mtu 9000/, '$1    mtu 8000'),
    says: /VLAN interface 210 has MTU 8000/,
    line: /mtu 8000/,
  },
  'vlan-meaning': {
    damage: (t) => swap(t, 'sk-lf-02', 'interfaces', 'vxlan-id 10006', 'vxlan-id 10777'),
    says: /VLAN 210 is VNI 10777 on sk-lf-02 and VNI 10006/,
  },
  'gateway-equal': {
    damage: (t) =>
      swap(
        t,
        'sk-lf-02',
        'interfaces',
        /(iface vlan210\n) {4}address (\d+\.\d+\.\d+)\.1\/24/,
        '$1    address $2.254/24',
      ),
    says: /VLAN 210: sk-lf-02 has gateway/,
    line: /\.254\/24/,
  },
  'gateway-mac': {
    damage: (t) => every(t, 'interfaces', '02:00:5e:00:00:d2', '00:00:5e:00:01:d2'),
    says: /VRRP range/,
    line: /00:00:5e:00:01:d2/,
  },
  'subnet-overlap': {
    damage: (t) => every(t, 'interfaces', '.1/24', '.1/20'),
    says: /lies inside|overlaps/,
    line: /\.1\/20/,
  },
  'rd-unique': {
    damage: (t) => swap(t, 'sk-lf-01', 'frr.conf', /rd (\S+):210/, 'rd $1:4001'),
    says: /RD 10\.255\.0\.4:4001 is used by/,
    line: /rd 10\.255\.0\.4:4001/,
  },
  'vni-heard': {
    damage: (t) =>
      swap(t, 'sk-lf-02', 'frr.conf', 'route-target export 65000:10006', 'route-target export 65000:19006'),
    says: /VNI 10006: .* cannot hear sk-lf-02: route targets do not meet/,
  },
  'vrf-complete': {
    damage: (t) => swap(t, 'sk-lf-01', 'frr.conf', /vrf soundings\n vni 10000/, 'vrf soundings'),
    says: /VRF soundings: the VRF has no L3 VNI/,
    line: /vrf soundings|iface soundings|auto soundings/,
  },
  'l3vni-meets': {
    damage: (t) =>
      swap(t, 'sk-lf-02', 'frr.conf', 'route-target import 65000:10000', 'route-target import 65000:10001'),
    says: /VRF soundings: routes of sk-lf-02 and sk-lf-01 do not meet/,
  },
  'pair-agrees': {
    damage: (t) =>
      swap(t, 'sk-lf-07b', 'frr.conf', /es-id 1\n evpn mh es-sys-mac 02:ae/, 'es-id 1\n evpn mh es-sys-mac 02:af'),
    says: /no other switch has Ethernet segment/,
  },
  'segment-elects-one': {
    damage: (t) => swap(t, 'sk-lf-07b', 'frr.conf', /router bgp 65117/g, 'router bgp 65116'),
    says: /sk-lf-07a and sk-lf-07b both forward what is flooded to segment 02:ae:fd:e8:00:07 1/,
  },
  'loop-guarded': {
    damage: (t) => bridgeTheSquare(t, []),
    says: /sk-lf-02 p50 and sk-sp-02 p2 close a loop of bridges that take no part in a spanning tree/,
    line: /p50/,
  },
  'vlan-joined': {
    damage: (t) => {
      bridgeTheSquare(t, ['on']);
      swap(t, 'sk-lf-02', 'interfaces', /(bridge-ports .*)/, '$1 p40');
      swap(t, 'sk-lf-02', 'interfaces', /(bridge-vids .*)/, '$1 777');
      swap(t, 'sk-lf-02', 'interfaces', /$/, '\nauto p40\niface p40\n    bridge-access 777\n');
      swap(t, 'sk-lf-01', 'interfaces', /(bridge-ports .*)/, '$1 p40');
      swap(t, 'sk-lf-01', 'interfaces', /(bridge-vids .*)/, '$1 777');
      swap(t, 'sk-lf-01', 'interfaces', /$/, '\nauto p40\niface p40\n    bridge-access 777\n');
    },
    says: /VLAN 777 of sk-lf-02 is cut off from VLAN 777 of sk-lf-01/,
  },
  'mtu-carries-vlan': {
    damage: (t) => {
      bridgeTheSquare(t, ['on']);
      swap(t, 'sk-lf-01', 'interfaces', /(iface p49\n.*\n.*\n) {4}mtu 9216/, '$1    mtu 4000');
    },
    says: /sk-lf-01 p49 has MTU 4000; VLAN 210 on it has frames of 9000/,
    line: /4000|p49/,
  },
  'bridge-carries': {
    damage: (t) => swap(t, 'sk-lf-01', 'interfaces', 'bridge-vids 210', 'bridge-vids'),
    says: /VLAN 210 is not on the bridge/,
  },
  'networks-apart': {
    damage: (t) =>
      swap(
        t,
        'sk-lf-01',
        'frr.conf',
        '   route-target import 65000:10006',
        '   route-target import 65000:10006\n   route-target import 65000:10007',
      ),
    says: /sk-lf-01 takes into VNI 10006 what sk-lf-0\d exports of VNI 10007: both have the route target 65000:10007/,
    line: /route-target import 65000:1000[67]/,
  },
  'server-joined': {
    damage: (t) =>
      swap(t, 'sk-lf-03', 'interfaces', /(iface p1\n(?:.*\n)*?) {4}bridge-access 212/, '$1    bridge-access 213'),
    says: /echo-301 is cut off from VLAN 212: port p1 of sk-lf-03 does not carry VLAN 212/,
    line: /bridge-access 213/,
  },
};

/** Where a rule turns: a text that just holds, and one a step further that does not. */
const TURNS: readonly (readonly [rule: string, holds: (t: Texts) => void, breaks: (t: Texts) => void])[] = [
  ['timers-sound', (t) => timers(t, 'timers 3 6'), (t) => timers(t, 'timers 4 7')],
  ['timers-sound', (t) => timers(t, 'timers 1 3'), (t) => timers(t, 'timers 1 2')],
  [
    'path-width',
    (t) => swap(t, 'sk-lf-01', 'frr.conf', /maximum-paths 64/, 'maximum-paths 4'),
    (t) => swap(t, 'sk-lf-01', 'frr.conf', /maximum-paths 64/, 'maximum-paths 3'),
  ],
  // Ways over who asks to be gone round do not count, as long as there are others.
  [
    'path-width',
    (t) => (asksAround(t, 'sk-sp-01'), swap(t, 'sk-lf-01', 'frr.conf', /maximum-paths 64/, 'maximum-paths 3')),
    (t) => (asksAround(t, 'sk-sp-01'), swap(t, 'sk-lf-01', 'frr.conf', /maximum-paths 64/, 'maximum-paths 2')),
  ],
  [
    'path-width',
    (t) => SPINES.forEach((spine) => asksAround(t, spine)),
    (t) => {
      SPINES.forEach((spine) => asksAround(t, spine));
      swap(t, 'sk-lf-01', 'frr.conf', /maximum-paths 64/, 'maximum-paths 3');
    },
  ],
  [
    'gone-round',
    (t) => (asksAround(t, 'sk-sp-01'), ['p50', 'p51'].forEach((port) => shutAt(t, 'sk-lf-01', port))),
    (t) => (asksAround(t, 'sk-sp-01'), ['p50', 'p51', 'p52'].forEach((port) => shutAt(t, 'sk-lf-01', port))),
  ],
  // One leg may rest while the switch is gone round, never both.
  [
    'server-joined',
    (t) => (asksAround(t, 'sk-lf-07a'), shutAt(t, 'sk-lf-07a', 'p1')),
    (t) => {
      asksAround(t, 'sk-lf-07a');
      for (const host of ['sk-lf-07a', 'sk-lf-07b']) shutAt(t, host, 'p1');
    },
  ],
  [
    'server-joined',
    (t) => (asksAround(t, 'sk-lf-07a'), shutAt(t, 'sk-lf-07a', 'p1')),
    (t) => shutAt(t, 'sk-lf-07a', 'p1'),
  ],
  [
    'mtu-carries-vxlan',
    (t) => every(t, 'interfaces', 'mtu 9216', 'mtu 9050'),
    (t) => every(t, 'interfaces', 'mtu 9216', 'mtu 9049'),
  ],
  [
    'drive-equal',
    (t) => driven(t, 'link-speed 100000', 'link-speed 100000'),
    (t) => driven(t, 'link-speed 100000', 'link-speed 40000'),
  ],
  ['drive-equal', (t) => driven(t, 'link-fec auto'), (t) => driven(t, 'link-fec baser')],
  [
    'link-mtu-equal',
    (t) => swap(t, 'sk-lf-01', 'interfaces', /(iface p49\n.*\n) {4}mtu 9216/, '$1    mtu 9216 '),
    (t) => swap(t, 'sk-lf-01', 'interfaces', /(iface p49\n.*\n) {4}mtu 9216/, '$1    mtu 9215'),
  ],
  [
    'asn-valid',
    (t) => swap(t, 'sk-lf-01', 'frr.conf', 'router bgp 65110', 'router bgp 23455'),
    (t) => swap(t, 'sk-lf-01', 'frr.conf', 'router bgp 65110', 'router bgp 23456'),
  ],
  ['peer-asked', (t) => asksPeer(t, 'OFFING', 'in'), (t) => asksPeer(t, 'OFFING', 'out')],
  ['peer-asked', (t) => asksPeer(t, 'FABRIC', 'in', 'local'), (t) => asksPeer(t, 'FABRIC', 'in')],
  ['map-goes-on', (t) => goesOn(t, 'permit 20'), (t) => goesOn(t, 'permit 20', ' match tag 7\n')],
  [
    'map-goes-on',
    (t) => goesOn(t, 'permit 20', ' match metric 9\n', 'set metric 9\n on-match next'),
    (t) => goesOn(t, 'permit 20', ' match metric 9\n', 'match metric 9\n set metric 8\n on-match next'),
  ],
  ['map-goes-on', (t) => goesOn(t, 'deny 20', LOOPBACKS), (t) => goesOn(t, 'deny 20', ' match metric 9\n')],
  [
    'map-goes-on',
    (t) => goesOn(t, 'permit 20', ' match tag 7\n', 'on-match goto 30'),
    (t) => goesOn(t, 'permit 20', ' match tag 7\n', 'on-match goto 20'),
  ],
];
const SPINES = ['sk-sp-01', 'sk-sp-02', 'sk-sp-03', 'sk-sp-04'];
const asksAround = (t: Texts, host: string): void =>
  swap(t, host, 'frr.conf', /^(router bgp .*\n)/m, '$1 bgp graceful-shutdown\n');
const shutAt = (t: Texts, host: string, port: string): void =>
  swap(t, host, 'interfaces', new RegExp(`^(iface ${port}\\n)`, 'm'), '$1    link-down yes\n');
const LOOPBACKS = ' match ip address prefix-list LOOPBACKS\n';
/** A map that goes on from what loopbacks are to an entry of its own. */
const goesOn = (t: Texts, next: string, asks = '', how = 'on-match next'): void =>
  swap(
    t,
    'sk-lf-01',
    'frr.conf',
    /^(bfd\n)/m,
    `route-map M permit 10\n${LOOPBACKS} ${how}\nexit\nroute-map M ${next}\n${asks}exit\n$1`,
  );
/** Members of OFFING are heard, or told, through a map that calls one which asks who it is; so is what is connected. */
function asksPeer(t: Texts, group: string, way: 'in' | 'out', peer = '192.0.2.7'): void {
  const maps = `route-map M permit 10\n call N\nexit\nroute-map N permit 10\n match peer ${peer}\nexit\n`;
  swap(t, 'sk-lf-01', 'frr.conf', /^(bfd\n)/m, `${maps}$1`);
  const member = ' neighbor OFFING peer-group\n neighbor 192.0.2.7 peer-group OFFING\n';
  swap(t, 'sk-lf-01', 'frr.conf', /^( neighbor FABRIC timers)/m, `${member}$1`);
  const said = `  neighbor ${group} route-map M ${way}\n  network 10.255.1.0/32 route-map M\n`;
  swap(t, 'sk-lf-01', 'frr.conf', /^( address-family ipv4 unicast\n)/m, `$1${said}`);
}
/** A cable, by what its ends say of how they are driven. */
function driven(t: Texts, near: string, far?: string): void {
  swap(t, 'sk-lf-01', 'interfaces', /(iface p49\n.*\n)/, `$1    ${near}\n`);
  if (far !== undefined) swap(t, 'sk-sp-01', 'interfaces', /(iface p1\n.*\n)/, `$1    ${far}\n`);
}
const timers = (t: Texts, to: string): void => swap(t, 'sk-lf-01', 'frr.conf', 'timers 3 9', to);

describe('design rules', () => {
  test.each(TURNS)('%s turns where it says', (rule, holds, breaks) => {
    const found = (damage: (t: Texts) => void): number => {
      const texts = skerryTexts();
      damage(texts);
      return findingsIn(texts).filter((f) => f.rule === rule).length;
    };
    expect(found(holds)).toBe(0);
    expect(found(breaks)).toBeGreaterThan(0);
  });

  test('every file of the folder is a listed rule, and every rule has a case', () => {
    const files = readdirSync(new URL('.', import.meta.url)).filter(
      (f) => f.endsWith('.ts') && f !== 'index.ts' && !f.includes('.test.'),
    );
    expect(DESIGN_RULES).toHaveLength(files.length);
    expect(new Set(DESIGN_RULES.map((r) => r.id)).size).toBe(files.length);
    expect(Object.keys(DAMAGES).sort()).toEqual(DESIGN_RULES.map((r) => r.id).sort());
  });

  test.each([
    [/( neighbor FABRIC bfd\n)/, '$1 neighbor FABRIC strange\n', 'sessions with FABRIC, and routes over them'],
    [/( {2}vni 10006\n)/, '$1   strange\n', 'VNI 10006 there'],
    [/(router bgp \d+ vrf soundings\n)/, '$1 strange\n', 'VRF soundings there'],
    [/( bgp bestpath.*\n)/, '$1 strange\n', 'all routes of the switch'],
    [/(^bfd\n)/m, 'strange\n$1', 'all of the switch'],
    [/( bgp bestpath.*) multipath-relax\n/, '$1 multipath-relax\n neighbor nobody strange\n', null],
  ])('what a line may change is said beside it: %s', (from, to, what) => {
    const texts = skerryTexts();
    swap(texts, 'sk-lf-01', 'frr.conf', from, to);
    const [found] = findingsIn(texts).filter((f) => f.rule === 'text-read');
    if (what === null) expect(found!.message).not.toContain('Uncertain');
    else expect(found!.message).toContain(`Uncertain because of it: ${what}.`);
  });

  test('the odd one of many is blamed, wherever it stands among them', () => {
    for (const host of ['sk-lf-01', 'sk-lf-02', 'sk-lf-07b']) {
      const texts = skerryTexts();
      swap(texts, host, 'interfaces', /(iface vlan210\n(?:.*\n)*?) {4}vrf soundings\n/, '$1');
      const found = findingsIn(texts).filter((f) => f.rule === 'gateway-equal');
      expect(found.map((f) => [f.host, f.message])).toEqual([
        [host, expect.stringContaining(`${host} has its gateway in no VRF, sk-lf-0`) as string],
      ]);
      expect(texts[host]!.interfaces.split('\n')[found[0]!.place!.line - 1]).toBe('iface vlan210');
    }
  });

  test('every name of a policy is looked for, and those that are there are no findings', () => {
    const said = (inFamily: string, top = ''): string[] => {
      const texts = skerryTexts();
      const leaf = texts['sk-lf-01']!;
      leaf['frr.conf'] = leaf['frr.conf']
        .replace('  neighbor FABRIC activate\n', `  neighbor FABRIC activate\n${inFamily}`)
        .replace(/^bfd\n/m, `${top}bfd\n`);
      return findingsIn(texts).flatMap((f) => (f.rule === 'names-defined' ? f.message : []));
    };
    const maps = 'route-map M permit 10\n match community C\n match as-path P\n call N\nexit\n';
    expect(said('  neighbor p49 route-map M in\n  neighbor p49 filter-list Q out\n', maps)).toEqual([
      'sk-lf-01: AS path list Q is used but not defined.',
      'sk-lf-01: community list C is used but not defined.',
      'sk-lf-01: AS path list P is used but not defined.',
      'sk-lf-01: route map N is used but not defined.',
    ]);
    const lists =
      'bgp community-list standard C permit 65000:1\nbgp as-path access-list P permit .*\nroute-map N permit 10\nexit\n';
    expect(said('  neighbor p49 route-map M in\n', lists + maps)).toEqual([]);
    expect(said('', 'router ospf\n redistribute connected route-map O\nexit\n')).toEqual([
      'sk-lf-01: route map O is used but not defined.',
    ]);
    const calls = (...of: [string, string][]): string =>
      of.map(([map, called]) => `route-map ${map} permit 10\n call ${called}\nexit\n`).join('');
    const END = 'route-map END permit 10\nexit\n';
    const gives = 'FRR gives up after ten calls, and nothing gets through there.';
    expect(said('', END + calls(['A', 'A'], ['B', 'C'], ['C', 'D'], ['D', 'B'], ['E', 'B'], ['F', 'END']))).toEqual([
      `sk-lf-01: route map A calls itself: ${gives}`,
      `sk-lf-01: route map B calls itself over C and D: ${gives}`,
      `sk-lf-01: route map C calls itself over D and B: ${gives}`,
      `sk-lf-01: route map D calls itself over B and C: ${gives}`,
    ]);
  });

  test('a policy that is wanted is enough where it is said, each way', () => {
    const said = (lines: string): string[] => {
      const texts = skerryTexts();
      const leaf = texts['sk-lf-01']!;
      leaf['frr.conf'] = leaf['frr.conf']
        .replace('frr defaults datacenter', 'frr defaults traditional')
        .replace('  neighbor FABRIC activate\n', `  neighbor FABRIC activate\n${lines}`);
      return findingsIn(texts).flatMap((f) => (f.rule === 'policy-allows' ? f.message : []));
    };
    const map = (who: string, way: string): string => `  neighbor ${who} route-map CONNECTED ${way}\n`;
    expect(said(map('FABRIC', 'in') + map('FABRIC', 'out'))).toEqual([]);
    expect(said(map('FABRIC', 'in'))).toHaveLength(1);
    expect(said(map('p49', 'in') + map('p49', 'out'))).toEqual([
      'sk-lf-01 wants a policy on every eBGP peer and has none for p50, p51, p52, so it exchanges no route with them.',
    ]);
  });

  test('a server whose gateway is not there, or in another VRF, has no way out', () => {
    const said = (damage: (t: Texts) => void): string[] => {
      const texts = skerryTexts();
      damage(texts);
      return findingsIn(texts)
        .filter((f) => f.rule === 'server-joined' && f.host === 'sk-lf-01')
        .map((f) => f.message);
    };
    const gateway = /(iface vlan210\n) {4}address .*\n/;
    expect(said((t) => swap(t, 'sk-lf-01', 'interfaces', gateway, '$1'))).toContainEqual(
      expect.stringMatching(
        /^soundings-101 has no way out of VLAN 210: sk-lf-01 does not have gateway 10\.\S+ on VLAN 210/,
      ),
    );
    const vrf = /(iface vlan210\n(?:.*\n)*?) {4}vrf soundings\n/;
    expect(said((t) => swap(t, 'sk-lf-01', 'interfaces', vrf, '$1    vrf tides\n'))).toContainEqual(
      'soundings-101 is in VRF soundings; its gateway on sk-lf-01 is in VRF tides.',
    );
    // A network nobody is connected to there says nothing of servers.
    expect(said((t) => swap(t, 'sk-lf-02', 'interfaces', vrf, '$1'))).toEqual([]);
  });

  test('sound text passes them all', () => {
    expect(findingsIn(skerryTexts())).toEqual([]);
  });

  test.each(Object.entries(DAMAGES))('%s sees its damage', (id, { damage, says, line }) => {
    const texts = skerryTexts();
    damage(texts);
    const found = findingsIn(texts).filter((f) => f.rule === id);
    expect(found.map((f) => f.message).join('\n')).toMatch(says);
    if (!line) return;
    const places = found.map((f) =>
      f.place ? texts[f.place.host]![f.place.file as 'interfaces'].split('\n')[f.place.line - 1] : '',
    );
    expect(places.join('\n')).toMatch(line);
  });
});

test('a VRF is routed across the fabric over an interface with the MTU of its networks: one byte less is found', () => {
  const at = (mtu: number): string[] => {
    const texts = skerryTexts();
    // The interface of an L3 VNI says no MTU: the bridge decides; a gateway of the same VRF has 9000.
    swap(texts, 'sk-lf-01', 'interfaces', /(iface vlan(?:3\d\d\d|4\d\d\d)\n)/, `$1    mtu ${mtu}\n`);
    return findingsIn(texts).flatMap((f) => (f.rule === 'gateway-mtu-carried' ? [f.message] : []));
  };
  expect(at(9000)).toEqual([]);
  expect(at(8999)).toEqual([
    expect.stringMatching(
      /^sk-lf-01 routes VRF \S+ across the fabric over VLAN interface \d+, which has MTU 8999; .* 9000/,
    ),
  ]);
});
