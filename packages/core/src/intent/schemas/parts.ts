import { DIALECT_NAMES } from '../../hardware/dialectNames.ts';
import { array, boolean, string, type AnySchema } from 'yup';
import { closed, lineText, partName, portRange, shortName, whole } from './words.ts';

/** Schemas of what fabrics are made of: models, patterns, settings, pools. */

export const modelSchema = closed({
  name: partName('The model name'),
  maker: lineText('The maker').required('the maker is missing'),
  dialect: string()
    .oneOf([...DIALECT_NAMES], `the dialect is ${DIALECT_NAMES.join(' or ')}`)
    .required('the dialect is missing'),
  blocks: array(
    closed({ ports: portRange('Ports'), speed: whole('The speed in Gb/s', 1, 1600).required('the speed is missing') }),
  )
    .min(1, 'a model has at least one block of ports')
    .required(),
  maxMtu: whole('The largest MTU', 1280, 65535).required('the largest MTU is missing'),
});

export const rackPatternSchema = closed({
  name: shortName('The name'),
  kind: string().oneOf(['single', 'esi-pair'], 'a rack is single or esi-pair').required('the kind is missing'),
  leafModel: partName('The leaf model'),
  serverPorts: portRange('Server ports'),
  uplinkPorts: portRange('Uplink ports'),
});

const settingFields = {
  asnScheme: string().oneOf(['per-leaf', 'per-rack'], 'AS numbers go per-leaf or per-rack'),
  underlay: string().oneOf(['unnumbered', 'numbered'], 'the underlay is unnumbered or numbered'),
  linkMtu: whole('The link MTU', 1280, 65535),
  tenantMtu: whole('The tenant MTU', 576, 65535),
  bfd: boolean().typeError('BFD is true or false'),
  vniRule: string().oneOf(['drawn', 'base', 'equal'], 'a VNI is drawn, base or equal'),
  vniBase: whole('The VNI base', 0, 16773121),
  fabricNumber: whole('The RT administrator', 1, 65535),
  keepalive: whole('Keepalive', 1, 65535),
  hold: whole('Hold time', 3, 65535),
};
export const settingsPatchSchema = closed(settingFields);
export const everySettingSchema = closed(
  Object.fromEntries(Object.entries(settingFields).map(([k, s]) => [k, (s as AnySchema).required(`${k} is missing`)])),
);

/** What is said of the switches above the racks; what fits together is judged by sizing, with its cure. */
export const upperTiersFields = {
  shape: string().oneOf(
    ['three-stages', 'five-stages', 'collapsed'],
    'the shape is three-stages, five-stages or collapsed',
  ),
  pods: whole('The number of pods', 1, 64),
  // Fields of a shape that was not chosen may stay half filled in a form.
  superSpines: closed({
    count: whole('The number of super-spines', 0, 64),
    model: string().matches(
      /^([A-Za-z0-9][\w.-]{0,39})?$/,
      'the super-spine model holds letters, digits, dots and hyphens',
    ),
  })
    .default(undefined)
    .optional(),
  parallel: whole('Parallel links', 1, 8).required('the number of parallel links is missing'),
};

export const fabricPatternSchema = closed({
  name: shortName('The name'),
  description: lineText('The description', 200).default(''),
  ...upperTiersFields,
  // A collapsed fabric has none, and no model of them.
  spines: closed({
    count: whole('The number of spines', 0, 64).required('the number of spines is missing'),
    model: string()
      .matches(/^([A-Za-z0-9][\w.-]{0,39})?$/, 'the spine model holds letters, digits, dots and hyphens')
      .defined('the spine model is missing'),
  }),
  racks: array(
    closed({
      pattern: shortName('The rack pattern'),
      count: whole('The number of racks', 0, 10_000).required('the number of racks is missing'),
    }),
  ).required(),
  settings: settingsPatchSchema.default({}),
});

export const poolSchema = closed({
  name: shortName('The name'),
  kind: string().oneOf(['asn', 'ipv4', 'vni'], 'a pool holds asn, ipv4 or vni').required('the kind is missing'),
  ranges: array(string().max(60).required('a range is empty'))
    .min(1, 'a pool has at least one range')
    .max(200)
    .required('the ranges are missing'),
  note: lineText('The note', 200),
});
