import type { Finding } from '@anthemion/core';

export const USAGE = `anthemion compile INTENT.yaml --out DIR   write every switch's files, links.csv, hosts.csv and values.csv
anthemion read DIR [--json]               read such a folder back and judge it
anthemion ask DIR routes SWITCH [in VRF] [to ADDRESS] [--json]   its routes, with paths and the lines that make them
anthemion ask DIR reach SERVER SERVER [tcp PORT|udp PORT]  whether one reaches the other, hop by hop, or which line stops it
anthemion ask DIR hears ADDRESS|PREFIX|vni NUMBER   who has a route there, or carries the VNI and hears whom
anthemion ask DIR evpn SWITCH [type 1|2|3|4|5]          routes of EVPN it holds, and what becomes of each
anthemion ask DIR differs OTHER           what the switches of another folder would answer otherwise
anthemion table INTENT.yaml KIND          print racks, seats, vrfs, networks or ports as CSV
anthemion table INTENT.yaml KIND --take CSV [--out FILE]   take such a CSV into the intent, all of it or nothing
anthemion schema                          print the JSON Schema of the intent file

Exit: 0 clean, 1 findings (of ask: it does not arrive, or is not certain), 2 input that cannot be read.
`;

/** Says why input could not be used; the exit code for it. */
export function refuse(message: string): 2 {
  process.stderr.write(`anthemion: ${message}\n`);
  return 2;
}

/** A finding on one or two lines, place first, as compilers write them. */
export function findingText(f: Finding & { readonly line?: number }, file?: string): string {
  const where = f.place
    ? `${f.place.host}/${f.place.file}:${f.place.line}: `
    : file === undefined
      ? ''
      : `${file}${f.line === undefined ? '' : `:${f.line}`}: `;
  const path = f.place || !f.path ? '' : ` (${f.path})`;
  return `${where}${f.severity}: ${f.message}${path} [${f.rule}]\n${f.cure === undefined ? '' : `    ${f.cure}\n`}`;
}

/** Splits `POSITIONAL --flag VALUE --switch`. */
export function readArguments(
  args: readonly string[],
  flags: readonly string[],
  switches: readonly string[],
):
  | { readonly error: string }
  | { readonly words: string[]; readonly values: Record<string, string>; readonly on: Set<string> } {
  const words: string[] = [];
  const values: Record<string, string> = {};
  const on = new Set<string>();
  for (let i = 0; i < args.length; i++) {
    const a = args[i]!;
    if (switches.includes(a)) on.add(a);
    else if (flags.includes(a)) {
      const value = args[++i];
      if (value === undefined) return { error: `${a} wants a value` };
      values[a] = value;
    } else if (a.startsWith('--')) return { error: `there is no option ${a}` };
    else words.push(a);
  }
  return { words, values, on };
}
