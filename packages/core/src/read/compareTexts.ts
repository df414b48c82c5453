import { configDifferences, sayBetween } from '../config/differences.ts';
import type { Place } from '../config/switchConfig.ts';
import type { ParsedConfig, UnreadLine } from '../dialects/dialect.ts';

/** One thing in which two texts differ, in meaning. */
export interface Between {
  readonly words: string;
  /** Each switch has its own: a name, or a value that is drawn for it. */
  readonly own: boolean;
}
/** What to call two texts: `revision 3`, `sk-lf-01`. */
export interface Sides {
  readonly left: string;
  readonly right: string;
}

/**
 * In what two texts differ, as sentences, in natural order of what they are about. Lines that are not understood stand at
 * the end: of what they mean nothing can be said but that only one side has them.
 * @param isOwn does each switch have its own of what stands there? Where one and the same switch is compared, of nothing
 */
export function compareTexts(
  left: ParsedConfig,
  right: ParsedConfig,
  sides: Sides,
  isOwn: (place: Place) => boolean = () => false,
): Between[] {
  const said = configDifferences(left.config, right.config).map((d): Between => {
    return { words: sayBetween(d, sides), own: isOwn(d.place) };
  });
  const [a, b] = [textsOf(left.unread), textsOf(right.unread)];
  const only = (these: ReadonlySet<string>, others: ReadonlySet<string>, side: string): Between[] =>
    [...these]
      .filter((t) => !others.has(t))
      .map((t) => ({ words: `${t}: only in ${side}, and not understood`, own: false }));
  return [...said, ...only(a, b, sides.left), ...only(b, a, sides.right)];
}

/** Lines of which it is not known what they mean; those that are known to do nothing are left out. */
const textsOf = (unread: readonly UnreadLine[]): ReadonlySet<string> =>
  new Set(unread.filter((u) => !u.harmless).map((u) => `“${u.text.trim()}” in ${u.file}`));
