/** A spreadsheet runs a cell that begins so as a formula. */
const FORMULA = /^[\t\r ]*[=+\-@|%]/;

/** A cell of a CSV file (RFC 4180); a text that would be run as a formula is kept from it by an apostrophe before it. */
export function csvCell(value: string | number): string {
  if (typeof value === 'number') return String(value);
  const text = FORMULA.test(value) ? `'${value}` : value;
  return /[",\n\r']/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
}

export const csvOf = (rows: readonly (readonly (string | number)[])[]): string =>
  rows.map((r) => `${r.map(csvCell).join(',')}\n`).join('');
