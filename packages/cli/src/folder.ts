import { ALL_DIALECTS, readSwitchFolder, type SwitchFolder } from '@anthemion/core';
import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';

/** The files that a folder of switches is read from, by their path below it. */
function textsOf(dir: string): Map<string, string> {
  const texts = new Map<string, string>();
  const take = (path: string): void => {
    if (existsSync(join(dir, path))) texts.set(path, readFileSync(join(dir, path), 'utf8'));
  };
  for (const entry of readdirSync(dir, { withFileTypes: true }))
    if (entry.isDirectory())
      for (const d of ALL_DIALECTS.flatMap((x) => [...x.documents.map((k) => k.name), ...x.reads]))
        take(`${entry.name}/${d}`);
  for (const list of ['links.csv', 'hosts.csv']) take(list);
  return texts;
}

/** A folder of switches as `compile` writes it, or of anybody’s; a string says why it cannot be read. */
export function folderIn(dir: string): SwitchFolder | string {
  if (!existsSync(dir) || !statSync(dir).isDirectory()) return `there is no folder ${dir}`;
  const folder = readSwitchFolder(textsOf(dir));
  if (typeof folder !== 'string') return folder;
  return folder.startsWith('holds ') ? `${dir} ${folder}` : join(dir, folder);
}
