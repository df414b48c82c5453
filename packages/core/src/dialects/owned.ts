import type { DocumentKind } from '../hardware/dialects.ts';
import type { ConfigFiles } from './documents.ts';

/** The lines around the part of a document that is ours, where not all of it is. */
export const regionMarks = (sign: string): { readonly begin: string; readonly end: string } => ({
  begin: `${sign} anthemion begin`,
  end: `${sign} anthemion end`,
});

/** A document in three: what stands before our part, our part, what stands after it. */
interface Parts {
  readonly before: string;
  /** Null = there is no part of ours in it yet. */
  readonly owned: string | null;
  readonly after: string;
}

/** Why the marks of a document cannot be relied on. */
export class MarksTrouble extends Error {}

function partsOf({ name, region, comment }: DocumentKind, text: string): Parts {
  if (!region) return { before: '', owned: text, after: '' };
  const marks = regionMarks(comment);
  const lines = text.split('\n');
  const at = (mark: string): number[] => lines.flatMap((line, i) => (line === mark ? [i] : []));
  const [begins, ends] = [at(marks.begin), at(marks.end)];
  const [begin, end] = [begins[0], ends[0]];
  if (begin === undefined && end === undefined) return { before: text, owned: null, after: '' };
  if (begin === undefined || end === undefined || begins.length + ends.length > 2 || end < begin)
    throw new MarksTrouble(
      `${name}: “${marks.begin}” and “${marks.end}” must stand there once each, in that order; somebody moved or removed one`,
    );
  const joined = (some: readonly string[]): string => some.map((line) => `${line}\n`).join('');
  return {
    before: joined(lines.slice(0, begin)),
    owned: joined(lines.slice(begin + 1, end)),
    after: lines.slice(end + 1).join('\n'),
  };
}

/** What is ours of a document as it lies on a switch. Throws MarksTrouble where its marks are damaged. */
export const ownedOf = (kind: DocumentKind, text: string): string => partsOf(kind, text).owned ?? '';

/**
 * A document with our part put into it: in the place of the one that is there, else at the end. All else stays byte for
 * byte, but for the line feed that a last line without one gets. The apply helper does the same on a switch.
 */
export function withOwned(kind: DocumentKind, text: string, owned: string): string {
  const { before, after } = partsOf(kind, text);
  if (!kind.region) return owned;
  const { begin, end } = regionMarks(kind.comment);
  const onOwnLines = (some: string): string => (some === '' || some.endsWith('\n') ? some : `${some}\n`);
  return `${onOwnLines(before)}${begin}\n${onOwnLines(owned)}${end}\n${after}`;
}

/**
 * Texts as a switch is said to have them: an optional document of which nothing is there is none.
 * @param textOf what is ours of a document, by its name
 */
export const filesFrom = (documents: readonly DocumentKind[], textOf: (kind: DocumentKind) => string): ConfigFiles =>
  Object.fromEntries(
    documents.flatMap((kind) => {
      const text = textOf(kind);
      return text === '' && kind.optional ? [] : [[kind.name, text]];
    }),
  );
