/**
 * Schemes are texts with words in braces, which stand for something of what they name or describe.
 * @param form finds the braces, with what is in them as the group `word`
 */
export const wordsIn = (scheme: string, form: RegExp): string[] =>
  [...scheme.matchAll(form)].map((m) => m.groups!['word']!);

/** A word of a scheme that is none of those that are known; empty = a brace stands alone; null = there is nothing strange in it. */
export function strangeIn(scheme: string, form: RegExp, known: readonly string[]): string | null {
  const strange = wordsIn(scheme, form).find((word) => !known.includes(word));
  return strange ?? (/[{}]/.test(scheme.replace(form, '')) ? '' : null);
}
/** Words as they are written in a scheme: `{far}, {port}`. */
export const braced = (words: readonly string[]): string => words.map((w) => `{${w}}`).join(', ');
