import type { BgpPeer, RemoteAs } from '../config/bgp.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import { hostPart, parsePrefix } from '../numbers/ipv4.ts';
import { passes } from './policy.ts';

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

export interface BgpView {
  readonly peers: readonly EffectivePeer[];
  readonly peerByName: ReadonlyMap<string, EffectivePeer>;
  /** Loopback addresses (host part) announced in the underlay. */
  readonly announced: ReadonlySet<string>;
}

function effectivePeers({ bgp }: SwitchConfig): EffectivePeer[] {
  const groups = new Map<string, BgpPeer>((bgp?.peers ?? []).filter((p) => p.kind === 'group').map((p) => [p.name, p]));
  const ipv4Active = new Set(bgp?.ipv4.active);
  const evpnActive = new Set(bgp?.evpn.active);
  const peers: EffectivePeer[] = [];
  for (const p of bgp?.peers ?? []) {
    if (p.kind === 'group') continue;
    const group = p.group === undefined ? undefined : groups.get(p.group);
    const speaks = (active: ReadonlySet<string>, inactive: readonly string[] | undefined, anyway: boolean): boolean =>
      active.has(p.name) || (!inactive?.includes(p.name) && ((p.group !== undefined && active.has(p.group)) || anyway));
    const ownAs = (said: Readonly<Record<string, number>> | undefined): number =>
      said?.[p.name] ?? (p.group === undefined ? 0 : (said?.[p.group] ?? 0));
    peers.push({
      name: p.name,
      kind: p.kind,
      remoteAs: p.remoteAs ?? group?.remoteAs,
      bfd: p.bfd ?? group?.bfd ?? false,
      shutdown: p.shutdown ?? group?.shutdown ?? false,
      password: p.password ?? group?.password,
      ipv4: speaks(ipv4Active, bgp?.ipv4.inactive, bgp?.defaultIpv4 ?? false),
      evpn: speaks(evpnActive, bgp?.evpn.inactive, false),
      ipv4OwnAs: ownAs(bgp?.ipv4.ownAsAllowed),
      evpnOwnAs: ownAs(bgp?.evpn.ownAsAllowed),
    });
  }
  return peers;
}

export function viewBgp(config: SwitchConfig): BgpView {
  const peers = effectivePeers(config);
  const announced = new Set<string>();
  const connected = config.bgp?.ipv4.connected;
  if (connected)
    for (const loopback of config.loopbacks) {
      const prefix = parsePrefix(loopback);
      if (prefix && passes(config, connected.routeMap, prefix)) announced.add(hostPart(loopback));
    }
  return { peers, peerByName: new Map(peers.map((p) => [p.name, p])), announced };
}
