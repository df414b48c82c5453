import type { Edit } from '../intent/edits/index.ts';
import type { PoolRoles, ServerPort } from '../intent/intent.ts';
import type { Pool } from '../pools/pool.ts';
import { FABRIC_PATTERNS, layEdits, RACK_PATTERNS, SKERRY_POOLS } from './skerry.ts';

/**
 * The second site: two pods under super-spines, one AS number led by OSPF, tenants of both families, and servers
 * that speak BGP, and a border pair in the second pod that does so to a router of the outside.
 */
export const HOLM_POOLS: readonly Pool[] = [
  { name: 'holm-tenants', kind: 'ipv4', ranges: ['10.33.0.0/18'], note: 'tenant subnets of Holm' },
  { name: 'holm-tenants-6', kind: 'ipv6', ranges: ['2001:db8:33::/52'], note: 'a /64 for each network with IPv6' },
];
const ROLES: PoolRoles = { ...SKERRY_POOLS, subnet: 'holm-tenants', subnet6: 'holm-tenants-6' };
const BORDER = 7;

const NETWORKS: readonly (readonly [
  name: string,
  vrf: string,
  vlan: number,
  racks: readonly number[],
  six: boolean,
])[] = [
  ['chart-press', 'charts', 410, [1, 3, 5], true],
  ['chart-store', 'charts', 411, [2, 3, 6], false],
  ['harbour-desk', 'offing', 510, [2, 4, BORDER], true],
  ['harbour-mail', 'offing', 511, [6, BORDER], true],
];
/** Racks of a pair, by the pattern. */
const PAIRS = [3, 6, BORDER];

/** Holm, without who sits where. */
export function holmEdits(): Edit[] {
  const next = new Map<number, number>();
  const servers = NETWORKS.flatMap(([untagged, , , racks]) =>
    racks.map((rack): ServerPort => {
      const n = (next.get(rack) ?? 0) + 1;
      next.set(rack, n);
      const server = `${untagged.split('-')[1]!}-${rack}${String(n).padStart(2, '0')}`;
      return { rack, side: PAIRS.includes(rack) ? 'both' : 'a', port: `p${n}`, server, untagged, tagged: [] };
    }),
  );
  return [
    ...layEdits(
      FABRIC_PATTERNS.find((p) => p.name === 'two-pods'),
      ROLES,
    ),
    { kind: 'changeSettings', settings: { asnScheme: 'single', underlayFamilies: 'both' } },
    {
      kind: 'addRack',
      rack: { number: BORDER, pattern: 'border-pair', slot: 5, pod: 2 },
      rackPattern: RACK_PATTERNS.find((r) => r.name === 'border-pair')!,
    },
    { kind: 'addVrf', vrf: { name: 'charts', transitVlan: 4003 } },
    { kind: 'addVrf', vrf: { name: 'offing', transitVlan: 4004 } },
    ...NETWORKS.map(([name, vrf, vlan, racks, six]): Edit => ({
      kind: 'addNetwork',
      network: { name, vrf, vlan, subnetLength: 24, racks, ...(six ? { families: 'both' as const } : {}) },
    })),
    ...servers.map((port): Edit => ({ kind: 'connectServer', port })),
    {
      kind: 'putSpeakers',
      speakers: {
        network: 'chart-store',
        from: '10.33.1.0/26',
        asn: 64860,
        takes: ['198.51.100.0/26'],
        tells: [],
        known: [{ server: 'store-201', address: '10.33.1.11' }],
        limit: 20,
      },
    },
    ...(['a', 'b'] as const).flatMap((side, i): Edit[] => {
      const link = { rack: BORDER, side, port: 'p46' } as const;
      const [address, far] = [`192.0.2.${32 + 2 * i}/31`, `192.0.2.${33 + 2 * i}`];
      return [
        { kind: 'joinOutside', link: { ...link, system: 'offing-2', farPort: `eth${1 + i}` } },
        {
          kind: 'putNeighbour',
          neighbour: { ...link, vrf: 'offing', address, far, asn: 64702, takes: [], tells: [], limit: 100 },
        },
      ];
    }),
  ];
}
