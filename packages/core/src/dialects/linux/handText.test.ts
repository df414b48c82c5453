import { describe, expect, test } from 'vitest';
import { permits } from '../../network/policyLists.ts';
import { modelNetwork } from '../../network/modelNetwork.ts';
import { doubtsOf } from '../../network/doubts.ts';
import { namesDefined } from '../../proof/rules/namesDefined.ts';
import { linux } from './linux.ts';

/** Stanzas are brought up, unless the text says something of that itself. */
const brought = (text: string): string =>
  /^auto/m.test(text) ? text : text.replace(/^iface (\S+)/gm, 'auto $1\niface $1');
const read = (interfaces: string, frr = '') => linux.parse({ interfaces: brought(interfaces), 'frr.conf': frr });

describe('text somebody wrote by hand', () => {
  test('an SVI with address-virtual has its own address and the anycast gateway', () => {
    const { config, unread } = read(
      'auto vlan10\niface vlan10\n  vlan-id 10\n  vlan-raw-device bridge\n  address 10.10.10.201/24\n  address-virtual 00:00:5E:00:01:10 10.10.10.1/24\n  vrf tides\n',
    );
    expect(unread).toEqual([]);
    expect(config.svis).toEqual([
      {
        vlan: 10,
        addresses: ['10.10.10.201/24'],
        virtual: { mac: '00:00:5e:00:01:10', address: '10.10.10.1/24' },
        vrf: 'tides',
      },
    ]);
  });
  test('a LAG with an address, or with a VLAN, is a port with members; in the bridge as well, it is not known what it does', () => {
    const bond = 'iface bond1\n  bond-slaves p2 p1\n  bond-mode 802.3ad\n';
    const vrf = 'iface tides\n  vrf-table auto\n';
    const { config, unread } = read(
      `${bond}  address 192.0.2.1/31\n  vrf tides\niface p1\niface p2\n${vrf}`,
      'interface bond1\n ip address 192.0.2.5/31\n',
    );
    expect([unread, config.lags]).toEqual([[], []]);
    expect(config.ports[0]).toEqual({
      name: 'bond1',
      members: ['p1', 'p2'],
      addresses: ['192.0.2.1/31', '192.0.2.5/31'],
      vrf: 'tides',
    });
    const tagged = read(`${bond}iface bond1.100\n  address 192.0.2.1/31\n`).config;
    expect([tagged.lags, tagged.ports.map((p) => p.name)]).toEqual([[], ['bond1', 'bond1.100']]);
    const bridged = read(
      `${bond}  address 192.0.2.1/31\niface bridge\n  bridge-ports bond1\n  bridge-vlan-aware yes\n`,
    );
    expect(bridged.config.lags).toEqual([{ number: 1, members: ['p1', 'p2'] }]);
    expect(bridged.unread).toEqual([
      {
        file: 'interfaces',
        line: 5,
        text: 'address 192.0.2.1/31',
        why: 'the LAG is in the bridge too',
        doubts: ['lags', '1'],
      },
    ]);
  });
  test('a trunk: tagged ranges, an untagged VLAN beside them, or none', () => {
    const { config } = read(
      'iface p1\n  bridge-vids 10-12 20\n  bridge-pvid 5\niface p2\n  bridge-vids 30\n  bridge-allow-untagged no\n',
    );
    expect(config.ports.map((p) => p.bridging)).toEqual([{ tagged: [10, 11, 12, 20], untagged: 5 }, { tagged: [30] }]);
  });
  test.each([
    ['iface p1\n  mtu lots', 'mtu lots'],
    ['iface p1\n  address 10.0.0.300/24', 'address 10.0.0.300/24'],
    ['iface vni1\n  vxlan-id 16777216', 'vxlan-id 16777216'],
    ['iface vni1\n  vxlan-id 5\n  bridge-access 4095', 'bridge-access 4095'],
    ['iface bond1\n  bond-slaves p1\n  bond-mode balance-rr', 'bond-mode balance-rr'],
    ['iface vlan9\n  vlan-id 9\n  hwaddress nonsense', 'hwaddress nonsense'],
    ['mtu 1500', 'mtu 1500'],
    ['iface p1\n  address 2001:db8::zz/64', 'address 2001:db8::zz/64'],
  ])('%j: the wrong line is named, the others are read', (text, wrong) =>
    expect(read(text).unread.map((u) => u.text)).toEqual([wrong]),
  );
  test.each([
    ['router bgp 0', /1–4294967295/],
    ['router bgp 65001\n neighbor GONE activate', /GONE is not defined above/],
    ['router bgp 65001\n neighbor 10.0.0.1 peer-group NONE', /no peer group NONE/],
    ['router bgp 65001\n address-family l2vpn evpn\n  vni 0', /VNI is 1–16777215/],
    ['router bgp 65001\n address-family l2vpn evpn\n  vni 5\n   route-target import *:5', /route target is AS:number/],
    [
      'router bgp 65001\n address-family l2vpn evpn\n  vni 5\n   route-target import 1:5 1:6',
      /one route target a line/,
    ],
    ['router bgp 65001\nrouter bgp 65002', /already runs as 65001/],
    ['router isis', /router isis is not modelled/],
    ['ip prefix-list X seq 5 permit 10.0.0.0/24 ge 24', /must hold/],
    ['vrf lost\n vni 5\nexit-vrf', /no VRF device lost/],
    ['interface bond9\n evpn mh es-id 1\n evpn mh es-sys-mac 02:00:00:00:00:01', /needs a LAG/],
  ])('frr.conf %j is refused with a reason', (text, why) =>
    expect(
      read('', text)
        .unread.map((u) => u.why)
        .join(),
    ).toMatch(why),
  );

  test('a neighbour stands with its own words; no … activate takes a family back', () => {
    const { config, unread } = read(
      '',
      'router bgp 65001\n neighbor 10.1.1.1 remote-as 65002\n neighbor 10.1.1.1 timers 1 3\n neighbor 10.1.1.1 shutdown\n address-family ipv4 unicast\n  neighbor 10.1.1.1 activate\n  no neighbor 10.1.1.1 activate\n',
    );
    expect(unread).toEqual([]);
    expect(config.bgp!.peers).toEqual([
      { name: '10.1.1.1', kind: 'address', remoteAs: 65002, keepalive: 1, hold: 3, shutdown: true },
    ]);
    expect(config.bgp!.ipv4).toMatchObject({ active: [], inactive: ['10.1.1.1'] });
  });
  test('what a text does not say is as the daemons have it', () => {
    const { config, unread } = read(
      'iface vni5\n    vxlan-id 5\niface red\n    vrf-table auto\n',
      'router bgp 65001\nexit\nrouter bgp 65001 vrf red\n',
    );
    expect(unread).toEqual([]);
    expect(config.vxlans).toEqual([{ vni: 5, learning: true, arpSuppression: false }]);
    expect(config.bgp).toMatchObject({
      defaultIpv4: true,
      policyRequired: true,
      multipathRelax: false,
      evpn: { advertiseAllVni: false },
      vrfs: [{ vrf: 'red', advertiseIpv4: false }],
    });
  });

  describe('what is never brought up', () => {
    const said = (text: string): [number, string][] => read(text).unread.map((u) => [u.line, u.why]);
    const NEVER = 'no line “auto” above it names it, so ifupdown2 never brings it up';

    test('a stanza that no line “auto” above it names is not there; one below it does not count', () => {
      const text =
        'auto lo\niface lo inet loopback\n  address 10.0.0.1/32\niface p1\n  address 10.1.1.0/31\nauto p1 p2\niface p2\n  mtu 9000\n';
      expect(read(text).config).toMatchObject({ loopbacks: ['10.0.0.1/32'], ports: [{ name: 'p2', mtu: 9000 }] });
      expect(said(text)).toEqual([[4, NEVER]]);
      expect(read('auto p2\niface lo inet loopback\n  address 10.0.0.1/32\n').config.loopbacks).toEqual([]);
    });
    test.each([
      ['auto p[1-3]', ['p1', 'p3']],
      ['auto all', ['p1', 'p3', 'q9']],
      ['auto p1.x\nallow-hotplug p3', ['p3']],
      ['auto p[1-2]x', []],
    ])('%s brings up %j', (line, names) =>
      expect(read(`${line}\niface p1\niface p3\niface q9\n`).config.ports.map((p) => p.name)).toEqual(names),
    );
    test('of what is said of one name in two places, one line is enough', () =>
      expect(read('iface p1\n  mtu 9000\nauto p1\niface p1\n  address 10.1.1.0/31\n').config.ports).toEqual([
        { name: 'p1', mtu: 9000, addresses: ['10.1.1.0/31'] },
      ]));
    test('an interface of a name that the kernel does not take; one of fifteen characters is made', () => {
      const text = ['p123456789.1234', 'p123456789.12345', 'e1/1'].map((n) => `auto ${n}\niface ${n}\n  mtu 1500\n`);
      expect(read(text.join('')).config.ports.map((p) => p.name)).toEqual(['p123456789.1234']);
      expect(said(text.join(''))).toEqual([
        [5, 'a name has at most 15 characters, this one 16: the kernel makes no such interface'],
        [8, 'a name holds no / and no : there: the kernel makes no such interface'],
      ]);
    });
    test.each(['default', 'local', 'main', 'unspec'])(
      'a VRF of the name %s, which is a table of the system',
      (name) => {
        const text = `auto ${name}\niface ${name}\n  vrf-table auto\nauto red\niface red\n  vrf-table auto\n`;
        expect(read(text).config.vrfs).toEqual([{ name: 'red' }]);
        expect(said(text)).toEqual([[2, expect.stringMatching(/makes no VRF of it, and all in it is dead/) as string]]);
      },
    );
    test('a VNI that ifupdown2 does not take', () =>
      expect(said('auto vni1\niface vni1\n  vxlan-id 16777215\n')).toEqual([
        [3, 'ifupdown2 takes a VNI of 1–16777214'],
      ]));
  });

  test('lines of a prefix list without a number go on in fives', () => {
    const list = (lines: string) => read('', lines).config.prefixLists[0]!.entries.map((e) => [e.seq, e.prefix]);
    const line = (words: string) => `ip prefix-list X ${words} permit `;
    expect(list(`${line('')}10.0.0.0/8\n${line('seq 7')}10.1.0.0/16\n${line('')}any\n`.replace(/ +/g, ' '))).toEqual([
      [5, '10.0.0.0/8'],
      [7, '10.1.0.0/16'],
      [10, '0.0.0.0/0'],
    ]);
  });

  test('a hundred thousand lines that nobody knows are each named, and what stands among them is read', () => {
    const strange = (n: number): string => Array.from({ length: n }, (_, i) => ` strange ${i}`).join('\n');
    const { config, unread } = read(
      `iface p1\n${strange(50_000)}\n    mtu 9000\n`,
      `router bgp 65001\n${strange(50_000)}\n bgp router-id 10.0.0.1\n`,
    );
    expect([unread.length, unread[0]!.line, unread.at(-1)!.line]).toEqual([100_000, 3, 50_001]);
    expect([config.ports[0]!.mtu, config.bgp!.routerId]).toEqual([9000, '10.0.0.1']);
  });

  test('after exit a block takes no more lines', () => {
    const { config, unread } = read(
      '',
      'router bgp 65001\n neighbor 10.1.1.1 remote-as 65002\nexit\n neighbor 10.1.1.1 shutdown\n',
    );
    expect(config.bgp!.peers).toEqual([{ name: '10.1.1.1', kind: 'address', remoteAs: 65002 }]);
    expect(unread.map((u) => [u.line, u.text])).toEqual([[4, 'neighbor 10.1.1.1 shutdown']]);
  });
  test('an exit where no block is open leaves the configuration', () => {
    const text = 'router bgp 65001\nexit\n!\nexit\nip prefix-list X permit any\n';
    // What stands behind it is lost, and BGP waits for the end.
    expect(read('', text)).toMatchObject({ unread: [{ line: 4, text: 'exit' }], config: { prefixLists: [] } });
    expect(read('', text).config.bgp).toBeUndefined();
    expect(read('', text.replace('!\nexit\n', '')).unread).toEqual([]);
    // It may close a block that this reader does not know: of that the line that opens it speaks.
    const unknown = 'router isis X\n net 49.0001\nexit\nline vty\n exec-timeout 0 0\nexit\n';
    const said = (frr: string) => read('', frr).unread.map((u) => u.text);
    expect(said(unknown)).toEqual(['router isis X', 'net 49.0001', 'exec-timeout 0 0']);
    expect(said(`${unknown}exit\n`).at(-1)).toBe('exit');
  });
  test('a stanza of two kinds doubts everything; what stands outside of all is refused', () => {
    const said = (interfaces: string) => read(interfaces, '').unread.map((u) => [u.text, u.doubts]);
    expect(said('iface bond1\n    bond-slaves p1\n    vxlan-id 10\n')).toEqual([['bond-slaves p1', []]]);
    expect(said('mtu 9000\niface p1\n    mtu 9000\n')).toEqual([['mtu 9000', undefined]]);
    expect(said('source /etc/network/more\n')).toEqual([['source /etc/network/more', []]]);
  });
  test.each([
    ['address fe80::1/64', 'it is of one link alone', true, undefined],
    ['link-autoneg off', 'it says how the link is driven, not what goes over it', true, undefined],
    ['gateway 10.0.0.1', 'it makes a default route, which is not modelled', undefined, ['staticRoutes']],
    ['post-up ip route add x', 'it runs a program, which may do anything', undefined, []],
    ['bridge-learning off', 'bridge-learning is not modelled for this kind of interface', undefined, ['ports', 'p1']],
    ['brigde-access 10', 'ifupdown2 has no word brigde-access and leaves it out', undefined, undefined],
  ])('%s of a port', (line, why, harmless, doubts) => {
    const [said] = read(`iface p1\n  ${line}`).unread;
    expect([said!.why, said!.harmless, said!.doubts]).toEqual([why, harmless, doubts]);
  });
  test('eBGP wants a policy unless the datacenter profile or a line says otherwise', () => {
    const required = (text: string) => read('', text).config.bgp!.policyRequired;
    expect(required('router bgp 65001')).toBe(true);
    expect(required('frr defaults datacenter\nrouter bgp 65001')).toBe(false);
    expect(required('router bgp 65001\n no bgp ebgp-requires-policy')).toBe(false);
    expect(required('frr defaults datacenter\nrouter bgp 65001\n bgp ebgp-requires-policy')).toBe(true);
  });
  test('prefix lists permit by length exactly, from, up to, or between', () => {
    const { config } = read(
      '',
      [
        'exact permit 10.0.0.0/24',
        'from permit 10.0.0.0/8 ge 24',
        'upto permit 10.0.0.0/8 le 16',
        'both permit 10.0.0.0/8 ge 16 le 24',
        'all permit any',
      ]
        .map((l) => `ip prefix-list ${l.replace(' permit', ' seq 5 permit')}`)
        .join('\n'),
    );
    const prefix = (length: number) => ({ address: 10 * 2 ** 24, length });
    const lengths = (name: string) => [8, 12, 16, 20, 24, 32].filter((l) => permits(config, name, prefix(l)));
    expect([
      lengths('exact'),
      lengths('from'),
      lengths('upto'),
      lengths('both'),
      lengths('all'),
      lengths('undefined'),
    ]).toEqual([[24], [24, 32], [8, 12, 16], [16, 20, 24], [8, 12, 16, 20, 24, 32], []]);
  });
});

describe('sessions between two switches', () => {
  const side = (host: string, asn: number, own: string, far: string, farAs: number | string, more = '') => ({
    host,
    ...read(
      `iface p1\n  address ${own}/31\n`,
      `frr defaults datacenter\nhostname ${host}\nrouter bgp ${asn}\n no bgp default ipv4-unicast\n neighbor ${far} remote-as ${farAs}\n${more} address-family ipv4 unicast\n  neighbor ${far} activate\n`,
    ),
  });
  const cable = [{ a: { host: 'a', port: 'p1' }, b: { host: 'b', port: 'p1' } }];
  const reasons = (a: ReturnType<typeof side>, b: ReturnType<typeof side>, cables = cable) =>
    modelNetwork([a, b], cables).sessions.map((s) => s.reason);
  const good = side('a', 65001, '10.1.1.0', '10.1.1.1', 65002);
  test('come up when both agree', () =>
    expect(reasons(good, side('b', 65002, '10.1.1.1', '10.1.1.0', 65001))).toEqual([null, null]));
  test.each([
    [
      'the wrong AS number is said',
      side('b', 65002, '10.1.1.1', '10.1.1.0', 65009),
      ['b says AS 65009, here is AS 65001', 'AS 65009 is said here, a has AS 65001'],
    ],
    ['external towards another AS is fine', side('b', 65002, '10.1.1.1', '10.1.1.0', 'external'), [null, null]],
    [
      'internal towards another AS is not',
      side('b', 65002, '10.1.1.1', '10.1.1.0', 'internal'),
      ['b says AS internal, here is AS 65001', 'AS internal is said here, a has AS 65001'],
    ],
    [
      'the address is another',
      side('b', 65002, '10.1.1.3', '10.1.1.2', 65001),
      ['b p1 has 10.1.1.3/31, not 10.1.1.1', 'a p1 has 10.1.1.0/31, not 10.1.1.2'],
    ],
    [
      'one end is closed',
      side('b', 65002, '10.1.1.1', '10.1.1.0', 65001, ' neighbor 10.1.1.0 shutdown\n'),
      ['closed on b (shutdown)', 'closed here (shutdown)'],
    ],
  ])('%s', (_what, b, expected) => expect(reasons(good, b)).toEqual(expected));
  test('of two ports whose subnets hold the neighbour the one with the longer is taken, wherever it stands', () => {
    const interfaces = (order: readonly string[]): string =>
      order.map((p) => `iface ${p}\n  address ${p === 'p1' ? '10.1.1.0/31' : '10.1.0.0/16'}\n`).join('');
    for (const order of [
      ['p1', 'p2'],
      ['p2', 'p1'],
    ]) {
      const a = { ...good, ...read(interfaces(order), linux.render(good.config).files['frr.conf']) };
      expect(modelNetwork([a, side('b', 65002, '10.1.1.1', '10.1.1.0', 65001)], cable).sessions[0]).toMatchObject({
        port: 'p1',
        up: true,
      });
    }
  });
  test('no cable, no session', () =>
    expect(reasons(good, side('b', 65002, '10.1.1.1', '10.1.1.0', 65001), [])).toEqual([
      'no cable on p1',
      'no cable on p1',
    ]));
});

describe('a group and its members, as FRR has them', () => {
  const routers = (words: string, family: string) =>
    ['a', 'b'].map((host, i) => ({
      host,
      ...read(
        `iface p1\n  address 10.1.1.${i}/31\n`,
        `frr defaults datacenter\nrouter bgp ${65001 + i}\n no bgp default ipv4-unicast\n neighbor G peer-group\n${words.replaceAll('FAR', `10.1.1.${1 - i}`)} address-family ipv4 unicast\n  neighbor G activate\n exit-address-family\n address-family l2vpn evpn\n  neighbor G activate\n${family.replaceAll('FAR', `10.1.1.${1 - i}`)}`,
      ),
    }));
  const session = (words: string, family = '') =>
    modelNetwork(routers(words, family), [{ a: { host: 'a', port: 'p1' }, b: { host: 'b', port: 'p1' } }]).sessions[0]!;
  const JOIN = ' neighbor FAR peer-group G\n';

  const [OF_GROUP, WRONG, EXTERNAL] = [
    ' neighbor G remote-as 65099\n',
    ' neighbor FAR remote-as 65088\n',
    ' neighbor FAR remote-as external\n',
  ];
  test.each([
    ['the number of a group takes the place of a member’s', WRONG + OF_GROUP + JOIN, 65099],
    ['also where the group says it after they joined', WRONG + JOIN + OF_GROUP, 65099],
    ['“external” of a member stays', EXTERNAL + OF_GROUP + JOIN, 'external'],
    ['but not where the group says its number after they joined', EXTERNAL + JOIN + OF_GROUP, 65099],
    [
      'a number of a member stays where the group says “external”',
      `${WRONG} neighbor G remote-as external\n${JOIN}`,
      65088,
    ],
    ['a group that says nothing takes nothing', EXTERNAL + JOIN, 'external'],
  ])('%s', (_what, words, counts) => {
    const s = session(words);
    expect([s.remoteAsSaid, s.up]).toEqual([counts, counts === 'external']);
  });
  // By the order in which they join: e external, i internal, n nothing said, 9 another number, 1 the own one.
  test.each([
    ['en', '', 'en'],
    ['ne', '', 'n'],
    ['ei', '', 'e'],
    ['ie', '', 'i'],
    ['ni', '', 'n'],
    ['9e', '', '9e'],
    ['19', '', '1'],
    ['91', '', '9'],
    ['ene', '', 'ene'],
    ['i1n9', 'external', 'n9'],
    ['e91n', 'internal', '1n'],
    ['ei91n', '65009', 'ei91n'],
    ['ei91n', '65001', 'ei91n'],
  ])('members %s of a group that says “%s”: %s join', (members, group, join) => {
    const said: Readonly<Record<string, string>> = { e: 'external', i: 'internal', 9: '65009', 1: '65001' };
    const lines = [...members].flatMap((m, i) => [
      ...(said[m] ? [` neighbor 10.9.0.${i} remote-as ${said[m]}`] : []),
      ` neighbor 10.9.0.${i} peer-group G`,
    ]);
    const { config } = read(
      '',
      `router bgp 65001\n neighbor G peer-group\n${group && ` neighbor G remote-as ${group}\n`}${lines.join('\n')}\n`,
    );
    const joined = config.bgp!.peers.filter((p) => p.group === 'G').map((p) => members[Number(p.name.split('.')[3])]);
    expect(joined.join('')).toBe(join);
  });
  test('what the first member says by now counts, though it joined without a word', () => {
    const lines = ' neighbor 10.9.0.0 remote-as external\n neighbor 10.9.0.1 remote-as external\n';
    const { config } = read(
      'iface p1\n  address 10.9.0.7/24\n',
      `router bgp 65001\n neighbor G peer-group\n neighbor 10.9.0.0 peer-group G\n${lines} neighbor 10.9.0.1 peer-group G\n`,
    );
    expect(config.bgp!.peers.filter((p) => p.group === 'G').map((p) => p.name)).toEqual(['10.9.0.0', '10.9.0.1']);
  });
  test('a VRF keeps the L3 VNI that it has, and no other gets that', () => {
    const devices = 'iface red\n  vrf-table auto\niface blue\n  vrf-table auto\n';
    const { config, unread } = read(devices, 'vrf red\n vni 5\n vni 6\nexit-vrf\nvrf blue\n vni 5\nexit-vrf\n');
    expect(config.vrfs).toEqual([{ name: 'blue' }, { name: 'red', l3Vni: 5 }]);
    expect(unread.map((u) => u.line)).toEqual([3, 6]);
  });
  test.each([
    ['(', 'the daemon takes no expression that is not whole', undefined],
    ['[1', 'the daemon takes no expression that is not whole', undefined],
    ['.*1.*2.*3.*4', 'the expression “.*1.*2.*3.*4” is not modelled', ['asPathLists', 'P']],
    ['(1+)+', 'the expression “(1+)+” is not modelled', ['asPathLists', 'P']],
    ['[[:digit:]]', 'the expression “[[:digit:]]” is not modelled', ['asPathLists', 'P']],
  ])('an AS path list with “%s” is refused, or not tried', (pattern, why, doubts) => {
    const { config, unread } = read('', `bgp as-path access-list P permit ${pattern}\n`);
    expect(unread.map((u) => [u.why, u.doubts])).toEqual([[why, doubts]]);
    expect(config.asPathLists).toBeUndefined();
  });
  test('who tells a route is known however his address is written', () => {
    const frr =
      'route-map M permit 10\n match peer 2001:DB8:0::1\nexit\nroute-map M permit 20\n match peer p49\nexit\n';
    const { config, unread } = read('', `${frr}router bgp 65001\n neighbor 2001:db8::0:1 remote-as 65002\nexit\n`);
    expect(config.bgp!.peers[0]!.name).toBe('2001:db8::1');
    expect(config.routeMaps[0]!.entries[0]!.match).toEqual({ peer: '2001:db8::1' });
    // Of an interface, or a group, what it means is not modelled.
    expect(unread.map((u) => u.doubts)).toEqual([['routeMaps', 'M']]);
  });
  test('a name is of the kind of list that it was first; expressions that cannot be tried, or are not whole, are said', () => {
    const lines = [
      'bgp community-list standard A permit 65000:1',
      'bgp community-list expanded A permit 65000:1',
      'bgp community-list 120 permit ^65000:1_',
      'bgp community-list standard 120 permit 65000:1',
      'bgp community-list expanded B permit (65',
      'bgp large-community-list expanded C permit ^65000:1:[0-9]$',
    ];
    const { config, unread } = read('', `${lines.join('\n')}\n`);
    expect(unread.map((u) => u.why)).toEqual([
      'A is a list of communities already',
      '120 is a list of expressions already',
      'the daemon takes no expression that is not whole',
    ]);
    expect(config.communityLists!.map((l) => l.name)).toEqual(['A', '120']);
    expect(config.largeCommunityLists).toEqual([
      { name: 'C', entries: [{ permit: true, pattern: '^65000:1:[0-9]$' }] },
    ]);
  });
  test.each([
    ['community-list expanded', 'match community P', 'communityLists'],
    ['large-community-list expanded', 'match large-community P', 'largeCommunityLists'],
    ['extcommunity-list expanded', 'match extcommunity P', 'extendedCommunityLists'],
  ])('a %s that cannot be tried is in doubt, with who asks it, and is not said to be missing', (kind, match, part) => {
    const maps = `route-map M permit 10\n ${match}\nexit\n`;
    const peer = 'router bgp 65001\n neighbor 10.9.0.0 remote-as 65002\n';
    const said = `${peer} address-family ipv4 unicast\n  neighbor 10.9.0.0 route-map M in\n exit-address-family\nexit\n`;
    const { config, unread } = read('', `bgp ${kind} P permit (65.*)+\n${maps}${said}`);
    expect(unread.map((u) => u.doubts)).toEqual([[part, 'P']]);
    const sw = { host: 'tn-lf-01', config, unread };
    expect([...doubtsOf(sw)!.peers.keys()]).toEqual(['10.9.0.0']);
    const missing = namesDefined.judge({ switches: [sw] } as never);
    expect(missing.map((f) => f.message)).toEqual([]);
  });
  test('the switch itself is no neighbour', () => {
    const { config, unread } = read(
      'iface p1\n  address 10.9.0.7/24\n',
      'router bgp 65001\n neighbor 10.9.0.7 remote-as 65002\n',
    );
    expect([config.bgp!.peers, unread.map((u) => u.why)]).toEqual([[], ['it is an address of the switch itself']]);
  });
  test('a member of a group that has an AS number is refused another', () => {
    const [one] = routers(`${OF_GROUP} neighbor FAR peer-group G\n${WRONG}`, '');
    expect(one!.unread.map((u) => [u.text, u.why, u.doubts])).toEqual([
      ['neighbor 10.1.1.1 remote-as 65088', 'its group G has AS 65099', undefined],
    ]);
  });

  test('a member is taken out of a family that its group has, and put back', () => {
    const words = ` neighbor G remote-as external\n${JOIN}`;
    expect(session(words)).toMatchObject({ up: true, ipv4: true, evpn: true });
    expect(session(words, '  no neighbor FAR activate\n')).toMatchObject({
      up: true,
      ipv4: true,
      evpn: false,
      evpnReason: 'not activated at either end',
    });
    expect(session(words, '  no neighbor FAR activate\n  neighbor FAR activate\n')).toMatchObject({ evpn: true });
    // At one end alone it is down as well, and each end says where.
    const [one0, other] = [routers(words, '')[0]!, routers(words, '  no neighbor FAR activate\n')[1]!];
    expect(
      modelNetwork([one0, other], [{ a: { host: 'a', port: 'p1' }, b: { host: 'b', port: 'p1' } }]).sessions.map(
        (s) => [s.evpn, s.evpnReason],
      ),
    ).toEqual([
      [false, 'not activated on b'],
      [false, 'not activated here'],
    ]);
    // Written again it says the same.
    const [one] = routers(words, '  no neighbor FAR activate\n');
    const again = linux.parse(linux.render(one!.config).files);
    expect([again.unread, again.config.bgp]).toEqual([[], one!.config.bgp]);
  });
});

describe('lines that stand in a block that does not take them (seen on FRR 8.4.4)', () => {
  const frr = (evpn: string, after = '') =>
    linux.parse({
      interfaces: 'auto lo\niface lo inet loopback\n    address 10.255.0.1/32\n',
      'frr.conf': `frr defaults datacenter\nhostname x\nrouter bgp 65000\n neighbor G peer-group\n neighbor G remote-as external\n address-family ipv4 unicast\n  maximum-paths 8\n exit-address-family\n address-family l2vpn evpn\n  neighbor G activate\n${evpn} exit-address-family\n${after}exit\n`,
    });
  const taken = (p: ReturnType<typeof frr>): [number, string][] =>
    p.unread.filter((u) => u.landed?.endsWith('ipv4 unicast')).map((u) => [u.line, u.text]);

  test('what EVPN does not take counts for IPv4 unicast, and so do the lines after it; each is said', () => {
    const p = frr('  maximum-paths 2\n  no neighbor G activate\n  neighbor G allowas-in 4\n');
    expect(p.config.bgp).toMatchObject({
      ipv4: { maximumPaths: 2, active: [], ownAsAllowed: { G: 4 } },
      evpn: { active: ['G'], ownAsAllowed: {} },
    });
    expect(taken(p)).toEqual([
      [11, 'maximum-paths 2'],
      [12, 'no neighbor G activate'],
      [13, 'neighbor G allowas-in 4'],
    ]);
    expect(p.unread).toHaveLength(3);
  });

  test('a line about the neighbour itself ends the block unseen: what follows it is of IPv4 unicast', () => {
    const p = frr('  neighbor G timers 10 30\n  neighbor G allowas-in 4\n');
    expect(p.config.bgp!.peers).toMatchObject([{ name: 'G', keepalive: 10, hold: 30 }]);
    expect(p.config.bgp).toMatchObject({ ipv4: { ownAsAllowed: { G: 4 } }, evpn: { ownAsAllowed: {} } });
    expect(taken(p)).toEqual([[12, 'neighbor G allowas-in 4']]);
  });

  test('after the block is closed, and in the router itself, they mean IPv4 unicast and nothing is wrong with that', () => {
    const p = frr('', ' neighbor G activate\n maximum-paths 4\n redistribute connected\n');
    expect(p.config.bgp).toMatchObject({
      ipv4: { active: ['G'], maximumPaths: 4, connected: {} },
      evpn: { active: ['G'] },
    });
    expect(p.unread).toEqual([]);
  });

  test('a VRF has the same; a word that closes nothing is said', () => {
    const p = linux.parse({
      interfaces: 'auto lo\niface lo inet loopback\n    address 10.255.0.1/32\n',
      'frr.conf':
        'frr defaults datacenter\nhostname x\nrouter bgp 65000\nexit\nrouter bgp 65000 vrf red\n address-family l2vpn evpn\n  advertise ipv4 unicast\n  redistribute connected\n exit-address-family\nexit\nexit-vrf\n',
    });
    expect(p.config.bgp!.vrfs).toMatchObject([{ vrf: 'red', advertiseIpv4: true, ipv4: { connected: {} } }]);
    expect(p.unread.map((u) => [u.line, u.text])).toEqual([
      [8, 'redistribute connected'],
      [11, 'exit-vrf'],
    ]);
  });
});
