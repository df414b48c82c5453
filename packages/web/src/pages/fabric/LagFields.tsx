import { LAG_FORM, lagText, outsideSchema, readLag, type OutsideCable, type OutsideLink } from '@anthemion/core';
import { useWatch } from 'react-hook-form';
import { boolean, string, type AnyObject, type AnySchema, type ObjectSchema } from 'yup';
import { mayBeEmpty, TextField, TickField, type NotTaken } from '../../parts/Form.tsx';
import { DRIVE_FIELDS } from './DriveFields.tsx';

/** The further cables of a link, as a form holds them. */
export interface TypedLag {
  readonly isLag: boolean;
  /** As people write them; empty = there is none yet. */
  readonly lag: string;
}
export const NO_LAG: TypedLag = { isLag: false, lag: '' };
export const typedLag = ({ lag }: Pick<OutsideLink, 'lag'>): TypedLag =>
  lag === undefined ? NO_LAG : { isLag: true, lag: lag.length === 0 ? '' : lagText(lag) };
const cablesIn = (text: string): OutsideCable[] | null => (text.trim() === '' ? [] : readLag(text));
export const lagSaid = ({ isLag, lag }: TypedLag): Pick<OutsideLink, 'lag'> =>
  isLag ? { lag: cablesIn(lag) ?? [] } : {};

/** The contract’s schema of an outside link, with its cables as they are typed. */
export const LINK_SCHEMA: AnySchema = (
  mayBeEmpty(outsideSchema, 'to', ...DRIVE_FIELDS) as unknown as ObjectSchema<AnyObject>
).shape({
  isLag: boolean(),
  lag: string().when('isLag', ([isLag], schema) =>
    isLag ? schema.test('cables', LAG_FORM, (text) => cablesIn(text ?? '') !== null) : schema,
  ),
}) as unknown as AnySchema;

/** What is wrong with one of the cables is said where they are typed. */
export const atLag = (no: NotTaken): NotTaken => ({
  ...no,
  findings: no.findings.map((f) => (f.path ? { ...f, path: f.path.replace(/(\/link\/lag)\/.*$/, '$1') } : f)),
});

/** Whether a link is a LAG, and which cables it has beside its first. */
export function LagFields() {
  const isLag = useWatch<TypedLag>({ name: 'isLag' });
  return (
    <>
      <TickField name="isLag" label="LAG (LACP)" />
      {isLag && (
        <TextField
          name="lag"
          label="Further cables"
          placeholder="p47 eth2, p48 eth3"
          hint="Port and far port of each; empty while there is only the first."
          code
        />
      )}
    </>
  );
}
