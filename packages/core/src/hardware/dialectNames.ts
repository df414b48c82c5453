/** Dialects that switch models name. */
export const DIALECT_NAMES = ['linux'] as const;
export type DialectName = (typeof DIALECT_NAMES)[number];
