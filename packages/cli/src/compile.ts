import {
  cablesOnSwitches,
  compileFabric,
  demandsOf,
  drawValues,
  folderTexts,
  holdingsOf,
  hostsOf,
  judgeFabric,
  judgeNetwork,
  layOut,
  modelFabric,
  placeFindings,
  portsOnSwitches,
  readIntentFile,
  type Finding,
} from '@anthemion/core';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import Papa from 'papaparse';
import { findingText, readArguments, refuse } from './usage.ts';

const csv = (columns: readonly string[], rows: readonly (readonly (string | number)[])[]): string =>
  `${Papa.unparse({ fields: [...columns], data: rows.map((r) => [...r]) }, { newline: '\n' })}\n`;

/** `compile INTENT.yaml --out DIR`: intent file → one folder per switch, links.csv, hosts.csv, values.csv. */
export function compileCommand(args: readonly string[]): number {
  const options = readArguments(args, ['--out'], []);
  if ('error' in options) return refuse(options.error);
  const [file] = options.words;
  const out = options.values['--out'];
  if (file === undefined || out === undefined || options.words.length > 1)
    return refuse('compile wants INTENT.yaml --out DIR');
  if (!existsSync(file)) return refuse(`there is no file ${file}`);
  const read = readIntentFile(readFileSync(file, 'utf8'));
  if ('findings' in read) {
    for (const f of read.findings) process.stderr.write(findingText(f, file));
    return 2;
  }
  const { fabric, pools, ledger } = read.file;
  const layout = layOut(fabric);
  const demands = demandsOf(fabric, layout);
  const owner = { fabric: fabric.name, change: null };
  const drawn = drawValues(demands, pools, holdingsOf(ledger, owner), owner);
  const compiled = compileFabric(fabric, drawn.values, pools);
  const files = new Map(compiled.switches.map((s) => [s.seat.host, s.files]));
  // What lies in the folder speaks of switches: ports are called as they call them.
  const portOf = portsOnSwitches(fabric.models, layout);
  const cables = cablesOnSwitches(compiled.cables, portOf);
  const hosts = hostsOf(fabric, layout, drawn.values).map((h) => ({
    ...h,
    port: portOf({ host: h.switch, port: h.port }),
  }));
  for (const [path, text] of folderTexts({ files, cables, hosts })) {
    mkdirSync(dirname(join(out, path)), { recursive: true });
    writeFileSync(join(out, path), text);
  }
  const held = new Map([...ledger.filter((e) => e.fabric === fabric.name), ...drawn.entries].map((e) => [e.key, e]));
  writeFileSync(
    join(out, 'values.csv'),
    csv(
      ['kind', 'pool', 'value', 'fabric', 'key'],
      demands.flatMap((d) => {
        const value = drawn.values.get(d.key);
        return value === undefined ? [] : [[d.kind, held.get(d.key)?.pool ?? '', value, fabric.name, d.key]];
      }),
    ),
  );
  const byHost = new Map(compiled.switches.map((s) => [s.seat.host, s]));
  const findings: Finding[] = [
    ...drawn.findings,
    ...compiled.switches.flatMap((s) => s.findings),
    ...judgeFabric({ intent: fabric, values: drawn.values, compiled }).findings,
    ...placeFindings(judgeNetwork(modelFabric(compiled)).findings, (host) => byHost.get(host)),
  ];
  for (const f of findings) process.stderr.write(findingText(f));
  for (const seat of compiled.waiting) process.stderr.write(`${seat} waits for values and was not written\n`);
  process.stdout.write(
    `${compiled.switches.length} switches, ${compiled.cables.length} links, ${drawn.values.size} values written to ${out}\n`,
  );
  return findings.length > 0 || compiled.waiting.length > 0 ? 1 : 0;
}
