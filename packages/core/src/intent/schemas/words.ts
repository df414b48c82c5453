import { number, object, string } from 'yup';
import { expandPorts } from '../../numbers/ports.ts';
import { hostPrefix, parseAnyCidr } from '../../numbers/prefix.ts';

/** What fields of documents are made of. */

/** Is it a day as in `2026-12-31`? */
export const isDay = (text: string): boolean => {
  const time = /^\d{4}-\d\d-\d\d$/.test(text) ? Date.parse(`${text}T00:00:00Z`) : NaN;
  return !Number.isNaN(time) && new Date(time).toISOString().startsWith(text);
};

export const shortName = (what: string, max = 31) =>
  string()
    .matches(/^[a-z][a-z0-9-]*$/, `${what} starts with a lower-case letter and holds letters, digits and hyphens`)
    .max(max, `${what} has at most ${max} characters`)
    .required(`${what} is missing`);
export const partName = (what: string) =>
  string()
    .matches(/^[A-Za-z0-9][\w.-]*$/, `${what} holds letters, digits, dots and hyphens`)
    .max(40, `${what} has at most 40 characters`)
    .required(`${what} is missing`);
/** The name of something else of the fabric, where one may be said. */
export const namedThing = (message: string, max = 31) =>
  string()
    .matches(/^[a-z][a-z0-9-]*$/, message)
    .max(max);
/** A prefix of either family as it is written, host bits or not. */
export const prefixText = () =>
  string()
    .max(45)
    .test(
      'prefix',
      'a prefix is written 198.51.100.0/24 or 2001:db8::/48',
      (v) => v === undefined || parseAnyCidr(v) !== null,
    );
/** An address of either family. */
export const addressText = (message: string) =>
  string()
    .max(45)
    .test('address', message, (v) => v === undefined || hostPrefix(v) !== null);
/** Text that ends up in configuration lines: one line, no comment marks, no surprises. */
export const lineText = (what: string, max = 60) =>
  string()
    .matches(/^[\p{L}\p{N} .,_:/@()&+-]*$/u, `${what} holds letters, digits, spaces and . , _ : / @ & ( ) + -`)
    .max(max, `${what} has at most ${max} characters`);
export const whole = (what: string, from: number, to: number) =>
  number()
    .typeError(`${what} is a number`)
    .integer(`${what} is a whole number`)
    .min(from, `${what} is ${from} or more`)
    .max(to, `${what} is ${to} or less`);
export const portRange = (what: string) =>
  string()
    .test(
      'ports',
      `${what} are written p1-p48, p1-p4,p9, e1/1-e1/48 or p49s1-p50s4`,
      (v) => !v || expandPorts(v) !== null,
    )
    .max(200, `${what} have at most 200 characters`);
export const closed = <T extends Parameters<typeof object>[0]>(fields: T) =>
  object(fields).noUnknown(true, ({ unknown }) => `there is no field ${String(unknown).slice(0, 100)}`);
