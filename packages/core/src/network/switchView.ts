import type { BgpPeer, PortConfig, RemoteAs, SviConfig, SwitchConfig, VxlanConfig } from '../config/switchConfig.ts';
import { contains, parseCidr, parsePrefix, prefixOf, type Prefix } from '../numbers/ipv4.ts';

/** A neighbour with what its group says filled in. */
export interface EffectivePeer {
  readonly name: string;
  readonly kind: 'interface' | 'address';
  readonly remoteAs: RemoteAs | undefined;
  readonly bfd: boolean;
  readonly shutdown: boolean;
  /** Mask of the password it must show; undefined = none. */
  readonly password: string | undefined;
  readonly ipv4: boolean;
  readonly evpn: boolean;
  /** How often the own AS number may stand in a path from this peer. */
  readonly ipv4OwnAs: number;
  readonly evpnOwnAs: number;
}

/** Route targets of a VNI or VRF as they work, automatic ones filled in (RFC 8365 §5.1.2.1). */
export interface EffectiveTargets {
  readonly imports: readonly string[];
  readonly exports: readonly string[];
}

/** One L2 VNI a switch carries and announces. */
export interface CarriedVni extends EffectiveTargets {
  readonly vxlan: VxlanConfig;
}

/** One tenant VRF with its L3 VNI, as it works on the switch. */
export interface CarriedVrf extends EffectiveTargets {
  readonly name: string;
  readonly l3Vni: number | undefined;
  /** Why prefix and host routes of the VRF cannot cross the fabric from here, or null. */
  readonly broken: string | null;
  readonly vtep: string | undefined;
}

/** A SwitchConfig indexed and completed for the network model. */
export interface SwitchView {
  readonly config: SwitchConfig;
  readonly peers: readonly EffectivePeer[];
  readonly peerByName: ReadonlyMap<string, EffectivePeer>;
  /** Interface address (host part) → port that has it. */
  readonly portByAddress: ReadonlyMap<string, string>;
  /** The routed port whose subnet holds an address. */
  readonly portTowards: (address: number) => string | undefined;
  /** Ports that have a stanza and are up for routing. */
  readonly portByName: ReadonlyMap<string, PortConfig>;
  readonly lagOfPort: ReadonlyMap<string, string>;
  /** Loopback addresses (host part) announced in the underlay. */
  readonly announced: ReadonlySet<string>;
  readonly ownAddresses: ReadonlySet<string>;
  readonly l2Vnis: ReadonlyMap<number, CarriedVni>;
  readonly vniOfVlan: ReadonlyMap<number, number>;
  readonly vrfs: ReadonlyMap<string, CarriedVrf>;
  readonly sviByVlan: ReadonlyMap<number, SviConfig>;
}

const hostPart = (cidr: string): string => cidr.slice(0, cidr.indexOf('/'));

/** Does a prefix list permit the prefix? An undefined list permits nothing; the end of a list denies. */
export function permits(config: SwitchConfig, listName: string, prefix: Prefix): boolean {
  const list = config.prefixLists.find((l) => l.name === listName);
  for (const e of list?.entries ?? []) {
    const p = parseCidr(e.prefix);
    if (!p || !contains(prefixOf(p), prefix)) continue;
    const low = e.ge ?? p.length;
    const high = e.le ?? (e.ge === undefined ? p.length : 32);
    if (prefix.length >= low && prefix.length <= high) return e.permit;
  }
  return false;
}

/** Does a route map let a prefix through? Without a map everything passes; an undefined map passes nothing. */
export function passes(config: SwitchConfig, mapName: string | undefined, prefix: Prefix): boolean {
  if (mapName === undefined) return true;
  const map = config.routeMaps.find((m) => m.name === mapName);
  for (const e of map?.entries ?? [])
    if (e.matchPrefixList === undefined || permits(config, e.matchPrefixList, prefix)) return e.permit;
  return false;
}

/** Automatic route target: low 16 bits of the AS number, then the VNI. */
const automaticTarget = (asn: number, vni: number): string => `${asn & 0xffff}:${vni}`;

function build(config: SwitchConfig): SwitchView {
  const { bgp } = config;
  const groups = new Map<string, BgpPeer>((bgp?.peers ?? []).filter((p) => p.kind === 'group').map((p) => [p.name, p]));
  const ipv4Active = new Set(bgp?.ipv4.active);
  const evpnActive = new Set(bgp?.evpn.active);
  const peers: EffectivePeer[] = [];
  for (const p of bgp?.peers ?? []) {
    if (p.kind === 'group') continue;
    const group = p.group === undefined ? undefined : groups.get(p.group);
    const either = (active: ReadonlySet<string>): boolean =>
      active.has(p.name) || (p.group !== undefined && active.has(p.group));
    const ownAs = (said: Readonly<Record<string, number>> | undefined): number =>
      said?.[p.name] ?? (p.group === undefined ? 0 : (said?.[p.group] ?? 0));
    peers.push({
      name: p.name,
      kind: p.kind,
      remoteAs: p.remoteAs ?? group?.remoteAs,
      bfd: p.bfd ?? group?.bfd ?? false,
      shutdown: p.shutdown ?? group?.shutdown ?? false,
      password: p.password ?? group?.password,
      ipv4: either(ipv4Active) || (bgp?.defaultIpv4 ?? false),
      evpn: either(evpnActive),
      ipv4OwnAs: ownAs(bgp?.ipv4.ownAsAllowed),
      evpnOwnAs: ownAs(bgp?.evpn.ownAsAllowed),
    });
  }
  const portByAddress = new Map<string, string>();
  /** Prefix length → network address → port. */
  const routed = new Map<number, Map<number, string>>();
  const ownAddresses = new Set<string>(config.loopbacks.map(hostPart));
  for (const port of config.ports)
    for (const address of port.addresses) {
      portByAddress.set(hostPart(address), port.name);
      ownAddresses.add(hostPart(address));
      const cidr = parseCidr(address);
      if (!cidr) continue;
      const sameLength = routed.get(cidr.length) ?? new Map<number, string>();
      routed.set(cidr.length, sameLength.set(prefixOf(cidr).address, port.name));
    }
  const announced = new Set<string>();
  if (bgp?.ipv4.connected)
    for (const loopback of config.loopbacks) {
      const prefix = parsePrefix(loopback);
      if (prefix && passes(config, bgp.ipv4.connected.routeMap, prefix)) announced.add(hostPart(loopback));
    }
  const lagOfPort = new Map<string, string>();
  for (const lag of config.lags) for (const member of lag.members) lagOfPort.set(member, lag.name);

  const bridged = new Set(config.bridge?.members);
  const bridgeVlans = new Set(config.bridge?.vlans);
  const l3 = new Set(config.vrfs.map((v) => v.l3Vni));
  const said = new Map(bgp?.evpn.vnis.map((v) => [v.vni, v]));
  const l2Vnis = new Map<number, CarriedVni>();
  const vniOfVlan = new Map<number, number>();
  const vxlanByVni = new Map<number, VxlanConfig>();
  for (const vxlan of config.vxlans) {
    vxlanByVni.set(vxlan.vni, vxlan);
    const works = vxlan.vlan !== undefined && bridged.has(vxlan.name) && bridgeVlans.has(vxlan.vlan);
    if (!works || l3.has(vxlan.vni)) continue;
    vniOfVlan.set(vxlan.vlan!, vxlan.vni);
    if (!bgp?.evpn.advertiseAllVni) continue;
    const own = said.get(vxlan.vni);
    const auto = [automaticTarget(bgp.asn, vxlan.vni)];
    l2Vnis.set(vxlan.vni, {
      vxlan,
      imports: own && own.imports.length > 0 ? own.imports : auto,
      exports: own && own.exports.length > 0 ? own.exports : auto,
    });
  }
  const sviByVlan = new Map(config.svis.map((s) => [s.vlan, s]));
  const bgpVrfs = new Map(bgp?.vrfs.map((v) => [v.vrf, v]));
  const vrfs = new Map<string, CarriedVrf>();
  for (const vrf of config.vrfs) {
    const talk = bgpVrfs.get(vrf.name);
    const vxlan = vrf.l3Vni === undefined ? undefined : vxlanByVni.get(vrf.l3Vni);
    const svi = vxlan?.vlan === undefined ? undefined : sviByVlan.get(vxlan.vlan);
    const auto = bgp && vrf.l3Vni !== undefined ? [automaticTarget(bgp.asn, vrf.l3Vni)] : [];
    const broken =
      vrf.l3Vni === undefined
        ? 'the VRF has no L3 VNI'
        : !vxlan
          ? `L3 VNI ${vrf.l3Vni} has no VXLAN interface`
          : vxlan.vlan === undefined || !bridged.has(vxlan.name) || !bridgeVlans.has(vxlan.vlan)
            ? `VXLAN interface ${vxlan.name} of the L3 VNI is not on the bridge`
            : !svi || svi.vrf !== vrf.name
              ? `its L3 VNI’s VLAN ${vxlan.vlan} has no interface in VRF ${vrf.name}`
              : !talk
                ? `BGP has no block for VRF ${vrf.name}`
                : !bgp?.evpn.advertiseAllVni
                  ? 'EVPN does not announce its VNIs'
                  : null;
    vrfs.set(vrf.name, {
      name: vrf.name,
      l3Vni: vrf.l3Vni,
      broken,
      vtep: vxlan?.localAddress,
      imports: talk && talk.imports.length > 0 ? talk.imports : auto,
      exports: talk && talk.exports.length > 0 ? talk.exports : auto,
    });
  }
  return {
    config,
    peers,
    peerByName: new Map(peers.map((p) => [p.name, p])),
    portByAddress,
    portTowards: (address) => {
      for (const [length, ports] of routed) {
        const port = ports.get(prefixOf({ address, length }).address);
        if (port !== undefined) return port;
      }
      return undefined;
    },
    portByName: new Map(config.ports.map((p) => [p.name, p])),
    lagOfPort,
    announced,
    ownAddresses,
    l2Vnis,
    vniOfVlan,
    vrfs,
    sviByVlan,
  };
}

const views = new WeakMap<SwitchConfig, SwitchView>();

/** The view of a configuration; made once per configuration object. */
export function viewOf(config: SwitchConfig): SwitchView {
  let view = views.get(config);
  if (!view) views.set(config, (view = build(config)));
  return view;
}
