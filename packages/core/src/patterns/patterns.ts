import type { SwitchModel } from '../hardware/switchModel.ts';

/** A reusable rack: one leaf, or two leaves that share multihomed servers. */
export interface RackPattern {
  readonly name: string;
  readonly kind: 'single' | 'esi-pair';
  /** Switch model of each leaf. */
  readonly leafModel: string;
  /** Ports to servers, e.g. `p1-p48`. */
  readonly serverPorts: string;
  /** Ports to spines, in the order of the spines, e.g. `p49-p56`. */
  readonly uplinkPorts: string;
}

export type AsnScheme = 'per-leaf' | 'per-rack';
export type UnderlayKind = 'unnumbered' | 'numbered';
export type VniRule = 'drawn' | 'base' | 'equal';

/** What a fabric is like beyond its shape. Every setting has a sound default, see DEFAULT_SETTINGS. */
export interface FabricSettings {
  readonly asnScheme: AsnScheme;
  readonly underlay: UnderlayKind;
  /** Layer 3 MTU of fabric links, bytes. */
  readonly linkMtu: number;
  /** Default MTU of networks, bytes. */
  readonly tenantMtu: number;
  readonly bfd: boolean;
  /** VNI of a network: drawn from the pool, base + VLAN, or equal to the VLAN. */
  readonly vniRule: VniRule;
  readonly vniBase: number;
  /** First half of every route target, 1–65535 (RFC 4360). */
  readonly fabricNumber: number;
  /** BGP keepalive and hold time, seconds (RFC 4271 §4.2, §4.4). */
  readonly keepalive: number;
  readonly hold: number;
}

export const DEFAULT_SETTINGS: FabricSettings = {
  asnScheme: 'per-leaf',
  underlay: 'unnumbered',
  linkMtu: 9216,
  tenantMtu: 9000,
  bfd: true,
  vniRule: 'drawn',
  vniBase: 10000,
  fabricNumber: 65000,
  keepalive: 3,
  hold: 9,
};

/** Why each default is what it is; shown beside the field. */
export const SETTING_REASONS: Readonly<Record<keyof FabricSettings, string>> = {
  asnScheme: 'one number per leaf needs nothing else; a pair that shares one needs its own AS allowed in',
  underlay: 'unnumbered links need no addresses (RFC 8950); numbered ones use a /31 each (RFC 3021)',
  linkMtu: 'at least the largest tenant MTU + 50 bytes of VXLAN',
  tenantMtu: '9000 for storage-like networks, 1500 towards the outside',
  bfd: 'notices a dead link in under a second',
  vniRule: 'drawn numbers never clash between fabrics; base + VLAN can be read at a glance',
  vniBase: 'VNI = base + VLAN, where that rule is chosen',
  fabricNumber: 'first half of every route target; the same on all leaves of the fabric',
  keepalive: '3 s in a data centre',
  hold: 'three keepalives',
};

/** How a fabric is joined: spines over leaves; pods under super-spines; leaves alone. */
export type FabricShape = 'three-stages' | 'five-stages' | 'collapsed';
/** What is said of the switches above the racks, by patterns and intents alike. */
export interface UpperTiers {
  /** Absent = three stages. */
  readonly shape?: FabricShape;
  /** With five stages: how many pods there are. */
  readonly pods?: number;
  /** With five stages: super-spines of each plane; there is a plane for each spine of a pod. */
  readonly superSpines?: { readonly count: number; readonly model: string };
  /** With five stages, of each pod; collapsed fabrics have none. */
  readonly spines: { readonly count: number; readonly model: string };
  /** Links between two switches that are joined. */
  readonly parallel: number;
}
/** What a pattern says of the switches above the racks, and nothing that its shape has no use for. */
export function upperTiersOf({ shape, pods, superSpines, spines, parallel }: UpperTiers): UpperTiers {
  if (shape === 'five-stages')
    return { shape, pods: pods ?? 1, superSpines: { ...NONE, ...superSpines }, spines, parallel };
  return shape === 'collapsed' ? { shape, spines: NONE, parallel } : { spines, parallel };
}
const NONE = { count: 0, model: '' };

/** Models of the switches above the racks. */
export const upperModels = (of: UpperTiers): string[] =>
  [of.spines.model, of.superSpines?.model ?? ''].filter((m) => m !== '');

export const shapeOf = ({ shape }: Pick<UpperTiers, 'shape'>): FabricShape => shape ?? 'three-stages';

/** A reusable fabric: spines, and how many racks of which pattern. */
export interface FabricPattern extends UpperTiers {
  readonly name: string;
  readonly description: string;
  /** With five stages, of each pod. */
  readonly racks: readonly { readonly pattern: string; readonly count: number }[];
  readonly settings: Partial<FabricSettings>;
}

/** Everything patterns refer to by name. */
export interface PartsCatalogue {
  readonly models: readonly SwitchModel[];
  readonly rackPatterns: readonly RackPattern[];
}

export const leavesPerRack = (kind: RackPattern['kind']): number => (kind === 'single' ? 1 : 2);
