import { DIALECT_NAMES, type DialectName } from '../hardware/dialects.ts';
import type { SwitchModel } from '../hardware/switchModel.ts';
import type { Dialect } from './dialect.ts';
import type { ConfigFiles } from './documents.ts';
import { linux } from './linux/linux.ts';

/** Every dialect there is, by the name switch models use. */
const DIALECTS: Readonly<Record<DialectName, Dialect>> = { linux };

export const ALL_DIALECTS: readonly Dialect[] = Object.values(DIALECTS);

/** A dialect, and whether it was tried with the software that runs. */
export interface ChosenDialect {
  readonly dialect: Dialect;
  /** False = the switch runs a version it was never tried with: it is read, and written to only when somebody accepts that. */
  readonly tried: boolean;
}

/**
 * The dialect of a switch. The only way to one.
 * @param model of the switch; a model that is not known any more is spoken to in the first dialect
 * @param version of its software, as it says it; null = not read yet, which is taken for one that was tried
 */
export function dialectOf(
  model: Pick<SwitchModel, 'dialect'> | undefined,
  version: string | null = null,
): ChosenDialect {
  const dialect = DIALECTS[model?.dialect ?? DIALECT_NAMES[0]];
  return { dialect, tried: version === null || dialect.triedWith(version) };
}

/** The dialect that documents of these names are written in, where nothing else is known of a switch; null = none. */
export const dialectWriting = (files: ConfigFiles): Dialect | null =>
  ALL_DIALECTS.find((d) =>
    Object.keys(files).every((f) => d.reads.includes(f) || d.documents.some((doc) => doc.name === f)),
  ) ?? null;
