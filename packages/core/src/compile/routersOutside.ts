import { blankConfig } from '../config/sections.ts';
import type { BgpPeer, PeerPolicy, UnicastFamily } from '../config/bgp.ts';
import type { PortConfig } from '../config/interfaces.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import { vlanPort } from '../config/vlanOfPort.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { familyWith, hopsTo } from '../intent/neighbourPlace.ts';
import type { Layout } from '../layout/links.ts';
import type { Cable } from '../network/cablePlan.ts';
import type { ReadSwitch } from '../network/readSwitch.ts';
import { bitsOf, type IpFamily } from '../numbers/address.ts';
import { formatIpv4, hostPart, type Ipv4 } from '../numbers/ipv4.ts';
import { groupBy, naturally } from '../numbers/order.ts';
import { DEFAULT_ROUTE } from '../numbers/prefix.ts';
import type { Values } from '../pools/drawValues.ts';
import { speakingIn, type Speaking } from './speaking.ts';

/** What is known of routers outside, as far as a fabric speaks to them. */
export interface RoutersOutside {
  readonly switches: readonly ReadSwitch[];
  readonly cables: readonly Cable[];
}

/**
 * Routers outside as the fabric expects them: each has the address and the AS number that are said of it, and tells just
 * what it may tell. What they do besides nobody here knows.
 */
export function routersOutside(
  intent: FabricIntent,
  layout: Layout,
  configs: ReadonlyMap<string, SwitchConfig>,
  values: Values,
): RoutersOutside {
  const speaking = speakingIn(intent, layout, configs, values);
  return {
    switches: [...groupBy(speaking, (s) => s.system)].map(([host, all]) => ({
      host,
      config: routerOf(host, all),
      unread: [],
    })),
    cables: [
      ...new Map(
        speaking.flatMap(({ cables, system, host }) =>
          cables.map(({ port, farPort }) => [
            `${host} ${port}`,
            { a: { host, port }, b: { host: system, port: farPort } },
          ]),
        ),
      ).values(),
    ],
  };
}

/** Its ports, LAGs of them, and the VLANs of both that somebody speaks over, with its addresses there. */
function portsOf(all: readonly Speaking[]): PortConfig[] {
  const names = new Set(all.flatMap((s) => [s.farPort, vlanPort(s.farPort, s.neighbour.vlan)]));
  const { mtu } = all[0]!;
  const spokenOver = [...names].map((name): PortConfig => {
    const here = all.filter((s) => vlanPort(s.farPort, s.neighbour.vlan) === name);
    const of = (family: IpFamily): string[] =>
      here
        .filter(({ neighbour }) => familyWith(neighbour) === family)
        .map(({ neighbour: n }) => `${n.far}${n.address.slice(n.address.indexOf('/'))}`);
    const ipv6 = of(6);
    const whole = all.find((s) => s.farPort === name);
    const own = whole?.isLag ? { members: whole.cables.map((c) => c.farPort).sort(naturally) } : whole?.driven;
    return { name, mtu, ...own, addresses: of(4), ...(ipv6.length > 0 ? { ipv6Addresses: ipv6 } : {}) };
  });
  const members = new Map(
    all.flatMap(({ isLag, cables, driven }) =>
      isLag ? cables.map((c) => [c.farPort, { name: c.farPort, mtu, ...driven, addresses: [] }] as const) : [],
    ),
  );
  return [...spokenOver, ...members.values()].sort((a, b) => naturally(a.name, b.name));
}

/** What it tells in a session. */
const toldBy = ({ neighbour: n }: Speaking): readonly string[] =>
  n.takes.length === 0 ? [DEFAULT_ROUTE[familyWith(n)]] : n.takes;

/** What it is called by as a router, which is written as an address of IPv4: one it has, or a number that comes of its name (FNV-1a). */
function routerIdOf(hostname: string, all: readonly Speaking[]): Ipv4 {
  const ipv4 = all.find((s) => familyWith(s.neighbour) === 4);
  if (ipv4) return ipv4.neighbour.far;
  let number = 0x811c9dc5;
  for (const letter of hostname) number = Math.imul(number ^ letter.charCodeAt(0), 0x01000193);
  return formatIpv4(number >>> 0 || 1);
}

function routerOf(hostname: string, all: readonly Speaking[]): SwitchConfig {
  const sessions = (family: IpFamily): Speaking[] => all.filter((s) => familyWith(s.neighbour) === family);
  const prefixes = (family: IpFamily): string[] =>
    [...new Set(sessions(family).flatMap(toldBy))].filter((p) => p !== DEFAULT_ROUTE[family]).sort(naturally);
  const statics = [...prefixes(4), ...prefixes(6)];
  const loopbacks = (family: IpFamily): string[] =>
    [...new Set(sessions(family).flatMap(({ neighbour: n }) => n.loopback ?? []))]
      .sort(naturally)
      .map((address) => `${address}/${bitsOf(family)}`);
  const peers = all.map((s): BgpPeer => ({
    name: hostPart(s.neighbour.address),
    kind: 'address',
    remoteAs: s.neighbour.localAs ?? s.ourAs,
    ...(s.neighbour.ttlSecurity === true ? { ttlSecurity: 1 } : {}),
    ...(s.neighbour.loopback === undefined
      ? {}
      : { multihop: hopsTo(s.neighbour)!, updateSource: s.neighbour.loopback }),
    ...(s.mask === undefined ? {} : { password: s.mask }),
    ...(s.neighbour.bfd === true ? { bfd: true } : {}),
  }));
  const ofIpv6 = sessions(6)
    .map((s) => hostPart(s.neighbour.address))
    .sort(naturally);
  const unicast = (family: IpFamily): UnicastFamily => {
    const policies = sessions(family).flatMap((s): PeerPolicy[] =>
      toldBy(s).includes(DEFAULT_ROUTE[family])
        ? [{ peer: hostPart(s.neighbour.address), defaultOriginate: true }]
        : [],
    );
    return {
      active: family === 6 ? ofIpv6 : [],
      ...(family === 4 && ofIpv6.length > 0 ? { inactive: ofIpv6 } : {}),
      ownAsAllowed: {},
      ...(prefixes(family).length > 0 ? { static: {} } : {}),
      ...(policies.length > 0 ? { policies } : {}),
    };
  };
  return {
    ...blankConfig(hostname),
    loopbacks: loopbacks(4),
    ...(loopbacks(6).length > 0 ? { ipv6Loopbacks: loopbacks(6) } : {}),
    ports: portsOf(all),
    ...(statics.length > 0 ? { staticRoutes: statics.map((prefix) => ({ prefix })) } : {}),
    bgp: {
      asn: all[0]!.neighbour.asn,
      routerId: routerIdOf(hostname, all),
      defaultIpv4: true,
      policyRequired: false,
      multipathRelax: true,
      peers: peers.sort((a, b) => naturally(a.name, b.name)),
      ipv4: unicast(4),
      ...(ofIpv6.length > 0 ? { ipv6: unicast(6) } : {}),
      evpn: { active: [], ownAsAllowed: {}, advertiseAllVni: false, vnis: [] },
      vrfs: [],
    },
  };
}
