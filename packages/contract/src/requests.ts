import {
  DOCUMENT_NAMES,
  editSchema,
  fabricPatternSchema,
  modelSchema,
  poolSchema,
  rackPatternSchema,
  validate,
  type Finding,
} from '@anthemion/core';
import { array, boolean, mixed, number, object, string, type AnySchema } from 'yup';
import { ROLES, type Role } from './accessAnswers.ts';
import { FAULTS } from './answers.ts';

const closed = <T extends Parameters<typeof object>[0]>(fields: T) =>
  object(fields).noUnknown(true, ({ unknown }) => `there is no field ${String(unknown).slice(0, 100)}`);
/** A text without spaces around it; `trim` of the schema library would fall over anything that is no text. */
const trimmed = () => string().transform((v: unknown) => (typeof v === 'string' ? v.trim() : v));
const userName = string()
  .matches(/^[a-z][a-z0-9._-]{1,30}$/, 'an account name is 2–31 lower-case letters, digits, . _ -')
  .required('the name is missing');
/** NIST SP 800-63B-4 §3.1.1.2: a password that stands alone has at least 15 characters. */
export const PASSWORD_MIN = 15;
const newPassword = string()
  .min(PASSWORD_MIN, `a password has at least ${PASSWORD_MIN} characters`)
  .max(200, 'a password has at most 200 characters')
  .required('the password is missing');
const shortText = (what: string, max: number) => trimmed().max(max, `${what} has at most ${max} characters`);
const fullName = trimmed().min(1).max(60, 'a full name has at most 60 characters').required('the full name is missing');
const roleList = array(string().oneOf(ROLES, 'there is no such role').required()).max(ROLES.length);
const fabricNames = array(
  string()
    .matches(/^[a-z][a-z0-9-]{1,19}$/, 'a fabric name is expected')
    .required(),
).max(100);
/** Fabric → roles. */
const boundRoles = mixed<Record<string, string[]>>()
  .test(
    'bound',
    'roles on fabrics are written { fabric: [roles] }',
    (v) =>
      typeof v === 'object' &&
      v !== null &&
      !Array.isArray(v) &&
      Object.entries(v).every(
        ([f, r]) => /^[a-z][a-z0-9-]{1,19}$/.test(f) && Array.isArray(r) && roleList.isValidSync(r),
      ),
  )
  .default(() => ({}));
const prefix = string()
  .matches(/^[0-9A-Fa-f.:]{2,45}\/\d{1,3}$/, 'a range is written 10.99.0.0/24')
  .required('a range is empty');
const hostKey = string()
  .matches(/^SHA256:[A-Za-z0-9+/]{43}=?$/, 'a host key is written SHA256: and 43 characters')
  .required('the key is missing');

export const signInRequest = closed({
  name: string().max(60).required('the name is missing'),
  password: string().max(200).required('the password is missing'),
});
export const firstAccountRequest = closed({
  code: string().max(60).required('the code is missing'),
  name: userName,
  fullName,
  password: newPassword,
});
export const accountRequest = closed({ name: userName, fullName, roles: roleList.default([]), bound: boundRoles });
export const accountPatch = closed({
  fullName,
  roles: roleList.required('the roles are missing'),
  bound: boundRoles,
  admin: boolean().required('say whether it keeps accounts'),
  disabled: boolean().required('say whether it is disabled'),
});
export const passwordRequest = closed({
  current: string().max(200).required('the present password is missing'),
  password: newPassword,
});
export const tokenRequest = closed({
  name: trimmed()
    .matches(/^[\w .-]{1,40}$/, 'a token name is 1–40 letters, digits, spaces, . _ -')
    .required('the name is missing'),
  roles: roleList.default([]),
  fabrics: fabricNames.default([]),
  days: number()
    .integer('days are a whole number')
    .min(1, 'a token lives a day or more')
    .max(366, 'a token lives at most 366 days')
    .required('say how many days it lives'),
});
export const endSessionsRequest = closed({ account: userName });
export const switchAccountRequest = closed({
  username: string()
    .matches(/^[\w.-]{1,32}$/, 'a user name is 1–32 letters, digits, . _ -')
    .required('the user name is missing'),
  password: string().max(200).default(''),
  privateKey: string().max(10_000, 'the key is too long').default(''),
  passphrase: string().max(200).default(''),
  ranges: array(prefix)
    .min(1, 'name the range of addresses it is for')
    .max(50, 'at most 50 ranges')
    .required('the ranges are missing'),
  note: shortText('the note', 200).default(''),
});
export const switchPatch = closed({
  address: string().max(253).required('the address is missing'),
  port: number()
    .integer('a port is a whole number')
    .min(1, 'a port is 1–65535')
    .max(65535, 'a port is 1–65535')
    .required('the port is missing'),
  location: shortText('the place', 80).default(''),
  account: string().max(40).nullable().default(null),
});
export const hostKeysRequest = closed({
  accept: array(closed({ serial: string().max(60).required('the serial is missing'), key: hostKey }))
    .min(1, 'name a switch')
    .max(1000, 'at most 1000 at once')
    .required('the switches are missing'),
});
export const secretRequest = closed({
  value: string()
    .matches(/^[\x21-\x7e]{1,80}$/, 'a secret is 1–80 printable characters without spaces')
    .required('the value is missing'),
  note: shortText('the note', 200).default(''),
});
export const settingsRequest = closed({ secondPerson: boolean().required() });
export const fabricRequest = closed({
  name: string()
    .matches(/^[a-z][a-z0-9-]{1,19}$/, 'a fabric name is 2–20 lower-case letters, digits, hyphens')
    .required('the name is missing'),
  namePrefix: string()
    .matches(/^[a-z][a-z0-9]{0,7}$/, 'the prefix is 1–8 lower-case letters or digits')
    .required('the prefix is missing'),
  title: trimmed().max(80).default(''),
});
const titled = {
  title: trimmed()
    .min(3, 'a title has at least 3 characters')
    .max(80, 'a title has at most 80 characters')
    .required('the title is missing'),
  reason: trimmed().max(400).default(''),
  ticket: trimmed()
    .matches(/^[\w./#-]*$/, 'a ticket holds letters, digits and . / # -')
    .max(40)
    .default(''),
};
export const changeRequest = closed({ fabric: string().required('the fabric is missing'), ...titled });
export const changePatchRequest = closed(titled);
export const editsRequest = closed({
  edits: array(editSchema as never)
    .min(1, 'an edit is expected')
    .max(2000, 'at most 2000 edits at once')
    .required('the edits are missing'),
});
export const approvalRequest = closed({ note: trimmed().max(400).default('') });
export const returnRequest = closed({ revision: number().integer().min(0).required('the revision is missing') });
const stopLine = number().integer().min(1, 'the stop line is at least 1').max(1000).default(1);
const undoSeconds = number().integer().min(10, 'the undo timer is at least 10 s').max(3600).default(60);
const together = boolean().default(false);
export const rolloutRequest = closed({
  change: string().required('the change is missing'),
  stopLine,
  undoSeconds,
  together,
  breakIn: boolean().default(false),
  reason: trimmed().max(400).default(''),
});
export const catchUpRequest = closed({ stopLine, undoSeconds, together });
const serials = array(string().max(60).required('the serial is missing'))
  .min(1, 'name a switch')
  .max(1000, 'at most 1000 at once')
  .required('the switches are missing');
export const putBackRequest = closed({
  serials,
  reason: trimmed().min(3, 'say why').max(400).required('the reason is missing'),
  stopLine,
  undoSeconds,
  together,
});
/** Into an open change, or (change null) a new one with this title. */
export const adoptRequest = closed({
  serials,
  change: string().nullable().default(null),
  title: trimmed().max(80).default(''),
  reason: trimmed().max(400).default(''),
  ticket: trimmed()
    .matches(/^[\w./#-]*$/, 'a ticket holds letters, digits and . / # -')
    .max(40)
    .default(''),
});
export const adoptPreviewRequest = closed({ serials, change: string().nullable().default(null) });
export const hereRequest = closed({
  fabric: string().max(20).default(''),
  change: string().max(40).nullable().default(null),
  at: string().max(120).default(''),
});
const SAY_WHO = 'say who: a server, a MAC address or an address';
export const takeFileRequest = closed({
  text: string().max(8e6, 'the file is too large to be sent').required('the file is missing'),
  /** Of the change; empty = it is named after the fabric. */
  title: trimmed().max(80).default(''),
});
export const heardRequest = closed({
  what: trimmed().min(1, SAY_WHO).max(100).required(SAY_WHO),
});
export const trafficRequest = closed({ seat: string().max(60).required('the seat is missing') });
export const reasonRequest = closed({
  reason: trimmed().min(3, 'say why').max(400).required('the reason is missing'),
});
export const versionRequest = closed({
  version: trimmed().min(1).max(200).required('the version is missing'),
  reason: trimmed().min(3, 'say why').max(400).required('the reason is missing'),
});
export const importRequest = closed({
  csv: string().max(2_000_000, 'the file is too large').required('the file is empty'),
});
export const faultRequest = closed({
  serial: string().required(),
  fault: string().oneOf(FAULTS).required(),
  on: boolean().required(),
});
export const pullRequest = closed({
  serial: string().required(),
  port: string().required(),
  pulled: boolean().required(),
});
const plug = closed({
  serial: string().required('the serial is missing'),
  port: string().required('the port is missing'),
});
/** Two cables by the ends that stay; their far ends change places. */
export const swapRequest = closed({ a: plug, b: plug });
export const handEditRequest = closed({
  serial: string().required(),
  file: string()
    .oneOf([...DOCUMENT_NAMES])
    .required(),
  find: string().max(500).required(),
  replace: string().max(500).defined(),
});
export const cableBenchRequest = closed({ fabric: string().required(), change: string().nullable().default(null) });

export interface SignInRequest {
  readonly name: string;
  readonly password: string;
}
export interface FirstAccountRequest extends SignInRequest {
  readonly code: string;
  readonly fullName: string;
}
export interface AccountRequest {
  readonly name: string;
  readonly fullName: string;
  readonly roles: readonly Role[];
  readonly bound: Readonly<Record<string, readonly Role[]>>;
}
export interface AccountPatch extends Omit<AccountRequest, 'name'> {
  readonly admin: boolean;
  readonly disabled: boolean;
}
export interface PasswordRequest {
  readonly current: string;
  readonly password: string;
}
export interface TokenRequest {
  readonly name: string;
  readonly roles: readonly Role[];
  readonly fabrics: readonly string[];
  readonly days: number;
}
export interface SwitchAccountRequest {
  readonly username: string;
  /** One of the two; both empty = what is stored stays. */
  readonly password: string;
  readonly privateKey: string;
  readonly passphrase: string;
  readonly ranges: readonly string[];
  readonly note: string;
}
export interface SwitchPatch {
  readonly address: string;
  readonly port: number;
  readonly location: string;
  readonly account: string | null;
}
export interface HostKeysRequest {
  readonly accept: readonly { readonly serial: string; readonly key: string }[];
}
/** Yes to the version a switch was seen to run. */
export interface VersionRequest {
  readonly version: string;
  readonly reason: string;
}
export interface SecretRequest {
  readonly value: string;
  readonly note: string;
}
export interface FabricRequest {
  readonly name: string;
  readonly namePrefix: string;
  readonly title: string;
}
export interface ChangeTitles {
  readonly title: string;
  readonly reason: string;
  readonly ticket: string;
}
export interface ChangeRequest extends ChangeTitles {
  readonly fabric: string;
}
export interface RolloutRequest {
  readonly change: string;
  /** So many failures in a wave halt the rollout. */
  readonly stopLine: number;
  /** Time a switch has to settle and be confirmed before it goes back by itself, seconds. */
  readonly undoSeconds: number;
  /** Switches that have to be sent to together may be: sessions between them are down while they load. */
  readonly together: boolean;
  /** Go before an unfinished rollout of the same fabric, which then has to be proved again. Takes a reason. */
  readonly breakIn: boolean;
  readonly reason: string;
}
export interface PutBackRequest extends CatchUpRequest {
  readonly serials: readonly string[];
  readonly reason: string;
}
export interface AdoptRequest extends ChangeTitles {
  readonly serials: readonly string[];
  readonly change: string | null;
}
export interface HandEditRequest {
  readonly serial: string;
  readonly file: string;
  readonly find: string;
  readonly replace: string;
}
export interface HereRequest {
  readonly fabric: string;
  readonly change: string | null;
  readonly at: string;
}
export interface TakeFileRequest {
  readonly text: string;
  readonly title: string;
}
export type CatchUpRequest = Pick<RolloutRequest, 'stopLine' | 'undoSeconds' | 'together'>;

export { fabricPatternSchema, modelSchema, poolSchema, rackPatternSchema };

/** Validates a request body by its schema. */
export const validateBody = (
  schema: AnySchema,
  body: unknown,
): { readonly value: unknown } | { readonly findings: Finding[] } => validate<unknown>(schema, body);
