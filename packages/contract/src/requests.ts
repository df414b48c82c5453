import {
  editSchema,
  fabricPatternSchema,
  modelSchema,
  poolSchema,
  rackPatternSchema,
  validate,
  type Finding,
} from '@anthemion/core';
import { array, boolean, number, object, string, type AnySchema } from 'yup';
import { FAULTS, ROLES, type Role } from './answers.ts';

const closed = <T extends Parameters<typeof object>[0]>(fields: T) =>
  object(fields).noUnknown(true, ({ unknown }) => `there is no field ${unknown}`);
const userName = string()
  .matches(/^[a-z][a-z0-9._-]{1,30}$/, 'an account name is 2–31 lower-case letters, digits, . _ -')
  .required('the name is missing');
const PASSWORD_MIN = 10;
const newPassword = string()
  .min(PASSWORD_MIN, `a password has at least ${PASSWORD_MIN} characters`)
  .max(200)
  .required('the password is missing');

export const signInRequest = closed({
  name: string().max(60).required('the name is missing'),
  password: string().max(200).required('the password is missing'),
});
export const accountRequest = closed({
  name: userName,
  fullName: string().trim().min(1).max(60).required('the full name is missing'),
  password: newPassword,
  roles: array(string().oneOf(ROLES).required()).default([...ROLES]),
});
export const settingsRequest = closed({ secondPerson: boolean().required() });
export const fabricRequest = closed({
  name: string()
    .matches(/^[a-z][a-z0-9-]{1,19}$/, 'a fabric name is 2–20 lower-case letters, digits, hyphens')
    .required('the name is missing'),
  namePrefix: string()
    .matches(/^[a-z][a-z0-9]{0,7}$/, 'the prefix is 1–8 lower-case letters or digits')
    .required('the prefix is missing'),
  title: string().trim().max(80).default(''),
});
const titled = {
  title: string()
    .trim()
    .min(3, 'a title has at least 3 characters')
    .max(80, 'a title has at most 80 characters')
    .required('the title is missing'),
  reason: string().trim().max(400).default(''),
  ticket: string()
    .trim()
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
export const approvalRequest = closed({ note: string().trim().max(400).default('') });
export const returnRequest = closed({ revision: number().integer().min(0).required('the revision is missing') });
const stopLine = number().integer().min(1, 'the stop line is at least 1').max(1000).default(1);
const undoSeconds = number().integer().min(10, 'the undo timer is at least 10 s').max(3600).default(60);
export const rolloutRequest = closed({
  change: string().required('the change is missing'),
  stopLine,
  undoSeconds,
  breakIn: boolean().default(false),
  reason: string().trim().max(400).default(''),
});
export const catchUpRequest = closed({ stopLine, undoSeconds });
export const reasonRequest = closed({
  reason: string().trim().min(3, 'say why').max(400).required('the reason is missing'),
});
export const importRequest = closed({
  csv: string().max(2_000_000, 'the file is too large').required('the file is empty'),
});
export const credentialRequest = closed({
  username: string().max(60).required('the user name is missing'),
  password: string().max(200).required('the password is missing'),
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
export const handEditRequest = closed({
  serial: string().required(),
  file: string().oneOf(['interfaces', 'frr.conf']).required(),
  find: string().max(500).required(),
  replace: string().max(500).defined(),
});
export const cableBenchRequest = closed({ fabric: string().required(), change: string().nullable().default(null) });

export interface SignInRequest {
  readonly name: string;
  readonly password: string;
}
export interface AccountRequest extends SignInRequest {
  readonly fullName: string;
  readonly roles: readonly Role[];
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
  /** Go before an unfinished rollout of the same fabric, which then has to be proved again. Takes a reason. */
  readonly breakIn: boolean;
  readonly reason: string;
}
export type CatchUpRequest = Pick<RolloutRequest, 'stopLine' | 'undoSeconds'>;

export { fabricPatternSchema, modelSchema, poolSchema, rackPatternSchema };

/** Validates a request body by its schema. */
export const validateBody = (
  schema: AnySchema,
  body: unknown,
): { readonly value: unknown } | { readonly findings: Finding[] } => validate<unknown>(schema, body);
