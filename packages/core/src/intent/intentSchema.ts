import { array, mixed, string, type AnySchema } from 'yup';
import { ALL_COLLECTIONS } from './collections/index.ts';
import { everyPoolRoleSchema, seatSchema, serialText } from './schemas/objects.ts';
import { everySettingSchema, tierFields, upperTiersFields } from './schemas/parts.ts';
import { closed, shortName } from './schemas/words.ts';

/** The lists an intent holds, by the table of collections. */
const lists: Readonly<Record<string, AnySchema>> = Object.fromEntries(
  ALL_COLLECTIONS.filter((c) => c.kept === 'list').map(({ part, schema, lately }) => [
    part,
    lately ? array(schema).default([]) : array(schema).required(),
  ]),
);

/** The whole intent of a fabric. */
export const intentSchema = closed({
  name: shortName('The fabric name', 20),
  namePrefix: shortName('The name prefix', 8),
  pattern: string().defined(),
  settings: everySettingSchema,
  spines: closed(tierFields('spines', 'spine')),
  ...upperTiersFields,
  pools: everyPoolRoleSchema,
  seating: mixed<Record<string, string>>()
    .test(
      'seating',
      'seating is a list of seat: serial',
      (v) =>
        typeof v === 'object' &&
        v !== null &&
        Object.entries(v).every(([k, s]) => seatSchema.isValidSync(k) && serialText.isValidSync(s)),
    )
    .required(),
  ...lists,
});
