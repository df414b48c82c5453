import type { SwitchModel } from '../hardware/switchModel.ts';
import { applyEdits } from '../intent/edits/index.ts';
import type { Edit } from '../intent/edits/index.ts';
import { emptyIntent, type FabricIntent, type PoolRoles } from '../intent/intent.ts';
import { layOut } from '../layout/layout.ts';
import { upperModels, type FabricPattern, type RackPattern } from '../patterns/patterns.ts';
import type { Pool } from '../pools/pool.ts';

/** The demo's world: the data centre Skerry of the Fulmar Chart Office, on made-up hardware. */
export const MODELS: readonly SwitchModel[] = [
  {
    name: 'BW-L32D',
    maker: 'Brightwater Works',
    dialect: 'linux',
    blocks: [{ ports: 'p1-p32', speed: 100, splits: [2, 4] }],
    maxMtu: 9216,
  },
  {
    name: 'TV-L48F',
    maker: 'Tarn & Vale',
    dialect: 'linux',
    blocks: [
      { ports: 'p1-p48', speed: 25 },
      { ports: 'p49-p56', speed: 100, splits: [2, 4] },
    ],
    maxMtu: 9216,
  },
  {
    name: 'TV-S32C',
    maker: 'Tarn & Vale',
    dialect: 'linux',
    blocks: [{ ports: 'p1-p32', speed: 100, splits: [2, 4] }],
    maxMtu: 9216,
  },
];

export const RACK_PATTERNS: readonly RackPattern[] = [
  { name: 'pair-48', kind: 'esi-pair', leafModel: 'TV-L48F', serverPorts: 'p1-p48', uplinkPorts: 'p49-p56' },
  { name: 'single-48', kind: 'single', leafModel: 'TV-L48F', serverPorts: 'p1-p48', uplinkPorts: 'p49-p56' },
  {
    name: 'border-pair',
    kind: 'esi-pair',
    leafModel: 'TV-L48F',
    serverPorts: 'p1-p46',
    uplinkPorts: 'p49-p54',
    peerPorts: 'p55-p56',
    keepalivePorts: 'p48',
    duties: ['border'],
  },
  {
    name: 'split-64',
    kind: 'single',
    leafModel: 'TV-L48F',
    serverPorts: 'p1-p48,p53s1-p56s4',
    uplinkPorts: 'p49-p52',
    breakouts: [{ ports: 'p53-p56', into: 4 }],
  },
];

export const FABRIC_PATTERNS: readonly FabricPattern[] = [
  {
    name: 'four-by-ten',
    description: 'Four spines, six single racks and two multihomed pairs, unnumbered underlay.',
    spines: { count: 4, model: 'TV-S32C' },
    parallel: 1,
    racks: [
      { pattern: 'single-48', count: 6 },
      { pattern: 'pair-48', count: 2 },
    ],
    settings: {},
  },
  {
    name: 'small-hall',
    description: 'Two spines, two single racks and a pair, numbered underlay.',
    spines: { count: 2, model: 'TV-S32C' },
    parallel: 1,
    racks: [
      { pattern: 'single-48', count: 2 },
      { pattern: 'pair-48', count: 1 },
    ],
    settings: { underlay: 'numbered' },
  },
  {
    name: 'small-room',
    description: 'A border pair and a single rack joined to one another, no spine.',
    shape: 'collapsed',
    spines: { count: 0, model: '' },
    parallel: 1,
    racks: [
      { pattern: 'border-pair', count: 1 },
      { pattern: 'single-48', count: 1 },
    ],
    settings: {},
  },
  {
    name: 'two-pods',
    description: 'Two pods of two spines and three racks, a super-spine in each plane.',
    shape: 'five-stages',
    pods: 2,
    superSpines: { count: 1, model: 'TV-S32C' },
    spines: { count: 2, model: 'TV-S32C' },
    parallel: 1,
    racks: [
      { pattern: 'single-48', count: 2 },
      { pattern: 'pair-48', count: 1 },
    ],
    settings: {},
  },
  {
    name: 'two-alone',
    description: 'A border pair joined to itself: two switches are the whole fabric.',
    shape: 'collapsed',
    spines: { count: 0, model: '' },
    parallel: 1,
    racks: [{ pattern: 'border-pair', count: 1 }],
    settings: {},
  },
  {
    name: 'quiet-room',
    description: 'Two switches above four racks: VLANs and spanning tree, routed outside.',
    shape: 'switched',
    spines: { count: 2, model: 'TV-S32C' },
    parallel: 1,
    racks: [{ pattern: 'single-48', count: 4 }],
    settings: {},
  },
];

export const POOLS: readonly Pool[] = [
  { name: 'spine-as', kind: 'asn', ranges: ['65100-65109'], note: 'one for all spines of a fabric' },
  { name: 'leaf-as', kind: 'asn', ranges: ['65110-65499'], note: 'one per leaf' },
  { name: 'loopbacks', kind: 'ipv4', ranges: ['10.255.0.0/24'], note: 'router ids' },
  { name: 'vteps', kind: 'ipv4', ranges: ['10.255.1.0/24'], note: 'VXLAN tunnel ends' },
  { name: 'fabric-links', kind: 'ipv4', ranges: ['10.254.0.0/22'], note: '/31 for numbered links' },
  { name: 'loopbacks-6', kind: 'ipv6', ranges: ['2001:db8:ff::/112'], note: 'an address for each switch with IPv6' },
  { name: 'fabric-links-6', kind: 'ipv6', ranges: ['2001:db8:fe::/108'], note: '/127 for numbered links' },
  { name: 'overlay', kind: 'vni', ranges: ['10000-10899', '50000-50099'], note: 'networks and VRFs' },
  { name: 'skerry-tenants', kind: 'ipv4', ranges: ['10.32.0.0/16'], note: 'tenant subnets' },
  { name: 'skerry-tenants-6', kind: 'ipv6', ranges: ['2001:db8:32::/48'], note: 'a /64 for each network with IPv6' },
];

export const SKERRY_POOLS: PoolRoles = {
  spineAsn: 'spine-as',
  leafAsn: 'leaf-as',
  loopback: 'loopbacks',
  vtep: 'vteps',
  link: 'fabric-links',
  vni: 'overlay',
  subnet: 'skerry-tenants',
  subnet6: 'skerry-tenants-6',
  loopback6: 'loopbacks-6',
  link6: 'fabric-links-6',
};

/** The edits that lay a fabric out, without seating; Skerry if nothing else is said. */
export function layEdits(pattern: FabricPattern = FABRIC_PATTERNS[0]!, pools: PoolRoles = SKERRY_POOLS): Edit[] {
  const used = RACK_PATTERNS.filter((r) => pattern.racks.some((e) => e.pattern === r.name));
  const models = MODELS.filter(
    (m) => upperModels(pattern).includes(m.name) || used.some((r) => r.leafModel === m.name),
  );
  return [
    { kind: 'layFabric', pattern, models, rackPatterns: used },
    { kind: 'choosePools', pools },
  ];
}

const NETWORKS: readonly (readonly [name: string, vrf: string, vlan: number, racks: readonly number[]])[] = [
  ['soundings-in', 'soundings', 210, [1, 2, 7]],
  ['echo-store', 'soundings', 212, [3, 4, 7, 8]],
  ['echo-index', 'soundings', 213, [3, 4]],
  ['pilot-desk', 'soundings', 215, [1, 5, 6]],
  ['tide-model', 'tides', 310, [2, 5, 7, 8]],
  ['tide-gauges', 'tides', 311, [1, 2]],
  ['surge-watch', 'tides', 312, [5, 6, 8]],
  ['almanac', 'tides', 315, [6, 8]],
];

/** VRFs, networks and servers of Skerry. */
export function tenantEdits(): Edit[] {
  const edits: Edit[] = [
    { kind: 'addVrf', vrf: { name: 'soundings', transitVlan: 4001 } },
    { kind: 'addVrf', vrf: { name: 'tides', transitVlan: 4002 } },
    ...NETWORKS.map(([name, vrf, vlan, racks]): Edit => ({
      kind: 'addNetwork',
      network: { name, vrf, vlan, subnetLength: 24, racks, ...(name === 'pilot-desk' ? { mtu: 1500 } : {}) },
    })),
  ];
  const next = new Map<number, number>();
  for (const [name, , , racks] of NETWORKS)
    for (const rack of racks)
      for (let i = 1; i <= 2; i++) {
        const port = (next.get(rack) ?? 0) + 1;
        next.set(rack, port);
        const server = `${name.split('-')[0]}-${rack}${String(port).padStart(2, '0')}`;
        edits.push({
          kind: 'connectServer',
          port: { rack, side: rack >= 7 ? 'both' : 'a', port: `p${port}`, server, untagged: name, tagged: [] },
        });
      }
  return edits;
}

/** Made-up serial of the switch meant for a seat. */
export const serialFor = (prefix: string, index: number, model: string): string =>
  `${model.startsWith('TV-S') ? 'TVS' : 'TVL'}${prefix.toUpperCase()}${String(4100 + index * 7)}`;

export function seatingEdits(intent: FabricIntent): Edit[] {
  return layOut(intent).seats.map((seat, i) => ({
    kind: 'takeSeat',
    seat: seat.id,
    serial: serialFor(intent.namePrefix, i, seat.model),
  }));
}

/** All edits that make Skerry out of an empty fabric. */
export function skerryEdits(): Edit[] {
  const laid = applyEdits(emptyIntent('skerry', 'sk'), layEdits());
  return [...layEdits(), ...seatingEdits(laid.intent), ...tenantEdits()];
}

/** Skerry as the demo ships it. */
export function skerryIntent(): FabricIntent {
  const made = applyEdits(emptyIntent('skerry', 'sk'), skerryEdits());
  if (made.findings.length > 0) throw new Error(`the demo intent does not apply: ${made.findings[0]!.message}`);
  return made.intent;
}
