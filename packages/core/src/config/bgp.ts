import type { Vrf } from '../intent/intent.ts';
import { carries } from '../layout/links.ts';
import { hasServers } from '../layout/seats.ts';
import type { Vni } from '../numbers/vni.ts';
import { asnKey, asnRole, loopbackKey, vrfVniKey } from '../pools/demands.ts';
import { familyOfText } from '../numbers/prefix.ts';
import { FABRIC_BFD } from './bfd.ts';
import type { Carriage } from './carriage.ts';
import { askAround } from './drained.ts';
import { vniCause } from './overlay.ts';
import { CONNECTED_MAP } from './policy.ts';
import {
  drainCause,
  IPV6_CAUSE,
  patternCause,
  schemeCause,
  settingCause,
  type Cause,
  type ConfigSection,
  type OriginContext,
} from './section.ts';
import { onceFor } from '../onceFor.ts';
import {
  CONNECT_SECONDS,
  CLIENT_GROUP,
  PEER_GROUP,
  ROUTER_WORDS,
  sortPeers,
  type Aggregate,
  type BgpConfig,
  type BgpFamily,
  type BgpPart,
  type BgpPeer,
  type BgpVrf,
  type EvpnVni,
  type ListenRange,
  type PeerPolicy,
  type Redistribution,
  type UnicastFamily,
} from './bgpParts.ts';
import { internalRouter, type DerivedOverlay } from './internalBgp.ts';
import { leakCause, withLeaks } from './leaks.ts';
import { neighbourCause, withNeighbours } from './neighbours.ts';
import { sayRestart } from './restarting.ts';
import type { FabricInputs, SeatInputs, SeatRouting } from './seatInputs.ts';
import { speakersCause, withSpeakers } from './speakers.ts';

export * from './bgpParts.ts';

const MULTIPATH_WIDTH = 64;

function derivePeers({ fabric, links }: SeatInputs): BgpPeer[] {
  const { keepalive, hold, bfd } = fabric.settings;
  const group: BgpPeer = {
    name: PEER_GROUP,
    kind: 'group',
    keepalive,
    hold,
    connect: CONNECT_SECONDS,
    ...(bfd ? { bfd: true, bfdProfile: FABRIC_BFD.name } : {}),
  };
  return sortPeers([
    group,
    ...links
      .filter(carries)
      .map((l): BgpPeer =>
        l.numbered
          ? { name: l.numbered.far, kind: 'address', remoteAs: l.numbered.farAs, group: PEER_GROUP }
          : { name: l.port, kind: 'interface', remoteAs: 'external', group: PEER_GROUP },
      ),
  ]);
}

/** Route targets made so far for a fabric. */
const targets = onceFor((_: FabricInputs) => new Map<Vni, readonly string[]>());
function targetOf(fabric: FabricInputs, vni: Vni): readonly string[] {
  const known = targets(fabric);
  let target = known.get(vni);
  if (!target) known.set(vni, (target = [`${fabric.settings.fabricNumber}:${vni}`]));
  return target;
}

/** What the router of every tenant says alike. */
const TENANT_WORDS = {
  defaultIpv4: true,
  policyRequired: false,
  // Subnets that several racks announce come from as many AS numbers.
  multipathRelax: true,
  peers: [],
  ipv4: { active: [], ownAsAllowed: {}, connected: {}, maximumPaths: MULTIPATH_WIDTH },
} satisfies Partial<BgpVrf>;

/** Where somebody of a tenant has IPv6 on the switch. */
const TENANT_IPV6 = { advertiseIpv6: true, ipv6: TENANT_WORDS.ipv4 } satisfies Partial<BgpVrf>;
type TenantFamily = typeof TENANT_IPV6 | { readonly advertiseIpv6: true; readonly ipv6: UnicastFamily };
/** What a tenant says of a family that it has: which of its subnets are told. */
const familyOf = ({ connectedMap }: Vrf): TenantFamily =>
  connectedMap === undefined
    ? TENANT_IPV6
    : { ...TENANT_IPV6, ipv6: { ...TENANT_WORDS.ipv4, connected: { routeMap: connectedMap } } };

/** VRFs of which a network has IPv6. */
const vrfsOfIpv6 = onceFor(
  ({ networks }: Carriage) => new Set(networks.flatMap((n) => (n.gateway6 === undefined ? [] : n.vrf))),
);

/** The router of a tenant that tells the static routes said beside it. */
function withStatics(router: BgpVrf, { routes }: Carriage, { staticMap }: Vrf, ipv6: TenantFamily): BgpVrf {
  if (routes.length === 0) return router;
  const told: Redistribution = staticMap === undefined ? {} : { routeMap: staticMap };
  const of = (family: 4 | 6): boolean => routes.some((r) => r.vrf === router.vrf && familyOfText(r.prefix) === family);
  return {
    ...router,
    ...(of(4) ? { ipv4: { ...router.ipv4, static: told } } : {}),
    ...(of(6) ? { ...ipv6, ipv6: { ...ipv6.ipv6, static: told } } : {}),
  };
}

/** Route targets are fabric number and VNI, in and out; RDs are router id and VLAN. */
function deriveOverlay({ asn, routerId }: SeatRouting, inputs: SeatInputs): DerivedOverlay {
  const { carriage, fabric, neighbours, speakers } = inputs;
  const vnis: EvpnVni[] = [];
  for (const { vni, vlan } of carriage.networks) {
    if (vni === undefined) continue;
    const both = targetOf(fabric, vni);
    vnis.push({ vni, rd: `${routerId}:${vlan}`, imports: both, exports: both });
  }
  const six = vrfsOfIpv6(carriage);
  return {
    vnis,
    vrfs: carriage.vrfs.map((carried) => {
      const { vrf, vni } = carried;
      const ipv6 = familyOf(vrf);
      const both = targetOf(fabric, vni);
      const router: BgpVrf = {
        vrf: vrf.name,
        asn,
        routerId,
        ...TENANT_WORDS,
        ipv4: ipv6.ipv6,
        advertiseIpv4: true,
        rd: `${routerId}:${vrf.transitVlan}`,
        imports: both,
        exports: both,
        ...(six.has(vrf.name) ? ipv6 : {}),
      };
      const speaking = withNeighbours(withStatics(router, carriage, vrf, ipv6), neighbours, ipv6);
      const called = withSpeakers(speaking, speakers, ipv6);
      return carried.leaks === undefined ? called : withLeaks(called, carried, ipv6);
    }),
  };
}

/** The router of the default VRF with those of all tenants. */
function routerOf(routing: SeatRouting, inputs: SeatInputs): BgpConfig {
  const { seat, fabric } = inputs;
  const { asn, routerId, internal } = routing;
  const overlay = deriveOverlay(routing, inputs);
  if (internal) return internalRouter(inputs, routing, internal, overlay);
  const { asnScheme } = fabric.settings;
  const sharesAs = (asnScheme === 'per-rack' && seat.side !== undefined) || (asnScheme === 'two' && hasServers(seat));
  const ownAsAllowed: Record<string, number> = sharesAs ? { [PEER_GROUP]: 1 } : {};
  const family: BgpFamily = { active: [PEER_GROUP], ownAsAllowed };
  const unicast = { ...family, connected: { routeMap: CONNECTED_MAP }, maximumPaths: MULTIPATH_WIDTH };
  const { vnis, vrfs } = overlay;
  return {
    asn,
    routerId,
    ...ROUTER_WORDS,
    peers: derivePeers(inputs),
    ipv4: unicast,
    ...(routing.loopback6 === undefined ? {} : { ipv6: unicast }),
    evpn: { ...family, advertiseAllVni: hasServers(seat), vnis },
    vrfs,
  };
}

const RESTART_WORDS: ReadonlySet<string> = new Set(['restart', 'restartTime', 'keepsForwarding']);
const RESTART_CAUSE: Cause = settingCause('restart', 'graceful restart');

function peerCause(name: string, field: string, context: OriginContext): Cause {
  const scheme = schemeCause(context);
  if (scheme) return scheme;
  if (field === 'keepalive' || field === 'hold' || field === 'connect') return settingCause('keepalive', 'BGP timers');
  if (field === 'bfd' || field === 'bfdProfile') return settingCause('bfd', 'BFD');
  return name === PEER_GROUP || name === CLIENT_GROUP
    ? { subject: 'fabric', label: 'fabric pattern' }
    : { ...patternCause(context), label: 'cable to a neighbour' };
}

export const bgp: ConfigSection<BgpPart> = {
  blank: {},
  derive: (inputs) => {
    const { routing } = inputs;
    if (!routing) return {};
    const router = routerOf(routing, inputs);
    const said = sayRestart(router, inputs.fabric.settings);
    return { bgp: inputs.drained ? askAround(said) : said };
  },
  members: {
    'bgp.peers': { key: (p: BgpPeer) => p.name, word: 'BGP neighbour' },
    'bgp.listens': { key: (l: ListenRange) => l.prefix, word: 'range of callers' },
    'bgp.ipv4.policies': { key: (p: PeerPolicy) => p.peer, word: 'policy of neighbour' },
    'bgp.ipv6.policies': { key: (p: PeerPolicy) => p.peer, word: 'policy of neighbour' },
    'bgp.evpn.policies': { key: (p: PeerPolicy) => p.peer, word: 'policy of neighbour' },
    'bgp.ipv4.aggregates': { key: (a: Aggregate) => a.prefix, word: 'aggregate' },
    'bgp.ipv6.aggregates': { key: (a: Aggregate) => a.prefix, word: 'aggregate' },
    'bgp.evpn.vnis': { key: (v: EvpnVni) => String(v.vni), word: 'EVPN block of VNI' },
    'bgp.vrfs': { key: (v: BgpVrf) => v.vrf, word: 'VRF' },
    'bgp.vrfs.peers': { key: (p: BgpPeer) => p.name, word: 'BGP neighbour' },
    'bgp.vrfs.listens': { key: (l: ListenRange) => l.prefix, word: 'range of callers' },
    'bgp.vrfs.ipv4.policies': { key: (p: PeerPolicy) => p.peer, word: 'policy of neighbour' },
    'bgp.vrfs.ipv6.policies': { key: (p: PeerPolicy) => p.peer, word: 'policy of neighbour' },
    'bgp.vrfs.ipv4.aggregates': { key: (a: Aggregate) => a.prefix, word: 'aggregate' },
    'bgp.vrfs.ipv6.aggregates': { key: (a: Aggregate) => a.prefix, word: 'aggregate' },
  },
  words: {
    bgp: 'BGP',
    ipv4: 'IPv4',
    ipv6: 'IPv6',
    evpn: 'EVPN',
    asn: 'AS number',
    routerId: 'router id',
    remoteAs: 'remote AS',
    keepalive: 'keep-alive time',
    hold: 'hold time',
    connect: 'connect time',
    bfd: 'BFD',
    bfdProfile: 'BFD profile',
    shutdown: 'shutdown',
    group: 'group',
    password: 'password',
    policyRequired: 'need for a policy',
    multipathRelax: 'multipath over different AS numbers',
    maximumPaths: 'number of equal paths',
    advertiseAllVni: 'announcing of its VNIs',
    rd: 'RD',
    imports: 'imported route targets',
    exports: 'exported route targets',
    connected: 'announcing of connected routes',
    active: 'activated neighbours',
    static: 'announcing of static routes',
    networks: 'announced networks',
    mapIn: 'route map inward',
    mapOut: 'route map outward',
    prefixListIn: 'prefix list inward',
    prefixListOut: 'prefix list outward',
    asPathIn: 'AS path list inward',
    asPathOut: 'AS path list outward',
    accessListIn: 'access list inward',
    accessListOut: 'access list outward',
    defaultOriginate: 'default route told',
    reflectorClient: 'reflection of routes',
    asOverride: 'AS override',
    nextHopSelf: 'itself as next hop',
    networkMaps: 'maps of announced networks',
    importsFrom: 'VRFs whose routes it has as well',
    importMap: 'route map of what comes from other VRFs',
    weight: 'weight',
    maximumPrefix: 'most prefixes',
    passive: 'waiting to be called',
    multihop: 'hops to the neighbour',
    ttlSecurity: 'TTL security',
    localAs: 'AS number shown',
    updateSource: 'source of the session',
    localPreference: 'local preference',
    gracefulShutdown: 'graceful shutdown',
    restart: 'graceful restart',
    restartTime: 'restart time',
    keepsForwarding: 'forwarding kept while it starts anew',
    listenLimit: 'how many may call at once',
    advertiseIpv4: 'announcing by EVPN',
    advertiseIpv6: 'announcing of IPv6 by EVPN',
    advertiseIpv4Map: 'route map of what EVPN announces',
    advertiseIpv6Map: 'route map of what EVPN announces of IPv6',
    defaultRoute: 'default route told by EVPN',
    defaultIpv6Route: 'default route of IPv6 told by EVPN',
  },
  causeOf: ([, part, name = '', field = '', ...deeper], context) => {
    const { intent, seat } = context;
    if (RESTART_WORDS.has(part ?? '')) return RESTART_CAUSE;
    switch (part) {
      case undefined:
        return {
          ...patternCause(context),
          label: 'AS number of the seat',
          key: asnKey(intent, seat),
          role: asnRole(intent, seat),
        };
      case 'routerId':
        return { ...patternCause(context), label: 'loopback of the seat', key: loopbackKey(seat.id), role: 'loopback' };
      case 'gracefulShutdown':
        return drainCause(context);
      case 'vrfs': {
        if (field === 'gracefulShutdown') return drainCause(context);
        if (RESTART_WORDS.has(field)) return RESTART_CAUSE;
        const ofLeaks = /^import(sFrom|Map)$/.test(deeper[0] ?? '') || /^advertiseIpv[46]Map$/.test(field);
        const leaks = ofLeaks ? leakCause(context, name) : null;
        if (leaks) return leaks;
        // `peers ADDRESS …`, `ipv4 policies ADDRESS …`.
        const far = deeper[field === 'peers' || field === 'listens' ? 0 : 1] ?? '';
        const speaks = neighbourCause(context, { far, vrf: name }) ?? speakersCause(context, far);
        if (speaks) return speaks;
        return {
          subject: `vrf:${name}`,
          label: `VRF ${name}`,
          ...(field === 'imports' || field === 'exports' ? { key: vrfVniKey(name), role: 'vni' as const } : {}),
        };
      }
      case 'peers':
        return peerCause(name, field, context);
      case 'evpn':
      case 'ipv4':
      case 'ipv6':
        if (name === 'vnis') return vniCause(field, context);
        if (name === 'ownAsAllowed') return settingCause('asnScheme', 'AS numbers that leaves share');
        if (part === 'ipv6') return IPV6_CAUSE;
        return schemeCause(context) ?? { subject: 'fabric', label: 'fabric pattern' };
      default:
        return { subject: 'fabric', label: 'fabric pattern' };
    }
  },
};
