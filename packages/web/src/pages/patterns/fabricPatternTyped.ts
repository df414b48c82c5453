import {
  DEFAULT_SETTINGS,
  fabricPatternSchema,
  managementSchema,
  shapeOf,
  upperTiersOf,
  type FabricPattern,
  type FabricSettings,
  type RackPattern,
  type TierSwitches,
} from '@anthemion/core';
import type { AnyObject, AnySchema, ObjectSchema } from 'yup';
import { managementOf } from './TierFields.tsx';

/** A fabric pattern as its form holds it: a count for every rack pattern there is, and the choices with their defaults. */
export type TypedPattern = Omit<FabricPattern, 'racks' | 'settings'> & {
  readonly racks: readonly { readonly pattern: string; readonly count: number | undefined }[];
  readonly settings: Partial<FabricSettings>;
};

/** The contract’s schema, for what the form holds: of a management network that is not planned both words are empty. */
export const TYPED_PATTERN = (fabricPatternSchema as ObjectSchema<AnyObject>).shape({
  management: (managementSchema as ObjectSchema<AnyObject>)
    .transform((said: TypedPattern['management']) => managementOf(said))
    .default(undefined)
    .optional(),
}) as AnySchema;

/** What the form begins with. */
export function typedOf(pattern: FabricPattern, rackPatterns: readonly RackPattern[]): TypedPattern {
  const names = [...new Set([...rackPatterns.map((r) => r.name), ...pattern.racks.map((r) => r.pattern)])];
  const { underlay, underlayFamilies, asnScheme, vniRule, linkFec, bfd, restart } = DEFAULT_SETTINGS;
  return {
    ...pattern,
    spines: { others: [], breakouts: [], ...pattern.spines },
    ...(pattern.superSpines ? { superSpines: { others: [], breakouts: [], ...pattern.superSpines } } : {}),
    management: pattern.management ?? { port: '', ports: '' },
    shape: shapeOf(pattern),
    racks: names.map((name) => ({ pattern: name, count: pattern.racks.find((r) => r.pattern === name)?.count ?? 0 })),
    settings: { underlay, underlayFamilies, asnScheme, vniRule, linkFec, bfd, restart, ...pattern.settings },
  };
}

/** A tier without lists that are empty; a text that could not be read stays, for the schema to say so. */
function plain({ others, breakouts, ...tier }: TierSwitches): TierSwitches {
  return {
    ...tier,
    ...(others === undefined || others.length === 0 ? {} : { others }),
    ...(breakouts === undefined || breakouts.length === 0 ? {} : { breakouts }),
  };
}

/** What is sent: racks that are wanted, settings that are not the default. */
export function patternOf({ racks, settings, name, description, management, ...tiers }: TypedPattern): FabricPattern {
  const managed = managementOf(management);
  return {
    name,
    description,
    ...upperTiersOf({
      ...tiers,
      spines: plain(tiers.spines),
      ...(tiers.superSpines ? { superSpines: plain(tiers.superSpines) } : {}),
      ...(managed ? { management: managed } : {}),
    }),
    racks: racks.flatMap(({ pattern, count }) => (count === undefined || count === 0 ? [] : [{ pattern, count }])),
    settings: Object.fromEntries(
      Object.entries(settings).filter(
        ([k, v]) => v !== undefined && v !== '' && v !== DEFAULT_SETTINGS[k as keyof FabricSettings],
      ),
    ),
  };
}
