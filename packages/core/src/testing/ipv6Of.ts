import fc from 'fast-check';
import { withOspf6, type OspfChoices } from './ospfOf.ts';
import { sortPeers, type BgpPeer, type BgpSpeaker, type UnicastFamily } from '../config/bgp.ts';
import type { PrefixList, RouteMap } from '../config/policy.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import type { Cable } from '../hardware/cable.ts';
import { naturally } from '../numbers/order.ts';
import type { HostPort } from '../network/networkModel.ts';

/** What a fabric says of IPv6. */
export interface Ipv6Choices {
  /** Do links have addresses, or those of the link alone? */
  readonly links: 'addressed' | 'bare';
  /** How loopbacks are told: as connected, through a map; as connected, all; or by name. */
  readonly told: 'mapped' | 'connected' | 'named';
  /** Over the sessions there are, or each over one of its own between addresses of IPv6. */
  readonly sessions: 'shared' | 'own';
  /** Who finds the ways outside of VRFs. */
  readonly led: 'bgp' | 'ospf' | 'both';
  /** Neighbours speak it by themselves. */
  readonly byDefault: boolean;
  readonly aggregated: boolean;
  /** A switch takes no other than short prefixes. */
  readonly filtered: boolean;
  readonly written: boolean;
  /** Do tenants have it, and does EVPN tell it? */
  readonly tenants: 'none' | 'local' | 'told';
  readonly tellsDefault: boolean;
}
export const ipv6Choices: fc.Arbitrary<Ipv6Choices> = fc
  .record({
    links: fc.constantFrom('addressed' as const, 'bare' as const),
    led: fc.constantFrom('bgp' as const, 'bgp' as const, 'ospf' as const, 'both' as const),
    sessions: fc.constantFrom('shared' as const, 'shared' as const, 'own' as const),
    told: fc.constantFrom('mapped' as const, 'connected' as const, 'named' as const),
    byDefault: fc.boolean(),
    aggregated: fc.boolean(),
    filtered: fc.boolean(),
    written: fc.boolean(),
    tenants: fc.constantFrom('none' as const, 'local' as const, 'told' as const, 'told' as const),
    tellsDefault: fc.boolean(),
  })
  .map((c) => (c.sessions === 'own' ? { ...c, links: 'addressed' as const, byDefault: false } : c));

const MAP = 'TOLD6';
const LIST = 'LOOPBACKS6';
const SHORT = 'SHORT6';
const LOOPBACKS = '2001:db8:0:1::/64';

/** Switches of a fabric with IPv6 beside what they say of IPv4. */
export function withIpv6(
  configs: readonly SwitchConfig[],
  cables: readonly Cable[],
  choices: Ipv6Choices,
  ospf: OspfChoices = PLAIN_OSPF,
): SwitchConfig[] {
  const made = dual(configs, cables, choices);
  const led = made.map(({ bgp, ...c }): SwitchConfig => {
    if (!bgp || choices.led !== 'ospf') return { ...c, ...(bgp ? { bgp } : {}) };
    const { ipv6: _, defaultIpv6: __, ...rest } = bgp;
    return { ...c, bgp: { ...rest, peers: rest.peers.filter((p) => !p.name.includes(':')) } };
  });
  const runs = (c: SwitchConfig): boolean => c.ipv6Loopbacks !== undefined && c.loopbacks.length > 0;
  if (choices.led === 'bgp') return led;
  const by = new Map(withOspf6(led.filter(runs), cables, ospf).map((c) => [c.hostname, c]));
  return led.map((c) => by.get(c.hostname) ?? c);
}
const PLAIN_OSPF: OspfChoices = {
  links: 'subnets',
  by: 'interfaces',
  areas: 'one',
  bgp: 'all',
  pointToPoint: true,
  quiet: false,
  redistributes: false,
  quick: true,
  costs: [0],
};

function dual(configs: readonly SwitchConfig[], cables: readonly Cable[], choices: Ipv6Choices): SwitchConfig[] {
  const lists: PrefixList[] = [
    { name: LIST, entries: [{ seq: 5, permit: true, prefix: LOOPBACKS, ge: 128 }] },
    { name: SHORT, entries: [{ seq: 5, permit: true, prefix: '::/0', le: 127 }] },
  ];
  const maps: RouteMap[] = [{ name: MAP, entries: [{ seq: 10, permit: true, matchIpv6PrefixList: LIST }] }];
  const linkOf = (host: string, port: string) =>
    cables.findIndex((c) => [c.a, c.b].some((e) => e.host === host && e.port === port));
  const isSecond = (link: number, host: string, port: string): boolean =>
    cables[link]!.b.host === host && cables[link]!.b.port === port;
  const endAddress = (link: number, second: boolean): string =>
    `2001:db8:0:2::${(2 * link + 16 + Number(second)).toString(16)}`;
  const isAddressed = (c: SwitchConfig, port: string): boolean =>
    choices.links === 'addressed' &&
    linkOf(c.hostname, port) >= 0 &&
    c.ports.some((p) => p.name === port && p.bridging === undefined);
  /** A neighbour by IPv6 for each link of a VRF that one is spoken to over. */
  const ownPeers = (c: SwitchConfig, speaker: BgpSpeaker, vrf?: string): BgpPeer[] =>
    choices.sessions === 'shared' || speaker.peers.length === 0
      ? []
      : c.ports.flatMap((p): BgpPeer[] => {
          if (p.vrf !== vrf || !isAddressed(c, p.name)) return [];
          const link = linkOf(c.hostname, p.name);
          const far = endAddress(link, !isSecond(link, c.hostname, p.name));
          return [{ name: far, kind: 'address', remoteAs: 'external' }];
        });
  /** Who speaks IPv6 in a VRF; those of IPv6 speak nothing else. */
  const speaking = (c: SwitchConfig, speaker: BgpSpeaker, vrf?: string) => {
    const own = ownPeers(c, speaker, vrf);
    const group = speaker.ipv4.active[0];
    const names = own.length > 0 ? own : speaker.peers.filter((p) => p.kind !== 'group');
    const active = own.length === 0 && group !== undefined ? [group] : names.map((p) => p.name);
    return {
      peers: sortPeers([...speaker.peers, ...own]),
      active: choices.byDefault ? [] : active,
      ipv4:
        speaker.defaultIpv4 && own.length > 0 ? { ...speaker.ipv4, inactive: own.map((p) => p.name) } : speaker.ipv4,
      ...(choices.byDefault && names.length > 0 ? { defaultIpv6: true } : {}),
    };
  };
  return configs.map((c, i) => {
    const { bgp } = c;
    if (!bgp) return c;
    const loopback = `2001:db8:0:1::${(i + 1).toString(16)}/128`;
    const ports = c.ports.map((p) => {
      if (!isAddressed(c, p.name)) return p;
      const link = linkOf(c.hostname, p.name);
      return { ...p, ipv6Addresses: [`${endAddress(link, isSecond(link, c.hostname, p.name))}/127`] };
    });
    const { active, peers, ipv4, ...byDefault } = speaking(c, bgp);
    const ownAsAllowed =
      choices.sessions === 'own'
        ? Object.fromEntries(
            active.flatMap((a) =>
              Object.values(bgp.ipv4.ownAsAllowed)
                .slice(0, 1)
                .map((n) => [a, n]),
            ),
          )
        : bgp.ipv4.ownAsAllowed;
    const told: Partial<UnicastFamily> =
      choices.told === 'named'
        ? { networks: [loopback] }
        : { connected: choices.told === 'mapped' ? { routeMap: MAP } : {} };
    const ipv6: UnicastFamily = {
      active,
      ownAsAllowed,
      ...told,
      ...(choices.aggregated && i === 0 ? { aggregates: [{ prefix: LOOPBACKS, summaryOnly: true }] } : {}),
      ...(choices.written && i === configs.length - 1 ? { static: {} } : {}),
      ...(choices.filtered && i === configs.length - 1 && active.length > 0
        ? { policies: [...active].sort(naturally).map((peer) => ({ peer, prefixListIn: SHORT })) }
        : {}),
    };
    const inTenants = choices.tenants !== 'none';
    const svis = c.svis.map((s) =>
      inTenants && s.addresses.length > 0
        ? // Gateways are alike, what has a subnet of its own is not.
          {
            ...s,
            ipv6Addresses: [`2001:db8:1:${s.vlan.toString(16)}::${s.mac === undefined ? (i + 2).toString(16) : 1}/64`],
          }
        : s,
    );
    const vrfs = bgp.vrfs.map((v) => {
      const { active: speakers, ...said } = speaking(c, v, v.vrf);
      return inTenants
        ? {
            ...v,
            ...said,
            ipv6: { active: speakers, ownAsAllowed: {}, connected: {} },
            ...(choices.tenants === 'told' ? { advertiseIpv6: true } : {}),
            ...(choices.tenants === 'told' && choices.tellsDefault && i === configs.length - 1
              ? { defaultIpv6Route: true }
              : {}),
          }
        : v;
    });
    const staticRoutes = [
      ...(c.staticRoutes ?? []),
      ...(choices.written && i === configs.length - 1 ? [{ prefix: '2001:db8:9::/48' }] : []),
    ];
    return {
      ...c,
      ports,
      svis,
      ipv6Loopbacks: [loopback],
      ipv6PrefixLists: lists,
      routeMaps: [...c.routeMaps, ...maps],
      ...(staticRoutes.length > 0 ? { staticRoutes } : {}),
      bgp: { ...bgp, ...byDefault, peers, ipv4, ipv6, vrfs },
    };
  });
}

/** Servers of such a fabric with an address of IPv6 too, by the gateways there are. */
export const ipv6Servers = (configs: readonly SwitchConfig[], hosts: readonly HostPort[]): HostPort[] =>
  hosts.flatMap((h, i) => {
    const svi = configs.find((c) => c.hostname === h.switch)?.svis.find((s) => s.vlan === h.vlan);
    const gateway = svi?.ipv6Addresses?.[0];
    if (gateway === undefined) return [];
    const [own = ''] = gateway.split('/');
    // Of a server at both halves of a pair one address.
    const at = hosts.findIndex((o) => o.host === h.host && o.ip === h.ip);
    const { length: _, ...rest } = h;
    return at < i
      ? []
      : [{ ...rest, ip: `${own.slice(0, own.lastIndexOf('::'))}::${(i + 16).toString(16)}`, gateway: own }];
  });
