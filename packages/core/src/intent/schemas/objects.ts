import { array, boolean, number, string, type AnySchema } from 'yup';
import { DOCUMENT_NAMES } from '../../hardware/dialects.ts';
import { FECS, SPEEDS } from '../../hardware/drive.ts';
import { MOST_IN_LAG } from '../../hardware/lagNumber.ts';
import { isPortLabel } from '../../numbers/ports.ts';
import { hostPrefix, parseAnyCidr, parseAnyPrefix } from '../../numbers/prefix.ts';
import { NO_POOLS } from '../intent.ts';
import { LAST_OWN_TAG } from '../policies.ts';
import { SECRET_DIGEST } from '../../secrets/secretRef.ts';
import { addressText, closed, isDay, lineText, namedThing, prefixText, shortName, whole } from './words.ts';

/** Schemas of the objects an intent holds. */

const poolName = string().matches(/^([a-z][a-z0-9-]{0,30})?$/, 'a pool name is expected');
const rolesOf = (of: AnySchema): AnySchema =>
  closed(Object.fromEntries(Object.keys(NO_POOLS).map((role) => [role, of])));
/** Pools of some roles. */
export const poolRolesSchema = rolesOf(poolName);
/** Those of all; none is chosen where an older file does not know one. */
export const everyPoolRoleSchema = rolesOf(poolName.default(''));
export const rackSchema = closed({
  number: whole('The rack number', 1, 9999).required('the rack number is missing'),
  pattern: shortName('The rack pattern'),
  slot: whole('The slot', 1, 9999).required('the slot is missing'),
  pod: whole('The pod', 1, 64),
  place: lineText('The place'),
});
/** Linux names the VRF's device after it: 15 characters at most. */
const VRF_NAME_MAX = 15;
const mapName = namedThing('it is the name of a route map');
export const vrfSchema = closed({
  name: shortName('The VRF name', VRF_NAME_MAX),
  transitVlan: whole('The L3 VNI’s VLAN', 1, 4094).required('the L3 VNI’s VLAN is missing'),
  vni: whole('The VNI', 1, 16777215),
  connectedMap: mapName,
  staticMap: mapName,
  mostRoutes: whole('The number of routes', 1, 4000000),
});
export const rackNumbersSchema = array(whole('A rack number', 1, 9999).required()).required('the racks are missing');
export const networkSchema = closed({
  name: shortName('The network name'),
  // Empty = bridged only.
  vrf: string()
    .matches(/^([a-z][a-z0-9-]*)?$/, 'the VRF starts with a lower-case letter and holds letters, digits and hyphens')
    .max(VRF_NAME_MAX, `the VRF has at most ${VRF_NAME_MAX} characters`)
    .defined('the VRF is missing'),
  vlan: whole('The VLAN', 1, 4094).required('the VLAN is missing'),
  vni: whole('The VNI', 1, 16777215),
  subnet: string().max(20),
  subnetLength: whole('The subnet length', 8, 29).default(24),
  families: string().oneOf(['both', 'ipv6'], 'it is both or ipv6; without it, IPv4 alone'),
  subnet6: string().max(45),
  furtherSubnets: array(string().max(45).required())
    .min(1, 'leave it out where there are none')
    .max(8, 'a network has at most 8 further subnets')
    .default(undefined)
    .optional(),
  mtu: whole('The MTU', 576, 65535),
  racks: rackNumbersSchema,
});
export const sideSchema = string()
  .oneOf(['both', 'a', 'b'], 'the side is both, a or b')
  .required('the side is missing');
export const portSchema = string()
  .test(
    'port',
    'a port is written as its maker does: p1, e1/1, p-0/0/1 or port1.2',
    (v) => v === undefined || isPortLabel(v),
  )
  .required('the port is missing');
const portNetwork = namedThing('a network name is expected');
/** How a port is driven. */
const drive = {
  speed: number()
    .typeError('the speed is a number of Gb/s')
    .oneOf([...SPEEDS], `the speed is one of ${SPEEDS.join(', ')} Gb/s`),
  fec: string().oneOf([...FECS], `FEC is one of ${FECS.join(', ')}`),
};
export const serverPortSchema = closed({
  rack: whole('The rack', 1, 9999).required('the rack is missing'),
  side: sideSchema,
  port: portSchema,
  server: string()
    .matches(/^[A-Za-z0-9][\w.-]{0,62}$/, 'a server name holds letters, digits, dots and hyphens')
    .required('the server is missing'),
  untagged: portNetwork,
  tagged: array(portNetwork.required()).default([]),
  shut: boolean(),
  ...drive,
});
/** A name that something outside bears. */
const outsideName = (what: string) =>
  string()
    .matches(/^[A-Za-z0-9][\w./-]{0,39}$/, `${what} holds letters, digits and . - _ /`)
    .required(`${what} is missing`);
export const outsideSchema = closed({
  rack: whole('The rack', 1, 9999).required('the rack is missing'),
  side: string().oneOf(['a', 'b'], 'the side is a or b').required('the side is missing'),
  port: portSchema,
  to: string().oneOf(['site'], 'it goes to a site, or nothing is said'),
  system: outsideName('the system'),
  farPort: outsideName('its port'),
  lag: array(closed({ port: portSchema, farPort: outsideName('its port') })).max(
    MOST_IN_LAG - 1,
    `a LAG has at most ${MOST_IN_LAG} cables`,
  ),
  shut: boolean(),
  ...drive,
});
export const linkIdSchema = string()
  .matches(/^[a-z][a-z0-9.-]{0,39}:[a-z][a-z0-9.-]{0,39}:[a-z0-9-]{1,20}$/, 'a link is written leaf-1:spine-2:1')
  .required('the link is missing');
export const shutLinkSchema = closed({ link: linkIdSchema });
const told = (what: string) =>
  array(
    string()
      .test(
        'prefix',
        ({ value }) => `${String(value)} is no prefix such as 198.51.100.0/24`,
        (v) => v !== undefined && parseAnyPrefix(v) !== null,
      )
      .required(),
  )
    .max(100, `${what} at most 100 prefixes`)
    .default([]);
export const neighbourSchema = closed({
  rack: whole('The rack', 1, 9999).required('the rack is missing'),
  side: string().oneOf(['a', 'b'], 'the side is a or b').required('the side is missing'),
  port: portSchema,
  vlan: whole('The VLAN', 1, 4094),
  vrf: shortName('The VRF'),
  address: string()
    .max(45)
    .test(
      'address',
      'our address is written 192.0.2.0/31 or 2001:db8::/127',
      (v) => v === undefined || parseAnyCidr(v) !== null,
    )
    .required('our address is missing'),
  far: addressText('its address is written 192.0.2.1 or 2001:db8::1').required('its address is missing'),
  loopback: addressText('the address it speaks from is written 203.0.113.9 or 2001:db8::9'),
  hops: whole('The number of hops', 2, 255),
  asn: whole('The AS number', 1, 4294967294).required('the AS number is missing'),
  takes: told('it takes'),
  tells: told('it tells'),
  limit: whole('The limit', 1, 1000000),
  password: namedThing('the password is the name of a secret'),
  bfd: boolean().oneOf([true], 'BFD is true, or left out'),
  mapIn: mapName,
  mapOut: mapName,
  // Nothing said and an empty list are one.
  aggregates: told('it is told').default(undefined).optional(),
  originate: boolean().oneOf([true], 'it is told a default route: true, or left out'),
  hold: whole('The hold time in seconds', 3, 65535),
  ttlSecurity: boolean().oneOf([true], 'TTL security is true, or left out'),
  localAs: whole('The AS number it sees', 1, 4294967294),
  ownAs: whole('How often', 1, 10),
  asOverride: boolean().oneOf([true], 'AS override is true, or left out'),
  closed: boolean().oneOf([true], '“closed” is true, or left out'),
});
const knownSchema = closed({
  server: string()
    .matches(/^[A-Za-z0-9][\w.-]{0,62}$/, 'a server name holds letters, digits, dots and hyphens')
    .required('the server is missing'),
  address: string()
    .max(45)
    .test('address', 'its address is written 10.40.0.11', (v) => v === undefined || hostPrefix(v) !== null)
    .required('its address is missing'),
});
export const speakersSchema = closed({
  network: shortName('The network'),
  from: string()
    .max(49)
    .test(
      'prefix',
      'who may call is written 10.40.0.0/26 or 2001:db8:40::/64',
      (v) => v === undefined || parseAnyPrefix(v) !== null,
    )
    .required('who may call is missing'),
  asn: whole('The AS number', 1, 4294967294).required('the AS number is missing'),
  takes: told('they tell'),
  tells: told('they are told'),
  known: array(knownSchema.required()).max(500, 'at most 500 are named').default(undefined).optional(),
  mapIn: mapName,
  mapOut: mapName,
  limit: whole('The limit', 1, 1000000),
  password: namedThing('the password is the name of a secret'),
  bfd: boolean().oneOf([true], 'BFD is true, or left out'),
  originate: boolean().oneOf([true], 'they are told a default route: true, or left out'),
  hold: whole('The hold time in seconds', 3, 65535),
  closed: boolean().oneOf([true], '“closed” is true, or left out'),
});
export const routeSchema = closed({
  vrf: shortName('The VRF'),
  prefix: prefixText().required('the prefix is missing'),
  via: string().max(45),
  racks: rackNumbersSchema,
  // BGP has 20: what stands behind it and is told keeps it out once it was there first.
  distance: whole('The distance', 1, 19),
  tag: whole('The tag (1–9 are ours)', LAST_OWN_TAG + 1, 4294967295),
});
export const leakSchema = closed({
  into: shortName('The VRF that has them'),
  from: shortName('The VRF they are of'),
  prefixes: told('a leak has'),
});
export const snippetSchema = closed({
  name: shortName('The name'),
  file: string()
    .oneOf([...DOCUMENT_NAMES], `the file is ${DOCUMENT_NAMES.join(' or ')}`)
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
export const waiverSchema = closed({
  rule: shortName('The rule', 40),
  reason: string().trim().max(500, 'a reason has at most 500 characters').required('say why'),
  until: string()
    .required('say until when')
    .test('day', 'a day is written 2026-12-31', (v) => v === undefined || isDay(v)),
  by: string().max(64).defined(),
});
export const seatSchema = string()
  .matches(
    /^(leaf-\d{1,4}[ab]?|spine-\d{1,3}(\.\d{1,3})?|super-spine-\d{1,3}\.\d{1,3})$/,
    'a seat is written leaf-7a, spine-1, spine-2.1 or super-spine-1.2',
  )
  .required('the seat is missing');
export const drainedSchema = closed({ seat: seatSchema });
export const serialText = string()
  .matches(/^[A-Za-z0-9][\w.-]{2,39}$/, 'a serial holds letters, digits, dots and hyphens')
  .required('the serial is missing');
