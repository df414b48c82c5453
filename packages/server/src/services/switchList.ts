import { problem, serialText, type Finding, type SwitchModel } from '@anthemion/core';
import Papa from 'papaparse';
import { isIP } from 'node:net';
import type { SwitchLine } from '../store/switches.ts';

/** Columns of the switch list that may be imported. */
export const SWITCH_COLUMNS = ['serial', 'model', 'address', 'port', 'location', 'account', 'hostkey'] as const;
const OPTIONAL_FROM = 3;

/** Why a text cannot be a management address, or null. */
export const addressTrouble = (text: string): string | null =>
  isIP(text) === 0 && (text.length > 253 || !/^[A-Za-z0-9][A-Za-z0-9.-]*$/.test(text))
    ? `“${text.slice(0, 60)}” is no address or host name.`
    : null;

/** A host key as `ssh-keygen -l` prints it (`SHA256:…`), as it is kept: without its name and padding; null = it is none. */
export const keyAsKept = (text: string): string | null =>
  /^SHA256:([A-Za-z0-9+/]{43})=?$/.exec(text.trim())?.[1] ?? null;

/** Reads a switch list; every finding names its line and column. */
export function readSwitchList(
  csv: string,
  models: readonly SwitchModel[],
  accounts: readonly string[],
): { readonly rows: SwitchLine[]; readonly findings: Finding[] } {
  const parsed = Papa.parse<Record<string, string>>(csv.trim(), {
    header: true,
    skipEmptyLines: true,
    transformHeader: (h) => h.trim().toLowerCase(),
    transform: (v) => v.trim(),
  });
  const have = parsed.meta.fields ?? [];
  const missing = SWITCH_COLUMNS.slice(0, OPTIONAL_FROM).filter((c) => !have.includes(c));
  const strange = have.filter((c) => !(SWITCH_COLUMNS as readonly string[]).includes(c));
  if (missing.length > 0 || strange.length > 0)
    return {
      rows: [],
      findings: [
        problem(
          'csv-columns',
          '/csv',
          `Line 1: ${missing.length > 0 ? `column ${missing.join(', ')} is missing` : `column ${strange.join(', ')} is not known`}.`,
          `The columns are ${SWITCH_COLUMNS.join(',')}; those after address may be left out.`,
        ),
      ],
    };
  const findings: Finding[] = [];
  const seen = new Map<string, number>();
  const rows = parsed.data.map((r, i): SwitchLine => {
    const line = i + 2;
    const say = (column: string, message: string, cure: string): void =>
      void findings.push(problem('csv-line', `/csv/${line}/${column}`, `Line ${line}, ${column}: ${message}`, cure));
    const row = {
      serial: r['serial'] ?? '',
      model: r['model'] ?? '',
      address: r['address'] ?? '',
      port: Number(r['port'] || 22),
      location: r['location'] ?? '',
      account: r['account'] || null,
      host_key: r['hostkey'] ? keyAsKept(r['hostkey']) : null,
    };
    if (!serialText.isValidSync(row.serial))
      say('serial', `“${row.serial}” cannot be a serial.`, 'Use 3–40 letters, digits, dots and hyphens.');
    const twin = seen.get(row.serial);
    if (twin !== undefined)
      say('serial', `${row.serial} stands on line ${twin} already.`, 'Keep one of the two lines.');
    seen.set(row.serial, line);
    if (!models.some((m) => m.name === row.model))
      say('model', `there is no model “${row.model}”.`, `Known are ${models.map((m) => m.name).join(', ')}.`);
    const trouble = addressTrouble(row.address);
    if (trouble) say('address', trouble, 'Write the management address.');
    if (row.account !== null && !accounts.includes(row.account))
      say(
        'account',
        `there is no switch account “${row.account}”.`,
        accounts.length === 0
          ? 'Put one first, or leave the column empty.'
          : `Known are ${accounts.join(', ')}; empty takes the one whose range fits.`,
      );
    if (r['hostkey'] && row.host_key === null)
      say(
        'hostkey',
        `“${r['hostkey'].slice(0, 60)}” is no host key.`,
        'Write SHA256: and 43 characters, as ssh-keygen -l prints it, or leave it empty.',
      );
    if (!Number.isInteger(row.port) || row.port < 1 || row.port > 65535)
      say('port', `“${r['port']}” is no TCP port.`, 'Use 1–65535, or leave it empty for 22.');
    return row;
  });
  if (rows.length === 0)
    findings.push(problem('csv-line', '/csv', 'The list has no line below its heading.', 'Add one line a switch.'));
  return { rows, findings };
}
