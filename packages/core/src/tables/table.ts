import type { Finding } from '../finding.ts';
import { collectionOf, objectOf, type ItemOfKind } from '../intent/collections/index.ts';
import { applyEdit, describeEdit, schemaOfEdit, type Edit } from '../intent/edits/index.ts';
import { makingOf, type MadeKind } from '../intent/edits/making.ts';
import type { FabricIntent } from '../intent/intent.ts';
import { validate } from '../intent/schemas/validate.ts';
import { sameContent } from '../numbers/content.ts';

/** What a fabric has drawn, by value key; null = it is not at hand, and what is drawn is written so. */
export type DrawnValues = Readonly<Record<string, string>> | null;

/** A column of a table of objects. */
export interface Column<Item> {
  /** Its value in a row that was read. */
  readonly id: string;
  /** As it stands in the heading. */
  readonly title: string;
  /** What a heading may call it as well, in lower case. */
  readonly called: readonly string[];
  /** Empty = the object says nothing of it. */
  readonly text: (item: Item, key: string) => string;
  /** What holds where the object says nothing: a default, a drawn value. A cell that says just this says nothing. */
  readonly implied?: (item: Item, intent: FabricIntent, values: DrawnValues) => string | undefined;
  /** A cell as a value; null = it is not written so. */
  readonly read: (text: string) => unknown;
  readonly form?: string;
}

/** Cells of one row by column; an empty cell is not there. */
export type Row = Readonly<Record<string, unknown>>;
/** Of some words of an object those that a row says, and those that hold already where it does not. */
export const keptWhereUnsaid = <Item, K extends keyof Item & string>(
  row: Row,
  known: Item | undefined,
  words: readonly K[],
): Pick<Item, K> =>
  Object.fromEntries(
    words.map((k) => [k, k in row ? row[k] : known?.[k]]).filter(([, v]) => v !== undefined && v !== false),
  ) as unknown as Pick<Item, K>;
/** What a row asks for. */
export interface Wanted<Item> {
  readonly key: string;
  /** Null = the object is to go. */
  readonly item: Item | null;
}

export type RowReader<K extends MadeKind> = (row: Row, now: FabricIntent) => Wanted<ItemOfKind<K>> | string;

/** Objects of one kind as a table, out and in. One file each; listed in `index.ts`. */
export interface Table<K extends MadeKind> {
  readonly kind: K;
  /** What the rows are, where not the objects themselves (seats that are empty have a row too). */
  readonly rows?: (intent: FabricIntent) => Iterable<readonly [key: string, item: ItemOfKind<K>]>;
  /** The first one names the row. */
  readonly columns: readonly Column<ItemOfKind<K>>[];
  /**
   * Reads rows on an intent: the object each asks for, on the intent as the rows above have left it; or a sentence with what
   * to write instead.
   */
  readonly reader: (before: FabricIntent) => RowReader<K>;
}

/** A table of a kind as cells, its heading first, in the order of the document. */
export function tableCells<K extends MadeKind>(
  table: Table<K>,
  intent: FabricIntent,
  values: DrawnValues = null,
): string[][] {
  const rows = (table.rows?.(intent) ?? collectionOf(table.kind).items(intent)) as Iterable<
    readonly [string, ItemOfKind<K>]
  >;
  return [
    table.columns.map((c) => c.title),
    ...[...rows].map(([key, item]) =>
      table.columns.map((c) => c.text(item, key) || (c.implied?.(item, intent, values) ?? '')),
    ),
  ];
}

/** What one line that was pasted asks for, or why it cannot be. */
export interface PastedLine {
  /** As a spreadsheet counts, its heading included. */
  readonly line: number;
  /** Empty = it is so already, or it cannot be. */
  readonly edits: readonly Edit[];
  readonly sentence: string;
  readonly findings: readonly Finding[];
}
export interface PastedEdits {
  readonly lines: readonly PastedLine[];
  /** Headings that mean nothing here; their columns are left aside. */
  readonly unknown: readonly string[];
}

/** The edits that make an object what is wanted; none where it is so already. */
function editsFor<K extends MadeKind>(kind: K, now: FabricIntent, { key, item }: Wanted<ItemOfKind<K>>): Edit[] {
  const { add, change, remove } = makingOf(kind);
  const was = objectOf(now, kind, key) as unknown;
  if (was === undefined) return item === null ? [] : [add(item, key)];
  if (item === null) return [remove(key, was)];
  if (sameContent(was, item)) return [];
  const changed = change(item, was);
  return changed ? [changed] : [remove(key, was), add(item, key)];
}

/** The cells of one line by column, or the sentence that says which one cannot be read. */
function readRow(
  order: readonly (Column<never> | undefined)[],
  cells: readonly string[],
): { readonly row: Row } | { readonly sentence: string } {
  const row: Record<string, unknown> = {};
  for (const [at, cell] of cells.entries()) {
    const column = order[at];
    const text = cell.trim();
    if (!column || text === '') continue;
    const value = column.read(text);
    if (value === null)
      return { sentence: `“${text}” cannot be read as ${column.title}. ${column.form ?? ''}`.trimEnd() };
    if (value !== undefined) row[column.id] = value;
  }
  return { row };
}

/** A row without the cells that only say what holds anyway, so that a table that was exported changes nothing. */
function withoutImplied<K extends MadeKind>(
  table: Table<K>,
  wantedBy: RowReader<K>,
  row: Row,
  cells: ReadonlyMap<string, string>,
  now: FabricIntent,
  values: DrawnValues,
): Row {
  const wanted = wantedBy(row, now);
  if (typeof wanted === 'string') return row;
  const known = objectOf(now, table.kind, wanted.key);
  if (known === undefined) return row;
  const says = (c: Column<ItemOfKind<K>>): boolean =>
    c.text(known, wanted.key) !== '' || c.implied?.(known, now, values) !== cells.get(c.id);
  const silent = new Set(table.columns.filter((c) => c.implied && !says(c)).map((c) => c.id));
  return silent.size === 0 ? row : Object.fromEntries(Object.entries(row).filter(([id]) => !silent.has(id)));
}

/**
 * Cells of a spreadsheet as edits, line by line, each judged as if those above it were made. The first line is a heading
 * where its first cell is the name of the first column; without one, columns stand in the order of the table. An empty cell
 * says nothing.
 */
export function pastedInto<K extends MadeKind>(
  table: Table<K>,
  before: FabricIntent,
  values: DrawnValues,
  cells: readonly (readonly string[])[],
): PastedEdits {
  const isCalled = (c: Column<ItemOfKind<K>>, word: string): boolean =>
    [c.title.toLowerCase(), ...c.called].includes(word.trim().toLowerCase());
  const heading = cells[0] ?? [];
  const headed = isCalled(table.columns[0]!, heading[0] ?? '');
  const order = headed ? heading.map((word) => table.columns.find((c) => isCalled(c, word))) : table.columns;
  const wantedBy = table.reader(before);
  let intent = before;
  const lines = cells.slice(headed ? 1 : 0).map((line, i): PastedLine => {
    const number = i + (headed ? 2 : 1);
    const asPasted = line.filter((c) => c.trim() !== '').join(', ');
    const refused = (findings: readonly Finding[]): PastedLine => ({
      line: number,
      edits: [],
      sentence: asPasted,
      findings,
    });
    const say = (message: string): PastedLine =>
      refused([{ rule: 'pasted', severity: 'error', path: `/${number}`, message }]);
    const read = readRow(order, line);
    if ('sentence' in read) return say(read.sentence);
    const texts = new Map(line.flatMap((cell, at) => (order[at] ? [[order[at].id, cell.trim()] as const] : [])));
    const wanted = wantedBy(withoutImplied(table, wantedBy, read.row, texts, intent, values), intent);
    if (typeof wanted === 'string') return say(wanted);
    const made = editsFor(table.kind, intent, wanted);
    let next = intent;
    for (const edit of made) {
      const sound = validate<Edit>(schemaOfEdit(edit.kind), edit);
      if ('findings' in sound) return refused(sound.findings);
      const applied = applyEdit(next, edit);
      if (applied.findings.length > 0) return refused(applied.findings);
      next = applied.intent;
    }
    const first = made[0];
    const sentence = first ? describeEdit(made.at(-1)!, made.length > 1 ? null : intent) : `${asPasted}: is so already`;
    intent = next;
    return { line: number, edits: made, sentence, findings: [] };
  });
  const unknown = headed ? heading.filter((word, at) => word.trim() !== '' && !order[at]) : [];
  return { lines, unknown };
}

/** Columns from the fields of a collection, with what a table adds to them. */
export function columnsOf<K extends MadeKind>(
  kind: K,
  more: Readonly<
    Record<
      string,
      { readonly title?: string; readonly called?: readonly string[] } & Partial<
        Pick<Column<ItemOfKind<K>>, 'implied' | 'read' | 'text'>
      >
    >
  >,
): Column<ItemOfKind<K>>[] {
  const fields = collectionOf(kind).fields;
  return Object.entries(more).map(([key, { title, called, ...rest }]) => {
    const field = fields.find((f) => f.key === key)!;
    return {
      id: key,
      title: title ?? field.label,
      called: [key, ...(called ?? [])].map((word) => word.toLowerCase()),
      text: field.text as (item: ItemOfKind<K>) => string,
      read: field.read ?? ((text: string) => text),
      ...(field.form === undefined ? {} : { form: field.form }),
      ...rest,
    };
  });
}
