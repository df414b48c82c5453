/** A page of a list, and the mark at which the next one begins; null = that was the last. */
export interface Page<T> {
  readonly items: T[];
  readonly next: string | null;
}
export interface PageAsked {
  readonly limit: number;
  /** Mark of the page before; null = from the start. */
  readonly after: string | null;
}

/** Fabrics that may be seen; null = all. */
export type Sight = readonly string[] | null;

export const FIRST_PAGE: PageAsked = { limit: 200, after: null };

/** Makes a page of rows that were asked for with `limit + 1`. */
export function pageOf<R, T>(
  rows: readonly R[],
  asked: PageAsked,
  mark: (row: R) => string,
  item: (row: R) => T,
): Page<T> {
  const shown = rows.slice(0, asked.limit);
  const last = shown.at(-1);
  return { items: shown.map(item), next: rows.length > asked.limit && last !== undefined ? mark(last) : null };
}

/** A mark made of two values, for lists sorted by time. */
export const markOf = (first: string, second: string): string =>
  Buffer.from(`${first}\n${second}`).toString('base64url');
export function readMark(mark: string | null): readonly [string, string] | null {
  if (mark === null) return null;
  const [first, second] = Buffer.from(mark, 'base64url').toString('utf8').split('\n');
  return first !== undefined && second !== undefined ? [first, second] : null;
}
