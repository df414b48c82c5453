import {
  demandsOf,
  drawValues,
  holdingsOf,
  layOut,
  pastedInto,
  readIntentFile,
  tableCells,
  TABLES,
  applyEdits,
  writeIntentFile,
  type IntentFile,
  type Table,
  type TableName,
} from '@anthemion/core';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import Papa from 'papaparse';
import { findingText, readArguments, refuse } from './usage.ts';

const NAMES = Object.keys(TABLES) as TableName[];
// Each table is used with rows of its own kind only.
const tableOf = (name: TableName): Table<never> => TABLES[name] as unknown as Table<never>;

function valuesOf({ fabric, pools, ledger }: IntentFile): Record<string, string> {
  const owner = { fabric: fabric.name, change: null };
  const demands = demandsOf(fabric, layOut(fabric));
  return Object.fromEntries(drawValues(demands, pools, holdingsOf(ledger, owner), owner).values);
}

/**
 * `table INTENT.yaml racks|seats|vrfs|networks|ports [--take CSV [--out FILE]]`: the objects of a kind as CSV; or a CSV of
 * them taken into the intent, line by line: all of it, or nothing and the lines that cannot be.
 */
export function tableCommand(args: readonly string[]): number {
  const options = readArguments(args, ['--take', '--out'], []);
  if ('error' in options) return refuse(options.error);
  const [file, name, ...more] = options.words;
  if (file === undefined || name === undefined || more.length > 0)
    return refuse(`table wants INTENT.yaml and one of ${NAMES.join(', ')}`);
  if (!NAMES.includes(name as TableName)) return refuse(`there is no table ${name}; there are ${NAMES.join(', ')}`);
  const table = tableOf(name as TableName);
  const { '--take': taken, '--out': out } = options.values;
  for (const path of [file, taken])
    if (path !== undefined && !existsSync(path)) return refuse(`there is no file ${path}`);
  const read = readIntentFile(readFileSync(file, 'utf8'));
  if ('findings' in read) {
    for (const f of read.findings) process.stderr.write(findingText(f, file));
    return 2;
  }
  const { fabric } = read.file;
  const values = valuesOf(read.file);
  if (taken === undefined) {
    process.stdout.write(`${Papa.unparse(tableCells(table, fabric, values), { newline: '\n' })}\n`);
    return 0;
  }
  const cells = Papa.parse<string[]>(readFileSync(taken, 'utf8').trim(), { skipEmptyLines: true }).data;
  const { lines, unknown } = pastedInto(table, fabric, values, cells);
  for (const heading of unknown) process.stderr.write(`${taken}:1: there is no column ${heading}; it is left aside\n`);
  const bad = lines.filter((l) => l.findings.length > 0);
  for (const line of bad)
    for (const f of line.findings) process.stderr.write(findingText({ ...f, line: line.line, path: '' }, taken));
  if (bad.length > 0) return 1;
  const made = lines.filter((l) => l.edits.length > 0);
  for (const line of made) process.stderr.write(`${line.sentence}\n`);
  const { intent } = applyEdits(
    fabric,
    made.flatMap((l) => l.edits),
  );
  const text = writeIntentFile({ ...read.file, fabric: intent });
  if (out === undefined) process.stdout.write(text);
  else writeFileSync(out, text);
  return 0;
}
