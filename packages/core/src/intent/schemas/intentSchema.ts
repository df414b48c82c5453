import { array, mixed, string } from 'yup';
import {
  networkSchema,
  poolRolesSchema,
  rackSchema,
  seatSchema,
  secretRefSchema,
  serialText,
  serverPortSchema,
  snippetSchema,
  vrfSchema,
} from './objects.ts';
import { everySettingSchema, modelSchema, rackPatternSchema, upperTiersFields } from './parts.ts';
import { closed, shortName, whole } from './words.ts';

/** The whole intent of a fabric. */
export const intentSchema = closed({
  name: shortName('The fabric name', 20),
  namePrefix: shortName('The name prefix', 8),
  pattern: string().defined(),
  settings: everySettingSchema,
  spines: closed({ count: whole('The number of spines', 0, 64).required(), model: string().defined() }),
  ...upperTiersFields,
  models: array(modelSchema).required(),
  rackPatterns: array(rackPatternSchema).required(),
  pools: poolRolesSchema,
  racks: array(rackSchema).required(),
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
  vrfs: array(vrfSchema).required(),
  networks: array(networkSchema).required(),
  ports: array(serverPortSchema).required(),
  snippets: array(snippetSchema).required(),
  secrets: array(secretRefSchema).default([]),
});
