/** A column as the filter knows it. */
export interface FilterColumn<T> {
  readonly id: string;
  readonly title: string;
  readonly text: (row: T) => string | number;
}

type Compare = ':' | '=' | '>' | '<';
/** One part of a typed filter: a word anywhere, or a comparison in one column; `not` turns it round. */
export interface FilterTerm {
  readonly not: boolean;
  /** Id of the column; null = anywhere. */
  readonly column: string | null;
  readonly compare: Compare;
  readonly word: string;
}

/** The words of a filter as typed, with their quotes; white space within quotes parts nothing. */
export function wordsOf(query: string): string[] {
  const out: string[] = [];
  let word = '';
  let quoted = false;
  for (const c of query) {
    if (c === '"') quoted = !quoted;
    if (!quoted && c.trim() === '') {
      if (word !== '') out.push(word);
      word = '';
    } else word += c;
  }
  if (word !== '') out.push(word);
  return out;
}

/** A word in its pieces: `-`, the name before the first sign, the sign, and what stands after it without quotes. */
function piecesOf(word: string): {
  readonly not: boolean;
  readonly name: string | null;
  readonly sign: Compare;
  readonly value: string;
} {
  const not = word.length > 1 && word.startsWith('-');
  const rest = not ? word.slice(1) : word;
  const bare = (text: string): string => text.replaceAll('"', '').toLowerCase();
  for (let i = 0; i < rest.length && rest[i] !== '"'; i++)
    if (i > 0 && SIGNS.has(rest[i]!))
      return { not, name: rest.slice(0, i), sign: rest[i] as Compare, value: bare(rest.slice(i + 1)) };
  return { not, name: null, sign: ':', value: bare(rest) };
}
const SIGNS: ReadonlySet<string> = new Set<Compare>([':', '=', '>', '<']);

const columnNamed = <T>(columns: readonly FilterColumn<T>[], name: string): FilterColumn<T> | undefined => {
  const wanted = name.toLowerCase();
  const short = (c: FilterColumn<T>): string => c.title.toLowerCase().replaceAll(' ', '-');
  return (
    columns.find((c) => c.id.toLowerCase() === wanted || short(c) === wanted) ??
    columns.find((c) => short(c).startsWith(wanted))
  );
};

/**
 * Reads what is typed into a filter: words that stand anywhere, `state:drifted` (contains), `port=p7` (is), `vlan>200`,
 * `-word` (is not there), "two words". A name before the sign that is no column makes it a plain word.
 */
export function readFilter<T>(query: string, columns: readonly FilterColumn<T>[]): FilterTerm[] {
  return wordsOf(query).flatMap((word): FilterTerm[] => {
    const { not, name, sign, value } = piecesOf(word);
    const column = name === null ? undefined : columnNamed(columns, name);
    if (name !== null && !column)
      return [{ not, column: null, compare: ':', word: `${name}${sign}${value}`.toLowerCase() }];
    return value === '' ? [] : [{ not, column: column?.id ?? null, compare: sign, word: value }];
  });
}

const holds = (value: string | number, compare: Compare, word: string): boolean => {
  const text = String(value).toLowerCase();
  switch (compare) {
    case ':':
      return text.includes(word);
    case '=':
      return text === word;
    default: {
      const [a, b] = [typeof value === 'number' ? value : Number.parseFloat(text), Number.parseFloat(word)];
      if (Number.isNaN(a) || Number.isNaN(b)) return false;
      return compare === '>' ? a > b : a < b;
    }
  }
};

/**
 * The rows that hold every term.
 * @param texts whole texts of rows: filled as they are made, so that they are made once, whatever is typed after
 */
export function filterRows<T>(
  rows: readonly T[],
  terms: readonly FilterTerm[],
  columns: readonly FilterColumn<T>[],
  texts = new Map<T, string>(),
): readonly T[] {
  if (terms.length === 0) return rows;
  const byId = new Map(columns.map((c) => [c.id, c]));
  const textOf = (row: T): string => {
    let text = texts.get(row);
    if (text === undefined) {
      text = columns
        .map((c) => String(c.text(row)))
        .join('\n')
        .toLowerCase();
      texts.set(row, text);
    }
    return text;
  };
  return rows.filter((row) =>
    terms.every(({ not, column, compare, word }) => {
      const found = column === null ? textOf(row).includes(word) : holds(byId.get(column)!.text(row), compare, word);
      return found !== not;
    }),
  );
}

/** What may stand in place of the last word that is being typed: names of columns, or values of the column that is named. */
export function completions<T>(
  query: string,
  rows: readonly T[],
  columns: readonly FilterColumn<T>[],
  most = 8,
): { readonly insert: string; readonly note: string }[] {
  const last = query === '' || query.at(-1)!.trim() === '' ? '' : (wordsOf(query).at(-1) ?? '');
  const head = query.slice(0, query.length - last.length);
  const { not, name, sign, value: started } = piecesOf(last);
  const minus = not ? '-' : '';
  const column = name === null ? undefined : columnNamed(columns, name);
  if (column && (sign === ':' || sign === '=')) {
    const seen = new Map<string, number>();
    for (const row of rows) {
      const text = String(column.text(row));
      if (text === '' || text.length > 40 || !text.toLowerCase().startsWith(started)) continue;
      seen.set(text, (seen.get(text) ?? 0) + 1);
      if (seen.size > 200) break;
    }
    return [...seen]
      .sort(([, a], [, b]) => b - a)
      .slice(0, most)
      .map(([text, n]) => ({
        insert: `${head}${minus}${name}${sign}${text.includes(' ') ? `"${text}"` : text} `,
        note: String(n),
      }));
  }
  if (started === '' || name !== null) return [];
  return columns
    .map((c) => ({ c, called: c.title.toLowerCase().replaceAll(' ', '-') }))
    .filter(({ called }) => called.startsWith(started) && called !== started)
    .slice(0, most)
    .map(({ c, called }) => ({ insert: `${head}${minus}${called}:`, note: c.title }));
}
