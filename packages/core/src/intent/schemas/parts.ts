import { POOL_KINDS } from '../../pools/pool.ts';
import { DIALECT_NAMES } from '../../hardware/dialects.ts';
import { PARTS_FORM } from '../../hardware/switchModel.ts';
import { TABLES } from '../../hardware/tables.ts';
import { array, boolean, number, string, type AnySchema } from 'yup';
import { DEFAULT_DESCRIPTIONS, DESCRIPTION_FORM } from '../../patterns/descriptions.ts';
import { DEFAULT_NAMES } from '../../patterns/names.ts';
import {
  ASN_SCHEMES,
  DEFAULT_SETTINGS,
  DUTIES,
  FABRIC_SHAPES,
  FORWARDERS,
  LINK_FECS,
  RESTARTS,
  UNDERLAY_FAMILIES,
  UNDERLAY_KINDS,
  type FabricSettings,
} from '../../patterns/patterns.ts';
import { NO_POOLS } from '../intent.ts';
import { closed, lineText, partName, portRange, shortName, whole } from './words.ts';

/** Schemas of what fabrics are made of: models, patterns, settings, pools. */

export const modelSchema = closed({
  name: partName('The model name'),
  maker: lineText('The maker').required('the maker is missing'),
  dialect: string()
    .oneOf([...DIALECT_NAMES], `the dialect is ${DIALECT_NAMES.join(' or ')}`)
    .required('the dialect is missing'),
  blocks: array(
    closed({
      ports: portRange('Ports').required('Ports are missing'),
      speed: whole('The speed in Gb/s', 1, 1600).required('the speed is missing'),
      splits: array(whole('A split', 2, 8).required()).max(4),
      parts: string().matches(PARTS_FORM, 'the first part is called s1, s0, /1, :1 or .1 after its port'),
      names: portRange('Names on the switch'),
    }),
  )
    .min(1, 'a model has at least one block of ports')
    .required(),
  maxMtu: whole('The largest MTU', 1280, 65535).required('the largest MTU is missing'),
  // Nothing said and an empty list are one.
  tables: closed(
    Object.fromEntries(
      Object.entries(TABLES).map(([key, word]) => [key, whole(`The number of ${word}`, 1, 1_000_000)]),
    ),
  )
    .default(undefined)
    .optional(),
});

const breakoutsSchema = array(
  closed({
    ports: portRange('Split ports').required('Split ports are missing'),
    into: whole('The number of ports each becomes', 2, 8).required('into how many ports is missing'),
  }),
).max(32);

export const rackPatternSchema = closed({
  name: shortName('The name'),
  kind: string()
    .oneOf(['single', 'esi-pair'], ({ value }) =>
      /mlag/i.test(String(value))
        ? 'no dialect here says MLAG; a pair shares servers by Ethernet segments: esi-pair'
        : 'a rack is single or esi-pair',
    )
    .required('the kind is missing'),
  leafModel: partName('The leaf model'),
  serverPorts: portRange('Server ports').required('Server ports are missing'),
  uplinkPorts: portRange('Uplink ports').required('Uplink ports are missing'),
  peerPorts: portRange('Peer ports'),
  keepalivePorts: portRange('Keep-alive ports'),
  breakouts: breakoutsSchema,
  esiType: number().oneOf([0], 'ESIs are of type 0, or, left out, of type 3'),
  forwards: string().oneOf([...FORWARDERS], 'it is a, b or in-turn'),
  untracked: boolean().typeError('“untracked” is true or false'),
  duties: array(
    string()
      .oneOf([...DUTIES], `a duty is ${DUTIES.join(' or ')}`)
      .required(),
  ),
});

/** A name scheme; what it must hold is judged with its fabric (`checkNames`). */
const nameScheme = (what: string) =>
  string()
    // An empty field is the default.
    .transform((v: unknown) => (v === '' ? undefined : v))
    .matches(/^[a-z0-9{}:-]{1,60}$/, `${what} holds small letters, digits, hyphens and {words}`);

/** A scheme of descriptions; which words it may hold is judged beside (`checkDescriptions`). */
const description = (what: string) =>
  string()
    .transform((v: unknown) => (v === '' ? undefined : v))
    .matches(DESCRIPTION_FORM, `${what} holds letters, digits, blanks, {words} and . , : ; ( ) / _ @ + -`);
/** What intents of older releases say nothing of. */
const LATELY: ReadonlySet<string> = new Set([
  ...Object.keys({ ...DEFAULT_NAMES, ...DEFAULT_DESCRIPTIONS }),
  'underlayFamilies',
  'linkFec',
  'restart',
  'restartTime',
]);

const settingFields = {
  asnScheme: string().oneOf(ASN_SCHEMES, 'AS numbers go per-leaf, per-rack, two or single'),
  underlay: string().oneOf(UNDERLAY_KINDS, 'the underlay is unnumbered, numbered or half-numbered'),
  underlayFamilies: string().oneOf(UNDERLAY_FAMILIES, 'switches have addresses of ipv4, or of both'),
  linkMtu: whole('The link MTU', 1280, 65535),
  linkFec: string().oneOf(LINK_FECS, 'FEC of links is unsaid, rs, base-r or off'),
  tenantMtu: whole('The tenant MTU', 576, 65535),
  bfd: boolean().typeError('BFD is true or false'),
  vniRule: string().oneOf(['drawn', 'base', 'equal'], 'a VNI is drawn, base or equal'),
  vniBase: whole('The VNI base', 0, 16773121),
  fabricNumber: whole('The RT administrator', 1, 65535),
  keepalive: whole('Keepalive', 1, 65535),
  hold: whole('Hold time', 3, 65535),
  restart: string().oneOf(RESTARTS, 'graceful restart is for helper, full or none'),
  // 12 bits of its capability (RFC 4724 §3).
  restartTime: whole('The restart time', 1, 4095),
  leafName: nameScheme('The name of leaves'),
  spineName: nameScheme('The name of spines'),
  superSpineName: nameScheme('The name of super-spines'),
  linkDescription: description('The description of links'),
  serverDescription: description('The description of server ports'),
  outsideDescription: description('The description of outside links'),
};
export const settingsPatchSchema = closed(settingFields);
export const everySettingSchema = closed(
  Object.fromEntries(
    Object.entries(settingFields).map(([k, s]) => [
      k,
      // Intents of older releases say nothing of them.
      LATELY.has(k)
        ? (s as AnySchema).default(DEFAULT_SETTINGS[k as keyof FabricSettings])
        : (s as AnySchema).required(`${k} is missing`),
    ]),
  ),
);

const tierModel = (what: string) =>
  string().matches(/^([A-Za-z0-9][\w.-]{0,39})?$/, `${what} holds letters, digits, dots and hyphens`);
/** Switches of a tier that are of another model than the others. */
export const othersSchema = array(
  closed({
    number: whole('The number of a switch', 1, 64).required('the number of the switch is missing'),
    model: partName('The model'),
  }),
).max(64);
export const managementSchema = closed({
  port: string()
    .matches(/^[a-z]+\d+$/, 'the management port is written eth0')
    .required('the management port is missing'),
  ports: portRange('Ports of a management switch').required('ports of a management switch are missing'),
});
export { breakoutsSchema };

/** Switches of a tier. A collapsed fabric has none; fields of a shape that was not chosen may stay half filled in a form. */
export const tierFields = (many: string, one: string) => ({
  count: whole(`The number of ${many}`, 0, 64).required(`the number of ${many} is missing`),
  model: tierModel(`the ${one} model`).defined(`the ${one} model is missing`),
  others: othersSchema,
  breakouts: breakoutsSchema,
});

/** What is said of the switches above the racks; what fits together is judged by sizing, with its cure. */
export const upperTiersFields = {
  shape: string().oneOf([...FABRIC_SHAPES], `the shape is ${FABRIC_SHAPES.join(', ')}`),
  pods: whole('The number of pods', 1, 64),
  superSpines: closed(tierFields('super-spines', 'super-spine')).default(undefined).optional(),
  parallel: whole('Parallel links', 1, 8).required('the number of parallel links is missing'),
  management: managementSchema.default(undefined).optional(),
};

export const fabricPatternSchema = closed({
  name: shortName('The name'),
  description: lineText('The description', 200).default(''),
  ...upperTiersFields,
  spines: closed(tierFields('spines', 'spine')),
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
  kind: string()
    .oneOf([...POOL_KINDS], 'a pool holds asn, ipv4, ipv6 or vni')
    .required('the kind is missing'),
  ranges: array(string().max(60).required('a range is empty'))
    .min(1, 'a pool has at least one range')
    .max(200)
    .required('the ranges are missing'),
  note: lineText('The note', 200),
  serves: array(
    string().oneOf(Object.keys(NO_POOLS), 'a pool is for one of the kinds of value that fabrics draw').required(),
  ).max(20),
});
