import {
  unicastOf,
  type BgpFamily,
  type BgpPeer,
  type BgpSpeaker,
  type PeerPolicy,
  type Redistribution,
  type RemoteAs,
  type UnicastFamily,
} from '../config/bgp.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import { parseIpv4, type Cidr, type Ipv4 } from '../numbers/ipv4.ts';
import { familyOf, formatAny, holdsAny, hostPrefix, parseAnyPrefix, type AnyPrefix } from '../numbers/prefix.ts';
import type { IpFamily } from '../numbers/address.ts';
import { subnetsIn, writtenIn } from './localRoutes.ts';
import { hopMaps } from './hops.ts';
import { mapPolicy, peerPolicy } from './policy.ts';
import { LOCAL_PREFERENCE, OWN_ATTRIBUTES, type Attributes, type Family, type Policy } from './routes.ts';

/** What a neighbour may send and get in a family, with what its group says filled in. */
export interface EffectivePolicy {
  readonly in: Policy | null;
  readonly out: Policy | null;
  readonly weight: number;
  readonly client: boolean;
  readonly asOverride: boolean;
  readonly nextHopSelf: 'outside' | 'all' | null;
  readonly defaultOriginate: boolean;
  /** Undefined = any number. */
  readonly maximumPrefix: number | undefined;
  /** Names of the maps it goes by. */
  readonly maps: readonly string[];
}
const NO_POLICY: EffectivePolicy = {
  in: null,
  out: null,
  weight: 0,
  client: false,
  asOverride: false,
  nextHopSelf: null,
  defaultOriginate: false,
  maximumPrefix: undefined,
  maps: [],
};

/** A neighbour with what its group says filled in. */
export interface EffectivePeer {
  readonly name: string;
  readonly kind: 'interface' | 'address';
  readonly group: string | undefined;
  /** Is it known by its calling alone? */
  readonly calls: boolean;
  readonly remoteAs: RemoteAs | undefined;
  readonly bfd: boolean;
  readonly shutdown: boolean;
  /** Mask of the password it must show; undefined = none. */
  readonly password: string | undefined;
  readonly ipv4: boolean;
  readonly ipv6: boolean;
  readonly evpn: boolean;
  /** How often the own AS number may stand in a path from this peer. */
  readonly ipv4OwnAs: number;
  readonly ipv6OwnAs: number;
  readonly evpnOwnAs: number;
  readonly ipv4Policy: EffectivePolicy;
  readonly ipv6Policy: EffectivePolicy;
  readonly evpnPolicy: EffectivePolicy;
  readonly passive: boolean;
  readonly multihop: number | undefined;
  readonly ttlSecurity: number | undefined;
  /** AS number shown to it. */
  readonly localAs: number | undefined;
  readonly updateSource: string | undefined;
}

/** A prefix that a switch announces by itself, as a line of it says. */
export interface OwnRoute {
  readonly prefix: AnyPrefix;
  readonly attributes: Attributes;
}

/** BGP in one VRF, completed. */
export interface RouterView {
  readonly speaker: BgpSpeaker;
  readonly peers: readonly EffectivePeer[];
  readonly peerByName: ReadonlyMap<string, EffectivePeer>;
  /** Who is spoken to under a name: as a statement says, or as one who may call from that address; undefined = nobody. */
  readonly peer: (name: string) => EffectivePeer | undefined;
  /** What callers of each range are like, each under the name of its range. */
  readonly callers: readonly EffectivePeer[];
  /** All it announces there by itself but for aggregates, by prefix; of IPv6 apart. */
  readonly ownRoutes: ReadonlyMap<Cidr, OwnRoute>;
  readonly ownIpv6Routes: ReadonlyMap<Cidr, OwnRoute>;
}

/** All it speaks to by name, and what callers of each range are like. */
export const everybodyOf = ({ peers, callers }: Pick<RouterView, 'peers' | 'callers'>): readonly EffectivePeer[] =>
  callers.length === 0 ? peers : [...peers, ...callers];

/** BGP of the default VRF, and of the others. */
export interface BgpView extends Omit<RouterView, 'speaker'> {
  /** BGP of a VRF; undefined = the default one. Null = it runs none there. */
  readonly router: (vrf?: string) => RouterView | null;
  /** Do no policies, and no ties settled in an unusual way, come into what it does with routes, but that it may ask that? */
  readonly plain: Readonly<Record<Family, boolean>>;
}

/** What a family says of a neighbour, then what it says of its group. */
function effectivePolicy(
  config: SwitchConfig,
  family: BgpFamily | undefined,
  peer: BgpPeer,
  of: IpFamily = 4,
): EffectivePolicy {
  if (family?.policies === undefined) return NO_POLICY;
  const ofGroup = family.policies.find((p) => p.peer === peer.group);
  const said: Partial<PeerPolicy> = { ...ofGroup, ...family.policies.find((p) => p.peer === peer.name) };
  const { mapIn, mapOut, prefixListIn, prefixListOut, accessListIn, accessListOut, asPathIn, asPathOut } = said;
  return {
    in: peerPolicy(config, of, { list: prefixListIn, access: accessListIn, asPath: asPathIn, map: mapIn }, peer.name),
    out: peerPolicy(config, of, { list: prefixListOut, access: accessListOut, asPath: asPathOut, map: mapOut }),
    weight: said.weight ?? 0,
    client: said.reflectorClient ?? false,
    asOverride: said.asOverride ?? false,
    nextHopSelf: said.nextHopSelf ?? null,
    defaultOriginate: said.defaultOriginate ?? false,
    maximumPrefix: said.maximumPrefix,
    maps: [mapIn, mapOut].filter((m) => m !== undefined),
  };
}

/** Neighbours of a router; `evpn` = what the switch says of that family, which tenants have not. */
function peersOf(
  config: SwitchConfig,
  speaker: BgpSpeaker,
  evpn: BgpFamily | undefined,
): Pick<RouterView, 'peers' | 'peerByName' | 'peer' | 'callers'> {
  const { peers: said, ipv4, ipv6, listens } = speaker;
  if (said.length === 0) return SILENT;
  const groups = new Map<string, BgpPeer>(said.filter((p) => p.kind === 'group').map((p) => [p.name, p]));
  const ipv4Active = new Set(ipv4.active);
  const ipv6Active = new Set(ipv6?.active);
  const evpnActive = new Set(evpn?.active);
  const effective = (p: BgpPeer & { readonly kind: EffectivePeer['kind'] }): EffectivePeer => {
    const group = p.group === undefined ? undefined : groups.get(p.group);
    const speaks = (active: ReadonlySet<string>, inactive: readonly string[] | undefined, anyway: boolean): boolean =>
      active.has(p.name) || (!inactive?.includes(p.name) && ((p.group !== undefined && active.has(p.group)) || anyway));
    const ownAs = (allowed: Readonly<Record<string, number>> | undefined): number =>
      allowed?.[p.name] ?? (p.group === undefined ? 0 : (allowed?.[p.group] ?? 0));
    return {
      name: p.name,
      kind: p.kind,
      group: p.group,
      calls: false,
      remoteAs: p.remoteAs ?? group?.remoteAs,
      bfd: p.bfd ?? group?.bfd ?? false,
      shutdown: p.shutdown ?? group?.shutdown ?? false,
      password: p.password ?? group?.password,
      ipv4: speaks(ipv4Active, ipv4.inactive, speaker.defaultIpv4),
      ipv6: speaks(ipv6Active, ipv6?.inactive, speaker.defaultIpv6 ?? false),
      evpn: speaks(evpnActive, evpn?.inactive, false),
      ipv4OwnAs: ownAs(ipv4.ownAsAllowed),
      ipv6OwnAs: ownAs(ipv6?.ownAsAllowed),
      evpnOwnAs: ownAs(evpn?.ownAsAllowed),
      ipv4Policy: effectivePolicy(config, ipv4, p),
      ipv6Policy: effectivePolicy(config, ipv6, p, 6),
      evpnPolicy: effectivePolicy(config, evpn, p),
      passive: p.passive ?? group?.passive ?? false,
      // A neighbour on an interface is next door, whatever its group says (FRR 8.4.4).
      multihop: p.kind === 'interface' ? undefined : (p.multihop ?? group?.multihop),
      ttlSecurity:
        p.ttlSecurity ?? (p.kind === 'interface' && (group?.ttlSecurity ?? 0) > 1 ? undefined : group?.ttlSecurity),
      localAs: p.localAs ?? group?.localAs,
      updateSource: p.updateSource ?? group?.updateSource,
    };
  };
  const peers = said.flatMap((p) => (p.kind === 'group' ? [] : effective({ ...p, kind: p.kind })));
  const peerByName = new Map(peers.map((p) => [p.name, p]));
  if (!listens) return { peers, peerByName, peer: (name) => peerByName.get(name), callers: [] };
  // They do not overlap: of two that would, FRR keeps the first.
  const ranges = listens.map((l) => ({ ...l, range: parseAnyPrefix(l.prefix)! }));
  const caller = (name: string, group: string): EffectivePeer => {
    const made = effective({ name, kind: 'address', group, passive: true });
    // It speaks what is spoken by itself whatever its group says of it, and then not as its group says (FRR 8.4.4).
    const untold = (active: boolean, anyway: boolean, of: BgpFamily | undefined): boolean =>
      !active && anyway && (of?.inactive?.includes(group) ?? false);
    return {
      ...made,
      calls: true,
      ...(untold(ipv4Active.has(group), speaker.defaultIpv4, ipv4) ? { ipv4Policy: NO_POLICY, ipv4OwnAs: 0 } : {}),
      ...(untold(ipv6Active.has(group), speaker.defaultIpv6 ?? false, ipv6)
        ? { ipv6Policy: NO_POLICY, ipv6OwnAs: 0 }
        : {}),
    };
  };
  const called = new Map<string, EffectivePeer | undefined>();
  return {
    peers,
    peerByName,
    peer: (name) => {
      const known = peerByName.get(name) ?? called.get(name);
      if (known || called.has(name)) return known;
      const address = hostPrefix(name);
      const range =
        address && ranges.find((r) => familyOf(r.range) === familyOf(address) && holdsAny(r.range, address));
      const made = range ? caller(name, range.group) : undefined;
      called.set(name, made);
      return made;
    },
    callers: ranges.map((r) => caller(r.prefix, r.group)),
  };
}

/** What a router announces by itself: connected and static routes that it tells on, and the networks it names. */
function ownRoutesOf(config: SwitchConfig, speaker: BgpSpeaker, family: IpFamily, vrf?: string): Map<Cidr, OwnRoute> {
  const out = new Map<Cidr, OwnRoute>();
  const said = unicastOf(speaker, family);
  if (!said) return out;
  const blank: Attributes = { ...OWN_ATTRIBUTES, localPreference: speaker.localPreference ?? LOCAL_PREFERENCE };
  const tell = (by: Redistribution | undefined, prefix: AnyPrefix, attributes: Attributes): void => {
    if (!by) return;
    const had = { ...attributes, med: by.metric ?? 0 };
    const through = by.routeMap === undefined ? had : mapPolicy(config, by.routeMap, 'local')(had, prefix);
    if (through) out.set(formatAny(prefix), { prefix, attributes: through });
  };
  const connected = subnetsIn(config, vrf, family);
  const written = writtenIn(config, vrf, family).filter((w) => w.state !== 'inactive');
  const asksHops = hopMaps(config).size > 0;
  const hopOf = (via = ''): Ipv4 | null => (asksHops && parseIpv4(via) !== null ? via : null);
  for (const { prefix, route } of written)
    tell(said.static, prefix, { ...blank, tag: route.tag ?? 0, nextHop: hopOf(route.via) });
  for (const { prefix, port } of connected) tell(said.connected, prefix, { ...blank, port });
  // Only what is in the table is announced (bgp network import-check, on by itself).
  const there = new Set([...connected, ...written].map(({ prefix }) => formatAny(prefix)));
  for (const network of said.networks ?? []) {
    const prefix = parseAnyPrefix(network);
    if (!prefix || !there.has(network)) continue;
    const map = said.networkMaps?.[network];
    const had: Attributes = { ...blank, origin: 'igp' };
    const through = map === undefined ? had : mapPolicy(config, map, 'local')(had, prefix);
    if (through) out.set(network, { prefix, attributes: through });
  }
  return out;
}

/** Would shortest paths say all there is to say of what the switch does with routes, but for its asking to be gone round? */
function isPlain(config: SwitchConfig, family: Family, peers: readonly EffectivePeer[]): boolean {
  const { bgp } = config;
  const said = bgp?.[family];
  if (!bgp || !said) return true;
  if (said.policies !== undefined || bgp.asPathIgnored || bgp.medAlways) return false;
  if (bgp.localPreference !== undefined || peers.some((p) => p.localAs !== undefined)) return false;
  if (family === 'evpn') return true;
  const { connected, networks, aggregates, static: written, maximumPathsInternal }: UnicastFamily = said;
  if (networks ?? aggregates ?? written ?? maximumPathsInternal ?? connected?.metric) return false;
  const map = config.routeMaps.find((m) => m.name === connected?.routeMap);
  return !map?.entries.some((e) => e.set ?? e.call);
}

function viewRouter(config: SwitchConfig, vrf?: string): RouterView | null {
  const { bgp } = config;
  const speaker = vrf === undefined ? bgp : bgp?.vrfs.find((v) => v.vrf === vrf);
  if (!speaker) return null;
  return {
    speaker,
    ...peersOf(config, speaker, vrf === undefined ? bgp!.evpn : undefined),
    ownRoutes: ownRoutesOf(config, speaker, 4, vrf),
    ownIpv6Routes: ownRoutesOf(config, speaker, 6, vrf),
  };
}
const SILENT: Omit<RouterView, 'speaker'> = {
  peers: [],
  peerByName: new Map(),
  peer: () => undefined,
  callers: [],
  ownRoutes: new Map(),
  ownIpv6Routes: new Map(),
};

export function viewBgp(config: SwitchConfig): BgpView {
  const own = viewRouter(config);
  const { peers, peerByName, peer, callers, ownRoutes, ownIpv6Routes } = own ?? SILENT;
  /** Of tenants, made when they are asked about. */
  const tenants = new Map<string, RouterView | null>();
  return {
    peers,
    peerByName,
    peer,
    callers,
    ownRoutes,
    ownIpv6Routes,
    router: (vrf) => {
      if (vrf === undefined) return own;
      let router = tenants.get(vrf);
      if (router === undefined) tenants.set(vrf, (router = viewRouter(config, vrf)));
      return router;
    },
    plain: {
      ipv4: isPlain(config, 'ipv4', peers),
      ipv6: isPlain(config, 'ipv6', peers),
      evpn: isPlain(config, 'evpn', peers),
    },
  };
}
