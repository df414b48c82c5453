import { mixed } from 'yup';
import { FEC_WORDS } from '../../hardware/drive.ts';
import { shapeOf, type FabricSettings, type ManagementNetwork, type TierSwitches } from '../../patterns/patterns.ts';
import { breakoutsText, othersText } from '../../patterns/tierTexts.ts';
import type { Subject } from '../../subject.ts';
import type { PoolRoles } from '../intent.ts';
import { recordOf } from './collection.ts';

/** What settings are called wherever people meet them. */
export const SETTING_LABELS: Readonly<Record<keyof FabricSettings, string>> = {
  asnScheme: 'AS numbers',
  underlay: 'underlay',
  underlayFamilies: 'addresses of switches',
  linkMtu: 'link MTU',
  linkFec: 'FEC of links',
  tenantMtu: 'tenant MTU',
  bfd: 'BFD',
  vniRule: 'VNI of a network',
  vniBase: 'VNI base',
  fabricNumber: 'RT administrator',
  keepalive: 'keepalive',
  hold: 'hold time',
  restart: 'graceful restart',
  restartTime: 'restart time',
  leafName: 'names of leaves',
  spineName: 'names of spines',
  superSpineName: 'names of super-spines',
  linkDescription: 'descriptions of links',
  serverDescription: 'descriptions of server ports',
  outsideDescription: 'descriptions of outside links',
};
/** What one chooses among, in words. */
export const SETTING_CHOICES = {
  underlay: {
    unnumbered: 'unnumbered',
    numbered: 'numbered, /31',
    'half-numbered': 'half of the links numbered',
  },
  underlayFamilies: { ipv4: 'IPv4', both: 'IPv4 and IPv6' },
  asnScheme: {
    'per-leaf': 'one per leaf',
    'per-rack': 'one per rack',
    two: 'one for leaves, one for spines',
    single: 'one for all, led by OSPF',
  },
  linkFec: { unsaid: 'as the cable has it', rs: FEC_WORDS.rs, 'base-r': FEC_WORDS['base-r'], off: FEC_WORDS.off },
  restart: { helper: 'for neighbours', full: 'for neighbours and itself', none: 'for nobody' },
  vniRule: { drawn: 'drawn', base: 'base + VLAN', equal: 'equal to VLAN' },
} as const satisfies {
  readonly [K in 'underlay' | 'underlayFamilies' | 'asnScheme' | 'linkFec' | 'restart' | 'vniRule']: Readonly<
    Record<FabricSettings[K], string>
  >;
};
const CHOICE_WORDS: ReadonlyMap<string, string> = new Map(
  Object.values(SETTING_CHOICES).flatMap((c) => Object.entries(c)),
);

/** What is drawn from a pool. */
export const POOL_ROLE_LABELS: Readonly<Record<keyof PoolRoles, string>> = {
  spineAsn: 'AS number of the spines',
  leafAsn: 'AS numbers of the leaves',
  loopback: 'loopbacks',
  vtep: 'VTEPs',
  link: 'fabric links',
  vni: 'VNIs',
  subnet: 'tenant subnets',
  subnet6: 'IPv6 subnets of tenants',
  loopback6: 'IPv6 loopbacks',
  link6: 'IPv6 of fabric links',
};

type Scalar = string | number | boolean;
const scalar = {
  schema: mixed(),
  freeing: '',
  fields: [
    {
      key: '',
      label: '',
      value: (v: Scalar) => v,
      text: (v: Scalar) => (typeof v === 'boolean' ? (v ? 'on' : 'off') : String(v)),
    },
  ],
};

/** What a fabric was laid from; it is cleared and laid anew, never changed. */
export const fabric = recordOf<Scalar, 'fabric'>(
  'pattern',
  (i) => ({
    pattern: i.pattern,
    parallel: i.parallel,
    shape: shapeOf(i),
    spineModel: i.spines.model,
    superSpineModel: i.superSpines?.model ?? '',
  }),
  (i) => i,
  {
    kind: 'fabric',
    word: 'fabric',
    labels: { spineModel: 'the spines', superSpineModel: 'the super-spines' },
    ...scalar,
    freeing: 'Change or remove it first.',
    refers: (value, key) =>
      (key === 'spineModel' || key === 'superSpineModel') && value !== ''
        ? [{ to: `model:${String(value)}` as Subject, ends: 'holds' }]
        : [],
  },
);
type Breakouts = NonNullable<TierSwitches['breakouts']>;
type Others = NonNullable<TierSwitches['others']>;
type OfTiers = number | Others | Breakouts | ManagementNetwork | null;
const isOthers = (value: Others | Breakouts): value is Others => value.every((v) => 'model' in v);

/** What is said of the switches above the racks: how many, and what is unlike the rest. */
export const spines = recordOf<OfTiers, 'spines'>(
  'spines',
  (i) => ({
    count: i.spines.count,
    ...(i.pods === undefined ? {} : { pods: i.pods }),
    ...(i.superSpines === undefined ? {} : { superSpines: i.superSpines.count }),
    others: i.spines.others ?? [],
    breakouts: i.spines.breakouts ?? [],
    superOthers: i.superSpines?.others ?? [],
    superBreakouts: i.superSpines?.breakouts ?? [],
    management: i.management ?? null,
  }),
  // Only ever changed by its edit.
  (i) => i,
  {
    kind: 'spines',
    word: 'spines',
    schema: mixed(),
    freeing: 'Change that first.',
    labels: {
      count: 'spines',
      pods: 'pods',
      superSpines: 'super-spines',
      others: 'spines of another model',
      breakouts: 'split ports of the spines',
      superOthers: 'super-spines of another model',
      superBreakouts: 'split ports of the super-spines',
      management: 'management network',
    },
    fields: [
      {
        key: '',
        label: '',
        value: (v) => v,
        text: (v) =>
          v === null
            ? ''
            : typeof v === 'number'
              ? String(v)
              : 'ports' in v
                ? `${v.port} to ${v.ports}`
                : isOthers(v)
                  ? othersText(v)
                  : breakoutsText(v as Breakouts),
      },
    ],
    refers: (value, key) =>
      (key === 'others' || key === 'superOthers') && Array.isArray(value)
        ? (value as Others).map((o) => ({ to: `model:${o.model}` as Subject, ends: 'holds' }) as const)
        : [],
  },
);
export const settings = recordOf<Scalar, 'setting'>(
  'settings',
  (i) => i.settings,
  (i, key, value) => ({ ...i, settings: { ...i.settings, [key]: value } }),
  {
    kind: 'setting',
    word: 'setting',
    labels: SETTING_LABELS,
    ...scalar,
    fields: scalar.fields.map((f) => ({ ...f, text: (v: Scalar) => CHOICE_WORDS.get(String(v)) ?? f.text(v) })),
  },
);
export const pools = recordOf<Scalar, 'pool'>(
  'pools',
  (i) => i.pools,
  (i, key, value) => ({ ...i, pools: { ...i.pools, [key]: value } }),
  { kind: 'pool', word: 'pool', labels: POOL_ROLE_LABELS, ...scalar },
);
