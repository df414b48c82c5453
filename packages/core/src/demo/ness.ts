import type { Edit } from '../intent/edits/index.ts';
import type { PoolRoles } from '../intent/intent.ts';
import type { Pool } from '../pools/pool.ts';
import { FABRIC_PATTERNS, layEdits, SKERRY_POOLS } from './skerry.ts';

/** The third site: two switches joined to one another, tenants of both families, a router of the outside on one of them. */
export const NESS_POOLS: readonly Pool[] = [
  { name: 'ness-tenants', kind: 'ipv4', ranges: ['10.34.0.0/20'], note: 'tenant subnets of Ness' },
  { name: 'ness-tenants-6', kind: 'ipv6', ranges: ['2001:db8:34::/56'], note: 'a /64 for each network with IPv6' },
];
const ROLES: PoolRoles = { ...SKERRY_POOLS, subnet: 'ness-tenants', subnet6: 'ness-tenants-6' };

export const NESS_PATTERN = FABRIC_PATTERNS.find((p) => p.name === 'two-alone')!;

/** Tenants of Ness, its servers, and where it meets the outside. */
export function nessEdits(): Edit[] {
  const both = (server: string, port: string, untagged: string): Edit => ({
    kind: 'connectServer',
    port: { rack: 1, side: 'both', port, server, untagged, tagged: [] },
  });
  const link = { rack: 1, side: 'a', port: 'p46' } as const;
  return [
    ...layEdits(NESS_PATTERN, ROLES),
    { kind: 'changeSettings', settings: { underlayFamilies: 'both' } },
    { kind: 'addVrf', vrf: { name: 'tides', transitVlan: 4002 } },
    {
      kind: 'addNetwork',
      network: {
        name: 'tide-gauges',
        vrf: 'tides',
        vlan: 311,
        subnet: '10.34.1.0/24',
        subnetLength: 24,
        families: 'both',
        racks: [1],
      },
    },
    {
      kind: 'addNetwork',
      network: { name: 'surge-watch', vrf: 'tides', vlan: 312, subnetLength: 25, families: 'both', racks: [1] },
    },
    both('gauge-101', 'p1', 'tide-gauges'),
    both('gauge-102', 'p2', 'tide-gauges'),
    both('surge-103', 'p3', 'surge-watch'),
    // The buoys answer behind a radio in the network of the gauges.
    { kind: 'putRoute', route: { vrf: 'tides', prefix: '198.51.100.0/25', via: '10.34.1.9', racks: [1] } },
    { kind: 'joinOutside', link: { ...link, system: 'offing-3', farPort: 'eth1' } },
    // What leads out there is known by its mark in all of the fabric.
    {
      kind: 'putPolicy',
      policy: { is: 'prefix-list', name: 'out-there', entries: [{ seq: 10, permit: true, prefix: '0.0.0.0/0' }] },
    },
    {
      kind: 'putPolicy',
      policy: {
        is: 'route-map',
        name: 'by-offing',
        entries: [
          { seq: 10, permit: true, match: { prefixes: 'out-there' }, set: { communities: ['64703:20'] } },
          { seq: 20, permit: true },
        ],
      },
    },
    // One VLAN of the cable is that of the tides: others may have others.
    ...(
      [
        ['192.0.2.64/31', '192.0.2.65'],
        ['2001:db8:ffff:64::/127', '2001:db8:ffff:64::1'],
      ] as const
    ).map(([address, far]): Edit => ({
      kind: 'putNeighbour',
      neighbour: {
        ...link,
        vlan: 320,
        vrf: 'tides',
        address,
        far,
        asn: 64703,
        takes: [],
        tells: [],
        mapIn: 'by-offing',
        limit: 100,
      },
    })),
  ];
}
