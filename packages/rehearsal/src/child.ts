import { linux, type Cable, type ConfigFiles, type HostPort } from '@anthemion/core';
import { findPrograms } from './programs.ts';
import { rehearse } from './rehearse.ts';
import { runsElsewhere } from './safeWords.ts';

/**
 * Holds a rehearsal for another program: what is to run comes in as JSON; a line of JSON goes out for each step, and one
 * at the end. Only programs that are here already are used.
 */
interface ToRun {
  readonly files: Readonly<Record<string, ConfigFiles>>;
  readonly cables: readonly Cable[];
  readonly hosts: readonly HostPort[];
}
const say = (line: object): void => void process.stdout.write(`${JSON.stringify(line)}\n`);

let text = '';
for await (const part of process.stdin) text += String(part);
const { files, cables, hosts } = JSON.parse(text) as ToRun;
const programs = findPrograms({ fetch: false });
if (typeof programs === 'string') say({ not: programs });
else {
  const own = new Map(Object.entries(files));
  const switches = [...own].map(([host, f]) => ({ host, ...linux.parse(f) }));
  const folder = { files: own, switches, cables, hosts };
  const elsewhere = runsElsewhere(folder);
  try {
    if (elsewhere !== null) say({ not: elsewhere });
    else say({ held: await rehearse(folder, programs, { tell: (step) => say({ step }) }) });
  } catch (error) {
    say({ not: error instanceof Error ? error.message : String(error) });
  }
}
