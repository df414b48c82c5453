import type { Breakout, SwitchModel } from '../hardware/switchModel.ts';
import { FECS, type Fec } from '../hardware/drive.ts';
import { DEFAULT_DESCRIPTIONS, type DescriptionSchemes } from './descriptions.ts';
import { DEFAULT_NAMES, type NameSchemes } from './names.ts';

/** Cages that are split into several ports each, as one model may be: `p49` into 4 gives `p49s1` to `p49s4`. */
export type { Breakout } from '../hardware/switchModel.ts';

/** What a rack's switches do besides serving their rack. */
export const DUTIES = ['border', 'site-gateway'] as const;
/** `border` meets outside systems; `site-gateway` meets other sites of ours. */
export type Duty = (typeof DUTIES)[number];

/** What a duty is called. */
export const DUTY_WORDS: Readonly<Record<Duty, string>> = { border: 'border', 'site-gateway': 'site gateway' };

/** Which half of a pair forwards to servers what is flooded: always the one, or by turns of the server ports. */
export const FORWARDERS = ['a', 'b', 'in-turn'] as const;
export type Forwarder = (typeof FORWARDERS)[number];
/** What they are called. */
export const FORWARDER_WORDS: Readonly<Record<Forwarder, string>> = {
  a: 'half a',
  b: 'half b',
  'in-turn': 'by turns of the ports',
};
/** How the halves of a pair share their servers; every part of it has a default. */
export interface Pairing {
  /** 0: the ESI is said whole. Absent = of type 3, made of the MAC of the pair and a number (RFC 7432 §5). */
  readonly esiType?: 0;
  /** Absent = whichever has the lower VTEP (RFC 9785 §4.1, where preferences are equal). */
  readonly forwards?: Forwarder;
  /** Server ports stay up when their half has lost all its uplinks. Absent = they go down, so that servers send by the other. */
  readonly untracked?: boolean;
}

/** A reusable rack: one leaf, or two leaves that share multihomed servers. */
export interface RackPattern extends Pairing {
  readonly name: string;
  readonly kind: 'single' | 'esi-pair';
  /** Switch model of each leaf. */
  readonly leafModel: string;
  /** Ports to servers, e.g. `p1-p48`. */
  readonly serverPorts: string;
  /** Ports to spines, in the order of the spines, e.g. `p49-p56`. */
  readonly uplinkPorts: string;
  /** Of a pair: ports to the other half that carry the underlay between them. Absent = they are not joined. */
  readonly peerPorts?: string;
  /** Of a pair: ports by which each half learns whether the other lives. They carry nothing else. */
  readonly keepalivePorts?: string;
  readonly breakouts?: readonly Breakout[];
  /** Absent = none. */
  readonly duties?: readonly Duty[];
}

/**
 * Who has an AS number of its own: each leaf; each rack; the leaves together and the spines together; or nobody: one for all,
 * which OSPF leads, and iBGP with route reflectors for EVPN.
 */
export const ASN_SCHEMES = ['per-leaf', 'per-rack', 'two', 'single'] as const;
export type AsnScheme = (typeof ASN_SCHEMES)[number];
/** Do some leaves share a number beside the halves of a pair, or they? Then eBGP comes up between none of these. */
export const leavesShareAs = (scheme: AsnScheme): boolean => scheme === 'per-rack' || scheme === 'two';
/** Is the way through the fabric found by OSPF, and EVPN told by iBGP between loopbacks? Else eBGP does both on every link. */
export const ledByOspf = ({ asnScheme }: Pick<FabricSettings, 'asnScheme'>): boolean => asnScheme === 'single';
/**
 * Links without addresses, with them, or half of them so: between the two others a fabric passes through it, and either half
 * carries it while the other changes.
 */
export const UNDERLAY_KINDS = ['unnumbered', 'numbered', 'half-numbered'] as const;
export type UnderlayKind = (typeof UNDERLAY_KINDS)[number];
/** Which addresses its switches have for one another, on loopbacks and numbered links: tunnels go over IPv4 either way. */
export const UNDERLAY_FAMILIES = ['ipv4', 'both'] as const;
export type UnderlayFamilies = (typeof UNDERLAY_FAMILIES)[number];
/** Do its switches route IPv6 between one another? */
export const hasUnderlay6 = (of: Pick<UpperTiers, 'shape'> & { readonly settings: Partial<FabricSettings> }): boolean =>
  isRouted(of) && of.settings.underlayFamilies === 'both';
/** What corrects errors on links between switches; `unsaid` = what the switch and the cable have by themselves. */
export const LINK_FECS = ['unsaid', ...FECS] as const;
export type LinkFec = 'unsaid' | Fec;
/** Whose routes are kept while a BGP daemon starts anew (RFC 4724): those of neighbours, the switch’s own at them too, or nobody’s. */
export const RESTARTS = ['helper', 'full', 'none'] as const;
export type Restart = (typeof RESTARTS)[number];
export type VniRule = 'drawn' | 'base' | 'equal';

/** What a fabric is like beyond its shape. Every setting has a sound default, see DEFAULT_SETTINGS. */
export interface FabricSettings extends NameSchemes, DescriptionSchemes {
  readonly asnScheme: AsnScheme;
  readonly underlay: UnderlayKind;
  readonly underlayFamilies: UnderlayFamilies;
  /** Layer 3 MTU of fabric links, bytes. */
  readonly linkMtu: number;
  readonly linkFec: LinkFec;
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
  readonly restart: Restart;
  /** How long a switch says that it may be away then, seconds. */
  readonly restartTime: number;
}

export const DEFAULT_SETTINGS: FabricSettings = {
  asnScheme: 'per-leaf',
  underlay: 'unnumbered',
  underlayFamilies: 'ipv4',
  linkMtu: 9216,
  linkFec: 'unsaid',
  tenantMtu: 9000,
  bfd: true,
  vniRule: 'drawn',
  vniBase: 10000,
  fabricNumber: 65000,
  keepalive: 3,
  hold: 9,
  restart: 'helper',
  restartTime: 120,
  ...DEFAULT_NAMES,
  ...DEFAULT_DESCRIPTIONS,
};

/** Why each default is what it is; shown beside the field. */
export const SETTING_REASONS: Readonly<Record<keyof FabricSettings, string>> = {
  asnScheme:
    'one number per leaf needs nothing else; leaves that share one need their own AS allowed in; one for all is led by OSPF, with spines as route reflectors',
  underlay:
    'unnumbered links need no addresses (RFC 8950; under OSPF they borrow the loopback’s); numbered ones use a /31 each (RFC 3021); half and half is the way from one to the other',
  underlayFamilies:
    'tunnels go over IPv4; with both, each switch has an IPv6 loopback that all others reach, and numbered links a /127 (RFC 6164)',
  linkMtu: 'at least the largest tenant MTU + 50 bytes of VXLAN',
  linkFec:
    'switches agree on what corrects errors by the cable they see; said, it is the same at both ends of every link',
  tenantMtu: '9000 for storage-like networks, 1500 towards the outside',
  bfd: 'notices a dead link in under a second',
  vniRule: 'drawn numbers never clash between fabrics; base + VLAN can be read at a glance',
  vniBase: 'VNI = base + VLAN, where that rule is chosen',
  fabricNumber: 'first half of every route target; the same on all leaves of the fabric',
  keepalive: '3 s in a data centre',
  hold: 'three keepalives',
  restart:
    'packets go on while a daemon starts anew (RFC 4724), where others go on sending to it; a switch with two ways loses little without. Counts for sessions that open from then on',
  restartTime: 'how long others wait for it then; 120 s is what daemons say by themselves',
  leafName: 'the rack can be read from it; a and b are the halves of a pair',
  spineName: 'numbered from 1, in a pod after the number of the pod',
  superSpineName: 'plane, then number in the plane',
  linkDescription: 'far switch and its port: {far}, {port}, and {own} for the port itself',
  serverDescription: 'the server’s name, by which it is found again: {server}, {rack}, {own}',
  outsideDescription: 'the system and its port: {system}, {port}, {own}',
};

/** How a fabric is joined: spines over leaves; pods under super-spines; leaves alone; and VLANs with spanning tree, not routed. */
export const FABRIC_SHAPES = ['three-stages', 'five-stages', 'collapsed', 'switched'] as const;
export type FabricShape = (typeof FABRIC_SHAPES)[number];

/** Switches of a tier that stand beside one another. */
export interface TierSwitches {
  readonly count: number;
  readonly model: string;
  /** Those of another model, by their number from 1 (in every pod, in every plane). */
  readonly others?: readonly { readonly number: number; readonly model: string }[];
  readonly breakouts?: readonly Breakout[];
}
/** What is said of the switches above the racks, by patterns and intents alike. */
export interface UpperTiers {
  /** Absent = three stages. */
  readonly shape?: FabricShape;
  /** With five stages: how many pods there are. */
  readonly pods?: number;
  /** With five stages: super-spines of each plane; there is a plane for each spine of a pod. */
  readonly superSpines?: TierSwitches;
  /** With five stages, of each pod; collapsed fabrics have none. */
  readonly spines: TierSwitches;
  /** Links between two switches that are joined. */
  readonly parallel: number;
  /** Every switch is cabled to a management switch too. Absent = that network is not planned here. */
  readonly management?: ManagementNetwork;
}

/** The network beside the fabric by which its switches are reached: one management switch for each group of them. */
export interface ManagementNetwork {
  /** The port of every switch that is joined to it, e.g. `eth0`. */
  readonly port: string;
  /** Ports of a management switch, e.g. `p1-p48`. */
  readonly ports: string;
}
/** What a pattern says of the switches above the racks, and nothing that its shape has no use for. */
export function upperTiersOf({ shape, pods, superSpines, spines, parallel, management }: UpperTiers): UpperTiers {
  const more = management === undefined ? { parallel } : { parallel, management };
  if (shape === 'five-stages')
    return { shape, pods: pods ?? 1, superSpines: { ...NO_SWITCHES, ...superSpines }, spines, ...more };
  if (shape === 'collapsed') return { shape, spines: NO_SWITCHES, ...more };
  return shape === 'switched' ? { shape, spines, ...more } : { spines, ...more };
}
export const NO_SWITCHES: TierSwitches = { count: 0, model: '' };

/** The model of a switch of a tier, by its number from 1. */
export const modelInTier = ({ model, others }: TierSwitches, number: number): string =>
  others?.find((o) => o.number === number)?.model ?? model;
/** Every model of a tier, the usual one first. */
export const modelsOfTier = ({ count, model, others = [] }: TierSwitches): string[] => [
  ...new Set([model, ...others.flatMap((o) => (o.number <= count ? [o.model] : []))]),
];

/** Models of the switches above the racks. */
export const upperModels = (of: UpperTiers): string[] =>
  [of.spines, of.superSpines ?? NO_SWITCHES].flatMap(modelsOfTier).filter((m) => m !== '');

export const hasPods = (of: Pick<UpperTiers, 'shape'>): boolean => of.shape === 'five-stages';

/** Does it route between its switches, with BGP and an overlay? Else it carries VLANs, and nothing of a switch is routed. */
export const isRouted = (of: Pick<UpperTiers, 'shape'>): boolean => of.shape !== 'switched';

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
