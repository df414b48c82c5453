import Papa from 'papaparse';

/** A spreadsheet runs a cell that begins so as a formula. */
const FORMULA = /^[\t\r ]*[=+\-@|%]/;

/** Rows as a CSV file (RFC 4180); a text that would be run as a formula is kept from it by an apostrophe before it. */
export const csvOf = (rows: readonly (readonly (string | number)[])[]): string =>
  `${Papa.unparse(rows as (string | number)[][], { newline: '\n', escapeFormulae: FORMULA })}\n`;

/** Rows as the text of a list that is read back here, by us: every cell as it is. */
export const listText = (rows: readonly (readonly string[])[]): string =>
  `${Papa.unparse(rows as string[][], { newline: '\n' })}\n`;

/** Cells that were copied in a spreadsheet, or a piece of CSV; empty = it is one cell only, which is pasted as text. */
export function pastedCells(text: string): string[][] {
  const { data } = Papa.parse<string[]>(text.trim(), {
    delimiter: text.includes('\t') ? '\t' : ',',
    skipEmptyLines: true,
  });
  const cells = data.map((row) => row.map((c) => c.trim()));
  return cells.length > 1 || (cells[0]?.length ?? 0) > 1 ? cells : [];
}

/** Has the browser save a text as a file. */
export function saveCsv(name: string, text: string): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(new Blob([text], { type: 'text/csv' }));
  link.download = `${name}.csv`;
  link.click();
  URL.revokeObjectURL(link.href);
}
