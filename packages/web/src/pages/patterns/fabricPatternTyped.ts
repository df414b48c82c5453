import {
  DEFAULT_SETTINGS,
  shapeOf,
  upperTiersOf,
  type FabricPattern,
  type FabricSettings,
  type RackPattern,
} from '@anthemion/core';

/** A fabric pattern as its form holds it: a count for every rack pattern there is, and the choices with their defaults. */
export type TypedPattern = Omit<FabricPattern, 'racks' | 'settings'> & {
  readonly racks: readonly { readonly pattern: string; readonly count: number | undefined }[];
  readonly settings: Partial<FabricSettings>;
};

/** What the form begins with. */
export function typedOf(pattern: FabricPattern, rackPatterns: readonly RackPattern[]): TypedPattern {
  const names = [...new Set([...rackPatterns.map((r) => r.name), ...pattern.racks.map((r) => r.pattern)])];
  const { underlay, asnScheme, vniRule, bfd } = DEFAULT_SETTINGS;
  return {
    ...pattern,
    shape: shapeOf(pattern),
    racks: names.map((name) => ({ pattern: name, count: pattern.racks.find((r) => r.pattern === name)?.count ?? 0 })),
    settings: { underlay, asnScheme, vniRule, bfd, ...pattern.settings },
  };
}

/** What is sent: racks that are wanted, settings that are not the default. */
export function patternOf({ racks, settings, name, description, ...tiers }: TypedPattern): FabricPattern {
  return {
    name,
    description,
    ...upperTiersOf(tiers),
    racks: racks.flatMap(({ pattern, count }) => (count === undefined || count === 0 ? [] : [{ pattern, count }])),
    settings: Object.fromEntries(
      Object.entries(settings).filter(([k, v]) => v !== undefined && v !== DEFAULT_SETTINGS[k as keyof FabricSettings]),
    ),
  };
}
