import fc from 'fast-check';
import type { BgpPeer, BgpVrf, PeerPolicy } from '../config/bgp.ts';
import type { RouteMap } from '../config/policy.ts';
import { blankConfig } from '../config/sections.ts';
import type { StaticRoute } from '../config/static.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import type { Cable } from '../hardware/cable.ts';
import type { HostPort } from '../network/networkModel.ts';
import { formatPrefix, parseCidr, prefixOf } from '../numbers/ipv4.ts';

/** How a tenant of a fabric speaks to what is outside. */
export interface BorderChoices {
  /** Routers outside, each at a switch of its own. */
  readonly routers: 1 | 2;
  /** How a router is reached: over a port with addresses, without, or over a VLAN that stands on a port. */
  readonly link: 'numbered' | 'unnumbered' | 'vlan';
  /** What they tell: by BGP, or nothing, and all is written down. */
  readonly by: 'bgp' | 'static';
  /** What a router tells beside its own network. */
  readonly tells: 'no more' | 'default' | 'static' | 'aggregate';
  /** What the second router is to the first. */
  readonly second: 'equal' | 'longer' | 'less preferred';
  /** What the tenant tells them. */
  readonly out: 'all' | 'aggregate' | 'filtered';
  /** Is there a second tenant that takes what the first exports? */
  readonly leaked: boolean;
  /** Has the second router the same AS number as the first? */
  readonly sameAs: boolean;
}
export const borderChoices: fc.Arbitrary<BorderChoices> = fc.record({
  routers: fc.constantFrom(1 as const, 2 as const),
  link: fc.constantFrom('numbered' as const, 'unnumbered' as const, 'vlan' as const),
  by: fc.constantFrom('bgp' as const, 'bgp' as const, 'static' as const),
  tells: fc.constantFrom('no more' as const, 'default' as const, 'static' as const, 'aggregate' as const),
  second: fc.constantFrom('equal' as const, 'longer' as const, 'less preferred' as const),
  out: fc.constantFrom('all' as const, 'aggregate' as const, 'filtered' as const),
  leaked: fc.boolean(),
  sameAs: fc.boolean(),
});

const PORT = 'p60';
const VLAN = 3900;
/** The network of servers outside, which all routers there have, and what else is told. */
const FAR = 3000;

/** A fabric with a tenant that speaks to routers outside. */
export interface Bordered {
  readonly configs: readonly SwitchConfig[];
  readonly cables: readonly Cable[];
  readonly hosts: readonly HostPort[];
}

/** A fabric and routers outside of it, at the first switches that carry its first VRF; null = it has none. */
export function withBorders(
  configs: readonly SwitchConfig[],
  cables: readonly Cable[],
  hosts: readonly HostPort[],
  choices: BorderChoices,
): Bordered | null {
  const vrf = configs.flatMap((c) => c.vrfs.map((v) => v.name))[0];
  const carriers = configs.filter((c) => c.vrfs.some((v) => v.name === vrf) && c.bgp?.vrfs.some((v) => v.vrf === vrf));
  if (vrf === undefined || carriers.length < choices.routers) return null;
  const borders = carriers.slice(0, choices.routers);
  const own = new Map(borders.map((b, i) => [b.hostname, bordering(b, i, vrf, choices)]));
  const others = configs.map((c) => leaking(own.get(c.hostname) ?? c, vrf, choices));
  const routers = borders.map((b, i) => outsideRouter(i, b.bgp!.asn, subnetsOf(configs, vrf), choices));
  return {
    configs: [...others, ...routers],
    cables: [
      ...cables,
      ...borders.map((b, i) => ({
        a: { host: b.hostname, port: PORT },
        b: { host: routers[i]!.hostname, port: 'p1' },
      })),
    ],
    hosts: [
      ...hosts,
      ...routers.map((r, i): HostPort => ({
        host: `far-${i}`,
        ip: `198.51.${100 + i}.10`,
        switch: r.hostname,
        port: 'p2',
        vlan: FAR,
        gateway: `198.51.${100 + i}.1`,
      })),
    ],
  };
}
const subnetsOf = (configs: readonly SwitchConfig[], vrf: string): string[] => [
  ...new Set(configs.flatMap((c) => c.svis.filter((s) => s.vrf === vrf).flatMap((s) => s.addresses))),
];

const near = (i: number): string => `192.0.2.${4 * i}`;
const far = (i: number): string => `192.0.2.${4 * i + 1}`;
const asOf = (i: number, { sameAs }: BorderChoices): number => (sameAs ? 64700 : 64700 + i);

/** The end of the tenant: its port or VLAN, and what it says of its neighbour. */
function bordering(c: SwitchConfig, i: number, vrf: string, choices: BorderChoices): SwitchConfig {
  const { link, by, out, second } = choices;
  const overVlan = link === 'vlan';
  const numbered = link !== 'unnumbered' || by === 'static';
  const address = `${near(i)}/31`;
  const port = {
    name: PORT,
    addresses: numbered && !overVlan ? [address] : [],
    ...(overVlan ? { bridging: { untagged: VLAN, tagged: [] } } : { vrf }),
  };
  const withPort: SwitchConfig = {
    ...c,
    ports: [...c.ports, port].sort((a, b) => a.name.localeCompare(b.name, 'en', { numeric: true })),
    ...(overVlan && c.bridge
      ? {
          bridge: {
            ...c.bridge,
            ports: [...c.bridge.ports, PORT],
            vlans: [...c.bridge.vlans, VLAN].sort((a, b) => a - b),
          },
          svis: [...c.svis, { vlan: VLAN, vrf, addresses: [address] }].sort((a, b) => a.vlan - b.vlan),
        }
      : {}),
  };
  const name = link === 'unnumbered' ? PORT : far(i);
  const asn = link === 'unnumbered' ? 'external' : asOf(i, choices);
  const peer: BgpPeer = { name, kind: link === 'unnumbered' ? 'interface' : 'address', remoteAs: asn };
  const IN = 'FROM-OUTSIDE';
  const policy: PeerPolicy = {
    peer: name,
    ...(i > 0 && second !== 'equal' ? { mapIn: IN } : {}),
    ...(out === 'filtered' ? { prefixListOut: 'TENANT' } : {}),
  };
  const maps: RouteMap[] = policy.mapIn
    ? [
        {
          name: IN,
          entries: [
            {
              seq: 10,
              permit: true,
              set:
                second === 'longer' ? { prepend: [64799, 64799] } : { localPreference: 50, communities: ['64700:7'] },
            },
          ],
        },
      ]
    : [];
  const tenant = (v: BgpVrf): BgpVrf => {
    if (v.vrf !== vrf) return v;
    const ipv4 = {
      ...v.ipv4,
      ...(by === 'static' ? { static: {} } : {}),
      ...(out === 'aggregate' ? { aggregates: [{ prefix: '10.0.0.0/8', summaryOnly: true }] } : {}),
      ...(by === 'bgp' && Object.keys(policy).length > 1 ? { policies: [policy] } : {}),
    };
    return { ...v, peers: by === 'bgp' ? [peer] : [], ipv4 };
  };
  const written: StaticRoute[] = by === 'static' ? [{ prefix: `198.51.${100 + i}.0/24`, via: far(i), vrf }] : [];
  return {
    ...withPort,
    bgp: { ...c.bgp!, vrfs: c.bgp!.vrfs.map(tenant) },
    routeMaps: [...c.routeMaps, ...maps],
    prefixLists:
      out === 'filtered'
        ? [...c.prefixLists, { name: 'TENANT', entries: [{ seq: 5, permit: true, prefix: '10.0.0.0/8', le: 24 }] }]
        : c.prefixLists,
    ...(written.length > 0 ? { staticRoutes: written } : {}),
  };
}

/** Another tenant takes what the first exports as well. */
function leaking(c: SwitchConfig, vrf: string, { leaked }: BorderChoices): SwitchConfig {
  const source = c.bgp?.vrfs.find((v) => v.vrf === vrf);
  const other = c.bgp?.vrfs.find((v) => v.vrf !== vrf);
  if (!leaked || !source || !other) return c;
  const vrfs = c.bgp!.vrfs.map((v) => (v === other ? { ...v, imports: [...v.imports, ...source.exports] } : v));
  return { ...c, bgp: { ...c.bgp!, vrfs } };
}

/** A router outside: all its routes are in no VRF, and a server hangs on it. */
function outsideRouter(i: number, asn: number, subnets: readonly string[], choices: BorderChoices): SwitchConfig {
  const { link, by, tells } = choices;
  const hostname = `of-rt-0${i + 1}`;
  const numbered = link !== 'unnumbered' || by === 'static';
  const name = link === 'unnumbered' ? 'p1' : near(i);
  const peer: BgpPeer = {
    name,
    kind: link === 'unnumbered' ? 'interface' : 'address',
    remoteAs: link === 'unnumbered' ? 'external' : asn,
  };
  const told: Partial<NonNullable<SwitchConfig['bgp']>['ipv4']> = {
    connected: {},
    ...(tells === 'default' && by === 'bgp' ? { policies: [{ peer: name, defaultOriginate: true }] } : {}),
    ...(tells === 'static' ? { static: {} } : {}),
    ...(tells === 'aggregate' ? { aggregates: [{ prefix: '198.51.0.0/16' }] } : {}),
  };
  const written: StaticRoute[] = [
    ...(by === 'static' ? [...new Set(subnets.map(prefixText))].map((prefix) => ({ prefix, via: near(i) })) : []),
    ...(tells === 'static' ? [{ prefix: '203.0.113.0/24' }] : []),
  ];
  return {
    ...blankConfig(hostname),
    loopbacks: [`10.253.0.${i + 1}/32`],
    ports: [
      { name: 'p1', addresses: numbered ? [`${far(i)}/31`] : [] },
      { name: 'p2', addresses: [], bridging: { untagged: FAR, tagged: [] } },
    ],
    svis: [{ vlan: FAR, addresses: [`198.51.${100 + i}.1/24`] }],
    bridge: { vlans: [FAR], ports: ['p2'], lags: [], vxlans: [] },
    ...(written.length > 0 ? { staticRoutes: written.sort((a, b) => (a.prefix < b.prefix ? -1 : 1)) } : {}),
    bgp: {
      asn: asOf(i, choices),
      routerId: `10.253.0.${i + 1}`,
      defaultIpv4: true,
      policyRequired: false,
      multipathRelax: false,
      peers: by === 'bgp' ? [peer] : [],
      ipv4: { active: [], ownAsAllowed: {}, ...told },
      evpn: { active: [], ownAsAllowed: {}, advertiseAllVni: false, vnis: [] },
      vrfs: [],
    },
  };
}
const prefixText = (address: string): string => {
  const cidr = parseCidr(address)!;
  return formatPrefix(prefixOf(cidr));
};
