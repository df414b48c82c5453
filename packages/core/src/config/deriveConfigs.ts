import { networkMtu, type FabricIntent, type Network, type ServerPort, type Vrf } from '../intent/intent.ts';
import { endAt, farEnd, type Layout } from '../layout/links.ts';
import { hasServers, type Seat } from '../layout/seats.ts';
import { formatIpv4, parseCidr, prefixOf } from '../numbers/ipv4.ts';
import { gatewayMac, localMac, pairSystemMac } from '../numbers/mac.ts';
import { groupBy, naturally } from '../numbers/order.ts';
import { asnKey, linkKey, loopbackKey, networkVniKey, subnetKey, vrfVniKey, vtepKey } from '../pools/demands.ts';
import type { Values } from '../pools/drawValues.ts';
import type { Pool } from '../pools/pool.ts';
import type {
  Bridging,
  EvpnVni,
  LagConfig,
  PortConfig,
  PrefixListEntry,
  SviConfig,
  SwitchConfig,
  VrfConfig,
  VxlanConfig,
  BgpVrf,
  BgpPeer,
} from './switchConfig.ts';

/** Names that appear in the text of every switch. */
export const PEER_GROUP = 'FABRIC';
export const LOOPBACK_LIST = 'LOOPBACKS';
export const CONNECTED_MAP = 'CONNECTED';
const MULTIPATH_WIDTH = 64;
const CONNECT_SECONDS = 5;
const BFD = { name: PEER_GROUP, multiplier: 3, transmit: 300, receive: 300 } as const;

const hostPart = (cidr: string): string => cidr.slice(0, cidr.indexOf('/'));
/** Lower or upper address of a /31, with its length. */
const linkEnd = (prefix: string, upper: boolean): string => {
  const p = parseCidr(prefix)!;
  return `${formatIpv4(p.address + (upper ? 1 : 0))}/${p.length}`;
};
/** The gateway is the first address of the subnet. */
export function gatewayOf(subnet: string): string {
  const p = parseCidr(subnet)!;
  return `${formatIpv4(prefixOf(p).address + 1)}/${p.length}`;
}

interface CarriedNetwork {
  readonly network: Network;
  readonly vni: number;
  readonly gateway: string;
  readonly mtu: number;
}
/** What was derived last, by seat, with the inputs it was derived from. */
export interface DerivationMemo {
  readonly networks: Map<string, CarriedNetwork>;
  readonly seats: Map<string, { readonly inputs: readonly unknown[]; readonly config: SwitchConfig }>;
}
export const derivationMemo = (): DerivationMemo => ({ networks: new Map(), seats: new Map() });

const sameInputs = (a: readonly unknown[], b: readonly unknown[]): boolean => {
  if (a.length !== b.length) return false;
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return false;
  return true;
};

interface CarriedVrf {
  readonly vrf: Vrf;
  readonly vni: number;
}

/** Prefix-list entries that let exactly the loopback and VTEP pools' /32s out (or the held /32s where no pool is known). */
function loopbackEntries(
  intent: FabricIntent,
  values: Values,
  layout: Layout,
  pools: readonly Pool[],
): PrefixListEntry[] {
  const names = new Set([intent.pools.loopback, intent.pools.vtep]);
  const prefixes = pools.filter((p) => names.has(p.name) && p.kind === 'ipv4').flatMap((p) => p.ranges);
  if (prefixes.length > 0)
    return [...prefixes].sort(naturally).map((prefix, i) => ({
      seq: (i + 1) * 10,
      permit: true,
      prefix,
      ...(prefix.endsWith('/32') ? {} : { ge: 32, le: 32 }),
    }));
  const own = layout.seats.flatMap((s) => [values.get(loopbackKey(s.id)), values.get(vtepKey(s.id))]);
  return own
    .filter((v): v is string => v !== undefined)
    .map((prefix, i) => ({ seq: (i + 1) * 10, permit: true, prefix }));
}

/**
 * Derives the configuration of every seat whose values are all drawn. A VRF or network is configured only on leaves of
 * racks that carry it (symmetric routing, RFC 9135). Pure: the same intent and values give the same configurations; with
 * a memo, a seat whose inputs are those of last time gets the very configuration object of last time.
 */
export function deriveConfigs(
  intent: FabricIntent,
  layout: Layout,
  values: Values,
  pools: readonly Pool[],
  memo?: DerivationMemo,
): Map<string, SwitchConfig> {
  const { settings } = intent;
  const entries = loopbackEntries(intent, values, layout, pools);
  const shared = {
    prefixLists: [{ name: LOOPBACK_LIST, entries }],
    routeMaps: [
      {
        name: CONNECTED_MAP,
        entries: [
          { seq: 10, permit: true, matchPrefixList: LOOPBACK_LIST },
          { seq: 20, permit: false },
        ],
      },
    ],
    bfdProfiles: settings.bfd ? [BFD] : [],
  };
  const vniOfVrf = new Map(intent.vrfs.map((v) => [v.name, Number(values.get(vrfVniKey(v.name)) ?? 0)]));
  const vrfByName = new Map(intent.vrfs.map((v) => [v.name, v]));
  const networksOfRack = new Map<number, CarriedNetwork[]>();
  for (const network of intent.networks) {
    const vni = Number(values.get(networkVniKey(network.name)) ?? 0);
    const subnet = values.get(subnetKey(network.name));
    if (vni === 0 || subnet === undefined || !vniOfVrf.get(network.vrf)) continue;
    const fresh = { network, vni, gateway: gatewayOf(subnet), mtu: networkMtu(intent, network) };
    const known = memo?.networks.get(network.name);
    const carried = known && JSON.stringify(known) === JSON.stringify(fresh) ? known : fresh;
    memo?.networks.set(network.name, carried);
    for (const rack of network.racks) {
      const list = networksOfRack.get(rack);
      if (list) list.push(carried);
      else networksOfRack.set(rack, [carried]);
    }
  }
  const portsOfRack = groupBy(intent.ports, (p) => p.rack);
  const pairPerRackAsn = (seat: Seat): boolean => settings.asnScheme === 'per-rack' && seat.side !== undefined;
  const configs = new Map<string, SwitchConfig>();
  const sharedKey = JSON.stringify([settings, entries, intent.vrfs, [...vniOfVrf]]);

  for (const seat of layout.seats) {
    const asnText = values.get(asnKey(intent, seat));
    const loopback = values.get(loopbackKey(seat.id));
    const vtep = hasServers(seat) ? values.get(vtepKey(seat.id)) : undefined;
    if (asnText === undefined || loopback === undefined || (hasServers(seat) && vtep === undefined)) continue;
    const asn = Number(asnText);
    const routerId = hostPart(loopback);
    const links = layout.linksOf.get(seat.id) ?? [];
    const numbered = settings.underlay === 'numbered';
    if (numbered && links.some((l) => !values.has(linkKey(l.id)))) continue;

    const servers = seat.rack === undefined ? [] : (portsOfRack.get(seat.rack) ?? []).filter((p) => isOn(p, seat));
    const inputs = memo
      ? [
          sharedKey,
          seat.host,
          asnText,
          loopback,
          vtep,
          JSON.stringify(servers),
          ...(seat.rack === undefined ? [] : (networksOfRack.get(seat.rack) ?? [])),
          ...links.flatMap((l) => {
            const far = layout.seatById.get(farEnd(l, seat.id).seat)!;
            return numbered
              ? [l.a.port, l.b.port, far.host, values.get(linkKey(l.id)), values.get(asnKey(intent, far))]
              : [l.a.port, l.b.port, far.host];
          }),
        ]
      : [];
    const before = memo?.seats.get(seat.id);
    if (before && sameInputs(before.inputs, inputs)) {
      configs.set(seat.id, before.config);
      continue;
    }
    const multihomed = servers.some((p) => p.side === 'both');
    const ports: PortConfig[] = [];
    const peers: BgpPeer[] = [
      {
        name: PEER_GROUP,
        kind: 'group',
        keepalive: settings.keepalive,
        hold: settings.hold,
        connect: CONNECT_SECONDS,
        ...(settings.bfd ? { bfd: true, bfdProfile: BFD.name } : {}),
      },
    ];
    for (const link of links) {
      const atUpper = link.b.seat === seat.id;
      const far = farEnd(link, seat.id);
      const farSeat = layout.seatById.get(far.seat)!;
      const name = endAt(link, seat.id).port;
      const prefix = numbered ? values.get(linkKey(link.id))! : '';
      ports.push({
        name,
        description: `${farSeat.host} ${far.port}`,
        mtu: settings.linkMtu,
        addresses: numbered ? [linkEnd(prefix, !atUpper)] : [],
        ...(multihomed ? { tracked: true } : {}),
      });
      peers.push(
        numbered
          ? {
              name: hostPart(linkEnd(prefix, atUpper)),
              kind: 'address',
              remoteAs: Number(values.get(asnKey(intent, farSeat)) ?? 0),
              group: PEER_GROUP,
            }
          : { name, kind: 'interface', remoteAs: 'external', group: PEER_GROUP },
      );
    }

    const carried = seat.rack === undefined ? [] : (networksOfRack.get(seat.rack) ?? []);
    const vrfs: CarriedVrf[] = [...new Set(carried.map((c) => c.network.vrf))]
      .sort(naturally)
      .map((name) => ({ vrf: vrfByName.get(name)!, vni: vniOfVrf.get(name)! }));
    const vlanOf = new Map(carried.map((c) => [c.network.name, c.network.vlan]));
    const mtuOf = new Map(carried.map((c) => [c.network.name, c.mtu]));
    const lags: LagConfig[] = [];
    for (const p of servers) {
      const bridging: Bridging = {
        ...(p.untagged === undefined ? {} : { untagged: vlanOf.get(p.untagged)! }),
        tagged: p.tagged.map((n) => vlanOf.get(n)!).sort((a, b) => a - b),
      };
      const mtu = Math.max(...[p.untagged, ...p.tagged].map((n) => (n === undefined ? 0 : (mtuOf.get(n) ?? 0))));
      const shut = p.shut ? { shut: true } : {};
      if (p.side === 'both') {
        const number = Number(/(?<!\d)\d+$/.exec(p.port)?.[0] ?? 0);
        ports.push({ name: p.port, description: p.server, mtu, addresses: [], ...shut });
        lags.push({
          name: `bond${number}`,
          description: p.server,
          mtu,
          members: [p.port],
          bridging,
          segment: { number, systemMac: pairSystemMac(settings.fabricNumber, p.rack) },
        });
      } else ports.push({ name: p.port, description: p.server, mtu, addresses: [], ...shut, bridging });
    }
    ports.sort((a, b) => naturally(a.name, b.name));
    lags.sort((a, b) => naturally(a.name, b.name));

    const target = (vni: number): string => `${settings.fabricNumber}:${vni}`;
    const vxlan = (vni: number, vlan: number, mtu: number): VxlanConfig => ({
      name: `vni${vni}`,
      vni,
      vlan,
      localAddress: hostPart(vtep!),
      learning: false,
      arpSuppression: true,
      mtu,
    });
    const l3Mtu = (vrf: string): number =>
      Math.max(0, ...carried.filter((c) => c.network.vrf === vrf).map((c) => c.mtu));
    const vxlans = [
      ...carried.map((c) => vxlan(c.vni, c.network.vlan, c.mtu)),
      ...vrfs.map((v) => vxlan(v.vni, v.vrf.transitVlan, l3Mtu(v.vrf.name))),
    ].sort((a, b) => a.vni - b.vni);
    const svis: SviConfig[] = [
      ...carried.map((c) => ({
        name: `vlan${c.network.vlan}`,
        vlan: c.network.vlan,
        vrf: c.network.vrf,
        addresses: [c.gateway],
        mac: gatewayMac(c.network.vlan),
        mtu: c.mtu,
      })),
      ...vrfs.map((v) => ({
        name: `vlan${v.vrf.transitVlan}`,
        vlan: v.vrf.transitVlan,
        vrf: v.vrf.name,
        addresses: [],
        mac: localMac(parseCidr(loopback)!.address),
      })),
    ].sort((a, b) => a.vlan - b.vlan);
    const bridgeMembers = [
      ...lags.map((l) => l.name),
      ...ports.filter((p) => p.bridging).map((p) => p.name),
      ...vxlans.map((v) => v.name),
    ].sort(naturally);
    const evpnVnis: EvpnVni[] = carried
      .map((c) => ({
        vni: c.vni,
        rd: `${routerId}:${c.network.vlan}`,
        imports: [target(c.vni)],
        exports: [target(c.vni)],
      }))
      .sort((a, b) => a.vni - b.vni);
    const bgpVrfs: BgpVrf[] = vrfs.map((v) => ({
      vrf: v.vrf.name,
      asn,
      routerId,
      connected: {},
      maximumPaths: MULTIPATH_WIDTH,
      advertiseIpv4: true,
      rd: `${routerId}:${v.vrf.transitVlan}`,
      imports: [target(v.vni)],
      exports: [target(v.vni)],
    }));
    const ownAsAllowed: Record<string, number> = pairPerRackAsn(seat) ? { [PEER_GROUP]: 1 } : {};
    const family = { active: [PEER_GROUP], ownAsAllowed };
    const config: SwitchConfig = {
      hostname: seat.host,
      loopbacks: vtep === undefined ? [loopback] : [loopback, vtep],
      ports,
      lags,
      ...(vxlans.length > 0
        ? {
            bridge: {
              name: 'bridge',
              members: bridgeMembers,
              vlans: svis.map((s) => s.vlan),
            },
          }
        : {}),
      vxlans,
      vrfs: vrfs.map((v): VrfConfig => ({ name: v.vrf.name, l3Vni: v.vni })),
      svis,
      ...shared,
      bgp: {
        asn,
        routerId,
        defaultIpv4: false,
        policyRequired: false,
        multipathRelax: true,
        peers: sortPeers(peers),
        ipv4: { ...family, connected: { routeMap: CONNECTED_MAP }, maximumPaths: MULTIPATH_WIDTH },
        evpn: { ...family, advertiseAllVni: hasServers(seat), vnis: evpnVnis },
        vrfs: bgpVrfs,
      },
    };
    configs.set(seat.id, config);
    memo?.seats.set(seat.id, { inputs, config });
  }
  return configs;
}

/** Groups before members, then by name: the order a router needs to read them in. */
export const sortPeers = (peers: readonly BgpPeer[]): BgpPeer[] =>
  [...peers].sort((a, b) => Number(b.kind === 'group') - Number(a.kind === 'group') || naturally(a.name, b.name));

const isOn = (p: ServerPort, seat: Seat): boolean => p.side === 'both' || p.side === (seat.side ?? 'a');
