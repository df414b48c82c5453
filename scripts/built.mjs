// Builds when a source file is newer than the last build; says so, since it takes a while.
import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root, run } from './ready.mjs';

function* files(folder) {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    if (entry.name === 'node_modules' || entry.name === 'dist') continue;
    const path = join(folder, entry.name);
    if (entry.isDirectory()) yield* files(path);
    else yield path;
  }
}

export function built({ say = (text) => process.stdout.write(`${text}\n`) } = {}) {
  const hash = createHash('sha256').update(readFileSync(join(root, 'package-lock.json')));
  for (const path of [...files(join(root, 'packages')), join(root, 'scripts/build.mjs')].sort()) {
    const s = statSync(path);
    hash.update(`${path}:${s.size}:${s.mtimeMs}\n`);
  }
  const stamp = hash.digest('hex');
  const stampPath = join(root, 'dist/.stamp');
  if (existsSync(stampPath) && readFileSync(stampPath, 'utf8') === stamp) return;
  say('Building …');
  const status = run(process.execPath, [join(root, 'scripts/build.mjs')]);
  if (status !== 0) process.exit(status);
  writeFileSync(stampPath, stamp);
}
