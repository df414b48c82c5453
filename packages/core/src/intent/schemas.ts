import {
  array,
  boolean,
  lazy,
  mixed,
  number,
  object,
  string,
  ValidationError,
  type AnySchema,
  type ObjectSchema,
} from 'yup';
import { problem, type Finding } from '../finding.ts';
import { SECRET_DIGEST } from '../secrets/secretRef.ts';
import type { Edit } from './edits.ts';

/** Yup schemas of every document that comes in from outside: parts, pools, intent, edits. */

const shortName = (what: string, max = 31) =>
  string()
    .matches(/^[a-z][a-z0-9-]*$/, `${what} starts with a lower-case letter and holds letters, digits and hyphens`)
    .max(max, `${what} has at most ${max} characters`)
    .required(`${what} is missing`);
const partName = (what: string) =>
  string()
    .matches(/^[A-Za-z0-9][\w.-]*$/, `${what} holds letters, digits, dots and hyphens`)
    .max(40, `${what} has at most 40 characters`)
    .required(`${what} is missing`);
/** Text that ends up in configuration lines: one line, no comment marks, no surprises. */
const lineText = (what: string, max = 60) =>
  string()
    .matches(/^[\p{L}\p{N} .,_:/@()&+-]*$/u, `${what} holds letters, digits, spaces and . , _ : / @ & ( ) + -`)
    .max(max, `${what} has at most ${max} characters`);
const whole = (what: string, from: number, to: number) =>
  number()
    .typeError(`${what} is a number`)
    .integer(`${what} is a whole number`)
    .min(from, `${what} is ${from} or more`)
    .max(to, `${what} is ${to} or less`);
const portRange = (what: string) =>
  string()
    .matches(/^[a-z]+\d+(-([a-z]+)?\d+)?(,\s*[a-z]+\d+(-([a-z]+)?\d+)?)*$/, `${what} are written p1-p48 or p1-p4,p9`)
    .required(`${what} are missing`);
const closed = <T extends Parameters<typeof object>[0]>(fields: T) =>
  object(fields).noUnknown(true, ({ unknown }) => `there is no field ${String(unknown).slice(0, 100)}`);

export const modelSchema = closed({
  name: partName('The model name'),
  maker: lineText('The maker').required('the maker is missing'),
  dialect: string().oneOf(['linux'], 'the dialect is linux').required('the dialect is missing'),
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
  fabricNumber: whole('The fabric number', 1, 65535),
  keepalive: whole('Keepalive', 1, 65535),
  hold: whole('Hold time', 3, 65535),
};
export const settingsPatchSchema = closed(settingFields);
const everySetting = closed(
  Object.fromEntries(Object.entries(settingFields).map(([k, s]) => [k, (s as AnySchema).required(`${k} is missing`)])),
);

export const fabricPatternSchema = closed({
  name: shortName('The name'),
  description: lineText('The description', 200).default(''),
  spines: closed({
    count: whole('The number of spines', 1, 64).required('the number of spines is missing'),
    model: partName('The spine model'),
  }),
  parallel: whole('Parallel links', 1, 8).required('the number of parallel links is missing'),
  racks: array(
    closed({
      pattern: shortName('The rack pattern'),
      count: whole('The number of racks', 0, 4096).required('the number of racks is missing'),
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

const poolRoleFields = Object.fromEntries(
  ['spineAsn', 'leafAsn', 'loopback', 'vtep', 'link', 'vni', 'subnet'].map((k) => [
    k,
    string().matches(/^([a-z][a-z0-9-]{0,30})?$/, 'a pool name is expected'),
  ]),
);
export const rackSchema = closed({
  number: whole('The rack number', 1, 9999).required('the rack number is missing'),
  pattern: shortName('The rack pattern'),
  slot: whole('The slot', 1, 9999).required('the slot is missing'),
  place: lineText('The place'),
});
/** Linux names the VRF's device after it: 15 characters at most. */
const VRF_NAME_MAX = 15;
export const vrfSchema = closed({
  name: shortName('The VRF name', VRF_NAME_MAX),
  transitVlan: whole('The transit VLAN', 1, 4094).required('the transit VLAN is missing'),
  vni: whole('The VNI', 1, 16777215),
});
const rackNumbers = array(whole('A rack number', 1, 9999).required()).required('the racks are missing');
export const networkSchema = closed({
  name: shortName('The network name'),
  vrf: shortName('The VRF', VRF_NAME_MAX),
  vlan: whole('The VLAN', 1, 4094).required('the VLAN is missing'),
  vni: whole('The VNI', 1, 16777215),
  subnet: string().max(20),
  subnetLength: whole('The subnet length', 8, 29).default(24),
  mtu: whole('The MTU', 576, 65535),
  racks: rackNumbers,
});
const side = string().oneOf(['both', 'a', 'b'], 'the side is both, a or b').required('the side is missing');
const port = string()
  .matches(/^[a-z]+\d+(s\d+)?$/, 'a port is written p1')
  .required('the port is missing');
const portNetwork = string()
  .matches(/^[a-z][a-z0-9-]*$/, 'a network name is expected')
  .max(31);
export const serverPortSchema = closed({
  rack: whole('The rack', 1, 9999).required('the rack is missing'),
  side,
  port,
  server: string()
    .matches(/^[A-Za-z0-9][\w.-]{0,62}$/, 'a server name holds letters, digits, dots and hyphens')
    .required('the server is missing'),
  untagged: portNetwork,
  tagged: array(portNetwork.required()).default([]),
  shut: boolean(),
});
export const snippetSchema = closed({
  name: shortName('The name'),
  file: string()
    .oneOf(['interfaces', 'frr.conf'], 'the file is interfaces or frr.conf')
    .required('the file is missing'),
  on: string()
    .oneOf(['all', 'spines', 'leaves'], 'a snippet goes on all, spines or leaves')
    .required('choose where it goes'),
  text: string()
    .max(20000, 'a snippet has at most 20 000 characters')
    .matches(/^[^\u0000-\u0008\u000b-\u001f\u007f]*$/, 'a snippet holds no control characters')
    .required('the text is missing'),
  runsElsewhere: boolean().typeError('“runs elsewhere” is true or false'),
});
/** A secret by name and keyed digest; its value never comes in with an intent or an edit. */
export const secretRefSchema = closed({
  name: shortName('The secret'),
  digest: string().matches(SECRET_DIGEST, 'a digest is 22 letters, digits, - and _').required('the digest is missing'),
});
const seat = string()
  .matches(/^(spine|leaf)-\d+[ab]?$/, 'a seat is written spine-1 or leaf-7a')
  .required('the seat is missing');
export const serialText = string()
  .matches(/^[A-Za-z0-9][\w.-]{2,39}$/, 'a serial holds letters, digits, dots and hyphens')
  .required('the serial is missing');

export const intentSchema = closed({
  name: shortName('The fabric name', 20),
  namePrefix: shortName('The name prefix', 8),
  pattern: string().defined(),
  settings: everySetting,
  spines: closed({ count: whole('The number of spines', 0, 64).required(), model: string().defined() }),
  parallel: whole('Parallel links', 1, 8).required(),
  models: array(modelSchema).required(),
  rackPatterns: array(rackPatternSchema).required(),
  pools: closed(poolRoleFields),
  racks: array(rackSchema).required(),
  seating: mixed<Record<string, string>>()
    .test(
      'seating',
      'seating is a list of seat: serial',
      (v) =>
        typeof v === 'object' &&
        v !== null &&
        Object.entries(v).every(([k, s]) => seat.isValidSync(k) && serialText.isValidSync(s)),
    )
    .required(),
  vrfs: array(vrfSchema).required(),
  networks: array(networkSchema).required(),
  ports: array(serverPortSchema).required(),
  snippets: array(snippetSchema).required(),
  secrets: array(secretRefSchema).default([]),
});

const edit = (kind: string, fields: Parameters<typeof object>[0] = {}): AnySchema =>
  closed({ kind: string().oneOf([kind]).required(), ...fields });
const fabricName = shortName('The name');
/** The schema of each kind of edit. */
export const EDIT_SCHEMAS: Readonly<Record<Edit['kind'], AnySchema>> = {
  layFabric: edit('layFabric', {
    pattern: fabricPatternSchema,
    models: array(modelSchema).required(),
    rackPatterns: array(rackPatternSchema).required(),
  }),
  clearFabric: edit('clearFabric'),
  changeSettings: edit('changeSettings', { settings: settingsPatchSchema }),
  choosePools: edit('choosePools', { pools: closed(poolRoleFields) }),
  setSpines: edit('setSpines', { count: whole('The number of spines', 1, 64).required() }),
  addRack: edit('addRack', {
    rack: rackSchema,
    rackPattern: rackPatternSchema.default(undefined).optional(),
    model: modelSchema.default(undefined).optional(),
  }),
  removeRack: edit('removeRack', { number: whole('The rack number', 1, 9999).required() }),
  placeRack: edit('placeRack', {
    number: whole('The rack number', 1, 9999).required(),
    place: lineText('The place').defined(),
  }),
  takeSeat: edit('takeSeat', { seat, serial: serialText }),
  clearSeat: edit('clearSeat', { seat }),
  addVrf: edit('addVrf', { vrf: vrfSchema }),
  putModel: edit('putModel', { model: modelSchema }),
  removeModel: edit('removeModel', { name: partName('The model name') }),
  putRackPattern: edit('putRackPattern', { rackPattern: rackPatternSchema }),
  removeRackPattern: edit('removeRackPattern', { name: shortName('The rack pattern') }),
  changeVrf: edit('changeVrf', { name: fabricName, vrf: vrfSchema }),
  removeVrf: edit('removeVrf', { name: fabricName }),
  addNetwork: edit('addNetwork', { network: networkSchema }),
  changeNetwork: edit('changeNetwork', { name: fabricName, network: networkSchema }),
  carryNetwork: edit('carryNetwork', { name: fabricName, racks: rackNumbers }),
  removeNetwork: edit('removeNetwork', { name: fabricName }),
  connectServer: edit('connectServer', { port: serverPortSchema }),
  disconnectServer: edit('disconnectServer', { rack: whole('The rack', 1, 9999).required(), side, port }),
  putSnippet: edit('putSnippet', { snippet: snippetSchema }),
  removeSnippet: edit('removeSnippet', { name: fabricName }),
  putSecret: edit('putSecret', { secret: secretRefSchema }),
  removeSecret: edit('removeSecret', { name: fabricName }),
};

export const editSchema = lazy((value: unknown) => {
  const kind = typeof value === 'object' && value !== null && 'kind' in value ? String(value.kind) : '';
  return (
    Object.hasOwn(EDIT_SCHEMAS, kind)
      ? EDIT_SCHEMAS[kind as Edit['kind']]
      : edit('a kind of edit that is known').required('an edit is expected')
  ) as ObjectSchema<object>;
});

/** `racks[0].pattern` → `/racks/0/pattern`. */
export const pointer = (path: string | undefined): string =>
  path
    ? `/${path.replaceAll('["', '.').replaceAll('"]', '').replaceAll('[', '.').replaceAll(']', '').split('.').filter(Boolean).join('/')}`
    : '';

const sentence = (text: string): string =>
  `${text.charAt(0).toUpperCase()}${text.slice(1)}${/[.!?]$/.test(text) ? '' : '.'}`;

/** So much is said of one input: who reads more has stopped reading. */
const FINDINGS_SAID = 50;
const LONGEST_SENTENCE = 300;
const short = (text: string): string => (text.length > LONGEST_SENTENCE ? `${text.slice(0, LONGEST_SENTENCE)}…` : text);

/**
 * Validates input by a schema: the value as the schema casts it, or findings that point to the fields, at most fifty, each
 * of a readable length whatever the input holds.
 */
export function validate<T>(
  schema: { validateSync: (value: unknown, options: object) => unknown },
  value: unknown,
): { readonly value: T } | { readonly findings: Finding[] } {
  try {
    return { value: schema.validateSync(value, { abortEarly: false, strict: false, stripUnknown: false }) as T };
  } catch (error) {
    if (!(error instanceof ValidationError)) throw error;
    const errors = error.inner.length > 0 ? error.inner : [error];
    return {
      findings: errors
        .slice(0, FINDINGS_SAID)
        .map((e) => problem('form', pointer(e.path).slice(0, LONGEST_SENTENCE), short(sentence(e.message)))),
    };
  }
}
