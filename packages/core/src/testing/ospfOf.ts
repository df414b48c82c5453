import fc from 'fast-check';
import type { BgpPeer } from '../config/bgp.ts';
import type { OspfPort } from '../config/ospf.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import type { Cable } from '../hardware/cable.ts';
import { naturally } from '../numbers/order.ts';
import { formatIpv4, formatPrefix, hostPart, parseCidr, prefixOf } from '../numbers/ipv4.ts';

/** How a fabric is led by OSPF. */
export interface OspfChoices {
  /** Addresses of links: a subnet each, or that of the loopback. */
  readonly links: 'subnets' | 'borrowed';
  /** Areas are said by interfaces, or by networks. */
  readonly by: 'interfaces' | 'networks';
  /** Those without tunnels are the backbone, and each other switch has an area of its own; or all is one. */
  readonly areas: 'one' | 'many';
  /** What BGP still does: EVPN between loopbacks of one AS, EVPN over links, or all that it did before. */
  readonly bgp: 'internal' | 'links' | 'all';
  readonly pointToPoint: boolean;
  readonly quiet: boolean;
  readonly redistributes: boolean;
  /** Are neighbours missed within seconds? */
  readonly quick: boolean;
  /** Costs of ends of links in turn; 0 = none is said. */
  readonly costs: readonly number[];
}
export const ospfChoices: fc.Arbitrary<OspfChoices> = fc
  .record({
    links: fc.constantFrom('subnets' as const, 'borrowed' as const),
    by: fc.constantFrom('interfaces' as const, 'networks' as const),
    areas: fc.constantFrom('one' as const, 'many' as const),
    bgp: fc.constantFrom('internal' as const, 'links' as const, 'all' as const),
    pointToPoint: fc.boolean(),
    quiet: fc.boolean(),
    redistributes: fc.boolean(),
    quick: fc.boolean(),
    costs: fc.array(fc.constantFrom(0, 0, 10, 20, 30), { minLength: 5, maxLength: 9 }),
  })
  .map((c) => ({
    ...c,
    // An address without a subnet has a neighbour only where two alone are on the link.
    pointToPoint: c.pointToPoint || c.links === 'borrowed',
    // Networks say where by addresses, which all are the same where they are borrowed.
    by: c.links === 'borrowed' && c.areas === 'many' ? ('interfaces' as const) : c.by,
    // Without an interface in it no router is in the backbone.
    areas: c.redistributes ? ('one' as const) : c.areas,
    // An address that a port has in OSPF is told by nobody as one from outside.
    redistributes: c.redistributes && c.links === 'subnets',
  }));

const AS = 64999;

/** Switches of a fabric with OSPF in the place of what BGP does for loopbacks. */
export function withOspf(
  configs: readonly SwitchConfig[],
  cables: readonly Cable[],
  choices: OspfChoices,
): SwitchConfig[] {
  const isBelow = (c: SwitchConfig): boolean => c.vxlans.length > 0;
  const at = new Map(configs.map((c, i) => [c.hostname, i]));
  const between = cables.filter((c) => at.has(c.a.host) && at.has(c.b.host));
  const ends = (host: string) =>
    between.flatMap((c, link) => [
      ...(c.a.host === host ? [{ port: c.a.port, far: c.b.host, link, second: 0 }] : []),
      ...(c.b.host === host ? [{ port: c.b.port, far: c.a.host, link, second: 1 }] : []),
    ]);
  const areaOf = (host: string): string => {
    const i = at.get(host)!;
    return choices.areas === 'one' || configs.every(isBelow) || !isBelow(configs[i]!) ? '0.0.0.0' : formatIpv4(i + 1);
  };
  /** A link is in the area of its lower end. */
  const areaOfLink = (a: string, b: string): string => (areaOf(a) === '0.0.0.0' ? areaOf(b) : areaOf(a));
  return configs.map((c) => {
    const links = ends(c.hostname).filter((e) => c.ports.some((p) => p.name === e.port && p.bridging === undefined));
    const own = hostPart(c.loopbacks[0]!);
    /** Sessions over links need the addresses that they are said with. */
    const addressOf = ({ port, link, second }: (typeof links)[number]): string => {
      const had = c.ports.find((p) => p.name === port)!.addresses[0];
      if (had !== undefined && choices.bgp !== 'internal') return had;
      return choices.links === 'borrowed' ? `${own}/32` : `${formatIpv4(0x0a630000 + 2 * link + second)}/31`;
    };
    const ports = c.ports.map((p) => {
      const end = links.find((e) => e.port === p.name);
      return end ? { ...p, addresses: [addressOf(end)] } : p;
    });
    const said = links.map((e): OspfPort => {
      const cost = choices.costs[(2 * e.link + e.second) % choices.costs.length]!;
      return {
        name: e.port,
        ...(choices.by === 'interfaces' ? { area: areaOfLink(c.hostname, e.far) } : {}),
        ...(cost === 0 ? {} : { cost }),
        ...(choices.pointToPoint ? { pointToPoint: true } : {}),
        ...(choices.quiet ? { passive: false } : {}),
        ...(choices.quick ? { hello: 1, dead: 4 } : {}),
      };
    });
    const onLoopback = choices.by === 'interfaces' && !choices.redistributes;
    const ospfPorts = [...(onLoopback ? [{ name: 'lo', area: areaOf(c.hostname) }] : []), ...said].filter(
      (p) => Object.keys(p).length > 1,
    );
    const networks =
      choices.by === 'interfaces'
        ? []
        : [
            ...links.map((e) => ({
              prefix: formatPrefix(prefixOf(parseCidr(addressOf(e))!)),
              area: areaOfLink(c.hostname, e.far),
            })),
            ...(choices.redistributes ? [] : c.loopbacks.map((prefix) => ({ prefix, area: areaOf(c.hostname) }))),
          ].filter((n, i, all) => all.findIndex((x) => x.prefix === n.prefix) === i);
    const told = choices.redistributes ? { connected: { routeMap: c.routeMaps[0]!.name } } : {};
    const ospf = { routerId: own, networks, ...(choices.quiet ? { passive: true } : {}), ...told };
    return { ...c, ports, ospf, ...(ospfPorts.length > 0 ? { ospfPorts } : {}), ...bgpOf(c, configs, choices) };
  });
}

function bgpOf(c: SwitchConfig, all: readonly SwitchConfig[], choices: OspfChoices): Pick<SwitchConfig, 'bgp'> {
  const { bgp } = c;
  if (!bgp || choices.bgp === 'all') return { ...(bgp ? { bgp } : {}) };
  const { connected: _, ...ipv4 } = { ...bgp.ipv4, active: [] };
  if (choices.bgp === 'links') return { bgp: { ...bgp, ipv4 } };
  const below = c.vxlans.length > 0;
  const others = all.filter((o) => o.vxlans.length > 0 !== below && o.bgp);
  const GROUP = 'OVER';
  const peers: BgpPeer[] = [
    { name: GROUP, kind: 'group', remoteAs: 'internal', updateSource: 'lo' },
    ...others.map((o): BgpPeer => ({ name: hostPart(o.loopbacks[0]!), kind: 'address', group: GROUP })),
  ];
  const policies = below ? {} : { policies: [{ peer: GROUP, reflectorClient: true }] };
  const evpn = { ...bgp.evpn, active: [GROUP], ownAsAllowed: {}, ...policies };
  // A VRF with a VNI has the AS number of the switch: FRR takes no other.
  const vrfs = bgp.vrfs.map((v) => ({ ...v, asn: AS }));
  return { bgp: { ...bgp, asn: AS, vrfs, peers, ipv4: { ...ipv4, ownAsAllowed: {} }, evpn } };
}

/** Switches of a fabric with OSPF of IPv6 on their links too, as they are chosen for that of IPv4. */
export function withOspf6(
  configs: readonly SwitchConfig[],
  cables: readonly Cable[],
  choices: Pick<OspfChoices, 'areas' | 'pointToPoint' | 'redistributes' | 'quick' | 'costs'>,
): SwitchConfig[] {
  const isBelow = (c: SwitchConfig): boolean => c.vxlans.length > 0;
  const at = new Map(configs.map((c, i) => [c.hostname, i]));
  const areaOf = (host: string): string => {
    const i = at.get(host)!;
    return choices.areas === 'one' || configs.every(isBelow) || !isBelow(configs[i]!) ? '0.0.0.0' : formatIpv4(i + 1);
  };
  return configs.map((c) => {
    const links = cables.flatMap((l, link) => {
      if (!at.has(l.a.host) || !at.has(l.b.host)) return [];
      const [own, far] = l.a.host === c.hostname ? [l.a, l.b] : l.b.host === c.hostname ? [l.b, l.a] : [];
      const port = own && c.ports.find((p) => p.name === own.port && !p.bridging && p.vrf === undefined);
      return own && far && port ? [{ port: own.port, far: far.host, link, second: Number(own === l.b) }] : [];
    });
    const said = links.map((e): OspfPort => {
      const cost = choices.costs[(2 * e.link + e.second) % choices.costs.length]!;
      return {
        name: e.port,
        area: areaOf(c.hostname) === '0.0.0.0' ? areaOf(e.far) : areaOf(c.hostname),
        ...(cost === 0 ? {} : { cost }),
        ...(choices.pointToPoint ? { pointToPoint: true } : {}),
        ...(choices.quick ? { hello: 1, dead: 4 } : {}),
      };
    });
    const lo = choices.redistributes ? [] : [{ name: 'lo', area: areaOf(c.hostname) }];
    return {
      ...c,
      ospf6: { routerId: hostPart(c.loopbacks[0]!), ...(choices.redistributes ? { connected: {} } : {}) },
      ...(lo.length + said.length > 0
        ? { ospf6Ports: [...lo, ...said].sort((a, b) => naturally(a.name, b.name)) }
        : {}),
    };
  });
}
