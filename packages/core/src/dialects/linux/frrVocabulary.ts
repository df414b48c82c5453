/** A kind of block of FRR's configuration: how one gets into it, and a line that only it takes. */
export interface FrrBlock {
  /** Its name with those around it, as a landing says it; empty = the file itself. */
  readonly path: string;
  /** Lines that lead into it from the file itself. */
  readonly opens: readonly string[];
  /** A line of it: where it lands, written after another, shows where one is by then. */
  readonly mark: string;
}

/** What must be there for the lines below to be taken: names they speak of. */
export const FRR_PRELUDE = `frr defaults datacenter
ip prefix-list L seq 5 permit 10.0.0.0/8
bfd
 profile P
 exit
exit
router bgp 65000
 bgp router-id 10.0.0.1
 no bgp default ipv4-unicast
 neighbor G peer-group
 neighbor G remote-as external
 neighbor H peer-group
 neighbor H remote-as external
exit
`;

const GLOBAL = ['router bgp 65000'];
const TENANT = ['router bgp 65000 vrf red'];
const EVPN = 'address-family l2vpn evpn';
const IPV4 = 'address-family ipv4 unicast';
const IPV6 = 'address-family ipv6 unicast';

/** Every kind of block that the dialect reads. */
const FRR_BLOCKS: readonly FrrBlock[] = [
  { path: '', opens: [], mark: 'ip prefix-list MARK seq 5 permit 10.0.0.0/8' },
  { path: 'vrf', opens: ['vrf red'], mark: 'vni 4001' },
  { path: 'interface', opens: ['interface eth7'], mark: 'evpn mh uplink' },
  { path: 'route-map', opens: ['route-map M permit 10'], mark: 'match ip address prefix-list MARK' },
  { path: 'bfd', opens: ['bfd'], mark: 'profile MARK' },
  { path: 'bfd › bfd profile', opens: ['bfd', 'profile Q'], mark: 'detect-multiplier 7' },
  { path: 'router ospf', opens: ['router ospf'], mark: 'network 10.7.0.0/16 area 7' },
  { path: 'router ospf6', opens: ['router ospf6'], mark: 'ospf6 router-id 10.0.0.7' },
  { path: 'router bgp', opens: GLOBAL, mark: 'neighbor 10.0.0.77 remote-as 65077' },
  { path: `router bgp › ${IPV4}`, opens: [...GLOBAL, IPV4], mark: 'neighbor H activate' },
  { path: `router bgp › ${IPV6}`, opens: [...GLOBAL, IPV6], mark: 'neighbor H activate' },
  { path: `router bgp › ${EVPN}`, opens: [...GLOBAL, EVPN], mark: 'neighbor H activate' },
  {
    path: `router bgp › ${EVPN} › vni`,
    opens: [...GLOBAL, EVPN, 'advertise-all-vni', 'vni 4002'],
    mark: 'route-target import 7:7',
  },
  { path: 'router bgp … vrf', opens: TENANT, mark: 'bgp router-id 10.0.0.7' },
  { path: `router bgp … vrf › ${IPV4}`, opens: [...TENANT, IPV4], mark: 'maximum-paths 7' },
  { path: `router bgp … vrf › ${IPV6}`, opens: [...TENANT, IPV6], mark: 'maximum-paths 7' },
  { path: `router bgp … vrf › ${EVPN}`, opens: [...TENANT, EVPN], mark: 'route-target import 7:7' },
];

/** Does a line open a block? An empty block is not shown, so only the mark after it tells where it led. */
const opensFrrBlock = (line: string): boolean => /^(vrf|interface|address-family|router|bfd$)/.test(line);

/** One line of each kind that the dialect reads, whatever block it is of; none of them is a default that FRR leaves out. */
const FRR_LINES: readonly string[] = [
  'vrf blue',
  'interface eth8',
  'ip prefix-list K seq 5 permit 10.0.0.0/8',
  'route-map N permit 10',
  'bfd',
  'router bgp 65000',
  'router bgp 65000 vrf blue',
  'vni 300',
  'description words',
  'evpn mh uplink',
  'evpn mh es-id 5',
  'evpn mh es-sys-mac 02:00:00:00:00:01',
  'evpn mh es-id 00:11:22:33:44:55:66:77:88:99',
  'evpn mh es-df-pref 40000',
  'match ip address prefix-list L',
  'profile R',
  'detect-multiplier 5',
  'transmit-interval 250',
  'receive-interval 250',
  'bgp router-id 10.0.0.9',
  'bgp ebgp-requires-policy',
  'bgp bestpath as-path multipath-relax',
  'neighbor 10.0.0.2 remote-as 65001',
  'neighbor eth9 interface remote-as external',
  'neighbor G description words',
  'neighbor G timers 5 15',
  'neighbor G timers connect 9',
  'neighbor G bfd',
  'neighbor G bfd profile P',
  'neighbor G shutdown',
  'neighbor G activate',
  'neighbor G allowas-in 2',
  'redistribute connected',
  'redistribute connected route-map N',
  'maximum-paths 8',
  'advertise-all-vni',
  'advertise ipv4 unicast',
  'bgp graceful-restart',
  'bgp graceful-restart-disable',
  'bgp graceful-restart restart-time 60',
  'bgp graceful-restart preserve-fw-state',
  'rd 10.0.0.1:5',
  'route-target import 65000:5',
  'route-target export 65000:5',
  'address-family ipv4 unicast',
  'address-family l2vpn evpn',
  'set local-preference 200',
  'set metric 7',
  'set weight 7',
  'set origin igp',
  'set tag 7',
  'set as-path prepend 65009',
  'set community 65000:7 additive',
  'match community C',
  'match as-path A',
  'set large-community 65000:7:8 additive',
  'match large-community C',
  'set extcommunity soo 65000:7',
  'set extcommunity bandwidth 100',
  'set as-path exclude 65009',
  'match extcommunity C',
  'match peer 10.9.0.7',
  'match ip next-hop prefix-list L',
  'match ip next-hop A',
  'match ip next-hop address 10.9.0.7',
  'set ip next-hop 10.9.0.7',
  'set ip next-hop unchanged',
  'match metric 7',
  'match tag 7',
  'match interface eth7',
  'match local-preference 7',
  'call N',
  'on-match next',
  'bgp community-list standard K seq 5 permit 65000:7',
  'bgp large-community-list standard K seq 5 permit 65000:7:8',
  'bgp extcommunity-list standard K seq 5 permit rt 65000:7 soo 65000:8',
  'bgp as-path access-list K seq 5 permit ^65001$',
  'access-list K seq 5 permit 10.0.0.0/8',
  'access-list 12 seq 5 deny 10.0.0.0 0.255.255.255',
  'ipv6 access-list K seq 5 permit 2001:db8::/32 exact-match',
  'match ip address K',
  'match ipv6 address K',
  'ip route 10.7.0.0/16 blackhole',
  'network 10.5.0.0/16',
  'aggregate-address 10.6.0.0/16 summary-only',
  'import vrf blue',
  'advertise ipv4 unicast route-map N',
  'redistribute static',
  'bgp default local-preference 150',
  'bgp graceful-shutdown',
  'bgp always-compare-med',
  'bgp bestpath as-path ignore',
  'neighbor G route-map N in',
  'neighbor G prefix-list L out',
  'neighbor G filter-list A in',
  'neighbor G distribute-list A out',
  'neighbor G default-originate',
  'neighbor G as-override',
  'neighbor G weight 7',
  'neighbor G maximum-prefix 50',
  'neighbor G passive',
  'bgp listen range 10.5.0.0/16 peer-group G',
  'bgp listen limit 500',
  'neighbor G ebgp-multihop 3',
  'neighbor G ttl-security hops 2',
  'neighbor G update-source lo',
  'neighbor G local-as 65044',
  'no neighbor G send-community',
  'neighbor G next-hop-self',
  'neighbor G soft-reconfiguration inbound',
  'neighbor G remove-private-AS',
  'neighbor G unsuppress-map N',
  'router ospf',
  'ospf router-id 10.0.0.8',
  'network 10.5.0.0/16 area 5',
  'passive-interface default',
  'area 5 authentication message-digest',
  'redistribute connected metric 7 metric-type 1',
  'auto-cost reference-bandwidth 50000',
  'ip ospf area 0.0.0.5',
  'ip ospf cost 7',
  'ip ospf dead-interval 9',
  'ip ospf hello-interval 3',
  'ip ospf network point-to-point',
  'ip ospf passive',
  'ip ospf priority 7',
  'ip ospf mtu-ignore',
  'ip ospf authentication message-digest',
  'ip address 10.9.0.1/24',
  'address-family ipv6 unicast',
  'advertise ipv6 unicast',
  'bgp default ipv6-unicast',
  'neighbor 2001:db8::2 remote-as 65001',
  'network 2001:db8:5::/48',
  'aggregate-address 2001:db8:6::/48 summary-only',
  'ipv6 prefix-list K seq 5 permit 2001:db8::/32',
  'ipv6 route 2001:db8:7::/48 blackhole',
  'ipv6 address 2001:db8:9::1/64',
  'match ipv6 address prefix-list L',
  'router ospf6',
  'ospf6 router-id 10.0.0.8',
  'ipv6 ospf6 area 0.0.0.5',
  'no ipv6 nd suppress-ra',
  'ipv6 ospf6 cost 7',
  'ipv6 ospf6 dead-interval 9',
  'ipv6 ospf6 hello-interval 3',
  'ipv6 ospf6 network point-to-point',
  'ipv6 ospf6 passive',
  'ipv6 ospf6 priority 7',
  'ipv6 ospf6 mtu-ignore',
];

/** Blocks by the lines that open them, e.g. `router bgp 65000 vrf red` → `router bgp … vrf`. */
export const frrBlockName = (line: string): string =>
  line
    .replace(/^router bgp \d+ vrf \S+$/, 'router bgp … vrf')
    .replace(/^router bgp \d+$/, 'router bgp')
    .replace(/^(vrf|interface|vni) \S+$/, '$1')
    .replace(/^route-map .*$/, 'route-map')
    .replace(/^profile \S+$/, 'bfd profile');

/** A line to be written in a block. */
export interface FrrTrial {
  readonly block: FrrBlock;
  readonly line: string;
}
/** Every line in every block. */
export const FRR_TRIALS: readonly FrrTrial[] = FRR_BLOCKS.flatMap((block) =>
  FRR_LINES.map((line) => ({ block, line })),
);

/** Would the mark of the block take the place of the line? Then it is not written after it. */
const marks = ({ block, line }: FrrTrial): boolean => {
  const what = (l: string): string => l.replace(/ \S+$/, '');
  return what(line) !== what(block.mark);
};

/** A text in which the line stands in the block, indented as people do, and the mark after it. */
export function frrTrialText(trial: FrrTrial): string {
  const { opens, mark } = trial.block;
  const inside = [trial.line, ...(marks(trial) ? [mark] : [])];
  const lines = [...opens.map((o, i) => ' '.repeat(i) + o), ...inside.map((l) => ' '.repeat(opens.length) + l)];
  return `${FRR_PRELUDE}${lines.join('\n')}\n`;
}

/**
 * Where FRR puts the line, and where it then puts the mark of the block, by the paths of blocks; null = nowhere, or that
 * nothing can be seen of it.
 */
export type FrrLanding = readonly [line: string | null, mark: string | null];

/** What of a landing can be seen in a running configuration. */
export const seenLanding = (trial: FrrTrial, [line, mark]: FrrLanding): FrrLanding => [
  opensFrrBlock(trial.line) ? null : line,
  marks(trial) ? mark : null,
];

/** Landings as they were measured, by block and line, with the release of FRR. */
export interface FrrLandings {
  readonly frr: string;
  readonly landings: Readonly<Record<string, Readonly<Record<string, FrrLanding>>>>;
}
