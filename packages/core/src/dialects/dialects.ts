import { DIALECT_NAMES, type DialectName } from '../hardware/dialects.ts';
import type { SwitchModel } from '../hardware/switchModel.ts';
import { portNames, type PortNames } from '../hardware/portNames.ts';
import type { Dialect, ParsedConfig } from './dialect.ts';
import type { ConfigFiles } from './documents.ts';
import { linux } from './linux/linux.ts';
import { renamePlace, renamePorts } from './renamePorts.ts';

/** Every dialect there is, by the name switch models use. */
const DIALECTS: Readonly<Record<DialectName, Dialect>> = { linux };

export const ALL_DIALECTS: readonly Dialect[] = Object.values(DIALECTS);

/** A dialect, and whether it was tried with the software that runs. */
export interface ChosenDialect {
  readonly dialect: Dialect;
  /** False = the switch runs a version it was never tried with: it is read, and written to only when somebody accepts that. */
  readonly tried: boolean;
}

/** A dialect that writes and reads the ports of a model by what its switches call them; all else goes by their labels. */
function speakingOf(plain: Dialect, ports: PortNames): Dialect {
  const { nameOf, labelOf } = ports;
  /** What was read by the names that switches have, for what was made of it. */
  const asNamed = new WeakMap<ParsedConfig, ParsedConfig>();
  return {
    ...plain,
    ports,
    render: (config, snippets, secrets) => plain.render(renamePorts(config, nameOf), snippets, secrets),
    parse: (files, record, last) => {
      const named = plain.parse(
        files,
        record && ((place, file, line) => record(renamePlace(place, labelOf), file, line)),
        last && (asNamed.get(last) ?? null),
      );
      const { config, unread } = named;
      const doubted = unread.map((u) => (u.doubts ? { ...u, doubts: renamePlace(u.doubts, labelOf) } : u));
      const labelled = { config: renamePorts(config, labelOf), unread: doubted };
      if (last !== undefined) asNamed.set(labelled, named);
      return labelled;
    },
  };
}

type SpokenTo = Pick<SwitchModel, 'dialect' | 'blocks'>;
const MOST_NAMINGS = 200;
/** One for all models that name their ports alike. */
const speaking = new Map<string, Dialect>();
function dialectFor(model: SpokenTo): Dialect {
  const [plain, ports] = [DIALECTS[model.dialect], portNames(model)];
  if (ports.key === '') return plain;
  const known = speaking.get(ports.key);
  if (known) return known;
  const made = speakingOf(plain, ports);
  if (speaking.size >= MOST_NAMINGS) speaking.clear();
  speaking.set(ports.key, made);
  return made;
}

/**
 * The dialect of a switch. The only way to one.
 * @param model of the switch; a model that is not known any more is spoken to in the first dialect
 * @param version of its software, as it says it; null = not read yet, which is taken for one that was tried
 */
export function dialectOf(model: SpokenTo | undefined, version: string | null = null): ChosenDialect {
  const dialect = model ? dialectFor(model) : DIALECTS[DIALECT_NAMES[0]];
  return { dialect, tried: version === null || dialect.triedWith(version) };
}

/** The dialect that documents of these names are written in, where nothing else is known of a switch; null = none. */
export const dialectWriting = (files: ConfigFiles): Dialect | null =>
  ALL_DIALECTS.find((d) =>
    Object.keys(files).every((f) => d.reads.includes(f) || d.documents.some((doc) => doc.name === f)),
  ) ?? null;

/** The dialect of each seat, by the model it is for. */
export function seatDialects(models: readonly SwitchModel[]): (seat: { readonly model: string }) => Dialect {
  const byName = new Map(models.map((m) => [m.name, m]));
  return ({ model }) => dialectOf(byName.get(model)).dialect;
}
