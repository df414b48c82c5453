import fc from 'fast-check';
import type { UnicastFamily } from '../config/bgp.ts';
import type { PrefixList, RouteMap } from '../config/policy.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import type { Cable } from '../hardware/cable.ts';

/** What a fabric says of IPv6. */
export interface Ipv6Choices {
  /** Do links have addresses, or those of the link alone? */
  readonly links: 'addressed' | 'bare';
  /** How loopbacks are told: as connected, through a map; as connected, all; or by name. */
  readonly told: 'mapped' | 'connected' | 'named';
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
export const ipv6Choices: fc.Arbitrary<Ipv6Choices> = fc.record({
  links: fc.constantFrom('addressed' as const, 'bare' as const),
  told: fc.constantFrom('mapped' as const, 'connected' as const, 'named' as const),
  byDefault: fc.boolean(),
  aggregated: fc.boolean(),
  filtered: fc.boolean(),
  written: fc.boolean(),
  tenants: fc.constantFrom('none' as const, 'local' as const, 'told' as const, 'told' as const),
  tellsDefault: fc.boolean(),
});

const MAP = 'TOLD6';
const LIST = 'LOOPBACKS6';
const SHORT = 'SHORT6';
const LOOPBACKS = '2001:db8:0:1::/64';

/** Switches of a fabric with IPv6 beside what they say of IPv4. */
export function withIpv6(
  configs: readonly SwitchConfig[],
  cables: readonly Cable[],
  choices: Ipv6Choices,
): SwitchConfig[] {
  const lists: PrefixList[] = [
    { name: LIST, entries: [{ seq: 5, permit: true, prefix: LOOPBACKS, ge: 128 }] },
    { name: SHORT, entries: [{ seq: 5, permit: true, prefix: '::/0', le: 127 }] },
  ];
  const maps: RouteMap[] = [{ name: MAP, entries: [{ seq: 10, permit: true, matchIpv6PrefixList: LIST }] }];
  const portAddress = (host: string, port: string): string | null => {
    const link = cables.findIndex((c) => [c.a, c.b].some((e) => e.host === host && e.port === port));
    if (link < 0) return null;
    const second = cables[link]!.b.host === host && cables[link]!.b.port === port;
    return `2001:db8:0:2::${(2 * link + Number(second)).toString(16)}/127`;
  };
  return configs.map((c, i) => {
    const { bgp } = c;
    if (!bgp) return c;
    const loopback = `2001:db8:0:1::${(i + 1).toString(16)}/128`;
    const ports = c.ports.map((p) => {
      const address = choices.links === 'addressed' && !p.bridging ? portAddress(c.hostname, p.name) : null;
      return address === null ? p : { ...p, ipv6Addresses: [address] };
    });
    const group = bgp.ipv4.active[0];
    const ownAsAllowed = bgp.ipv4.ownAsAllowed;
    const told: Partial<UnicastFamily> =
      choices.told === 'named'
        ? { networks: [loopback] }
        : { connected: choices.told === 'mapped' ? { routeMap: MAP } : {} };
    const ipv6: UnicastFamily = {
      active: choices.byDefault || group === undefined ? [] : [group],
      ownAsAllowed,
      ...told,
      ...(choices.aggregated && i === 0 ? { aggregates: [{ prefix: LOOPBACKS, summaryOnly: true }] } : {}),
      ...(choices.written && i === configs.length - 1 ? { static: {} } : {}),
      ...(choices.filtered && i === configs.length - 1 && group !== undefined
        ? { policies: [{ peer: group, prefixListIn: SHORT }] }
        : {}),
    };
    const inTenants = choices.tenants !== 'none';
    const svis = c.svis.map((s) =>
      inTenants && s.addresses.length > 0 ? { ...s, ipv6Addresses: [`2001:db8:1:${s.vlan.toString(16)}::1/64`] } : s,
    );
    const vrfs = bgp.vrfs.map((v) =>
      inTenants
        ? {
            ...v,
            ipv6: { active: [], ownAsAllowed: {}, connected: {} },
            ...(choices.tenants === 'told' ? { advertiseIpv6: true } : {}),
            ...(choices.tenants === 'told' && choices.tellsDefault && i === configs.length - 1
              ? { defaultIpv6Route: true }
              : {}),
          }
        : v,
    );
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
      bgp: { ...bgp, ...(choices.byDefault ? { defaultIpv6: true } : {}), ipv6, vrfs },
    };
  });
}
