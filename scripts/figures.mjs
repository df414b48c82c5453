// npm run figures: measures; docs/figures.md says what.
//   npm run figures -- [core|server|web|reading] [--write]     all parts without a word; --write puts them into docs/figures.md
import { spawnSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { built } from './built.mjs';
import { coreFigures } from './figures/core.mjs';
import { ready, root } from './ready.mjs';

const args = process.argv.slice(2);
const PARTS = ['core', 'server', 'web', 'reading'];
const wanted = PARTS.filter((part) => args.includes(part));
const parts = wanted.length > 0 ? wanted : PARTS;
await ready();

/** Measured on the server as built, and its services as they lie in the source. */
function serverFigures(part) {
  built();
  const done = spawnSync(
    process.execPath,
    ['--expose-gc', '--import', 'tsx', join(root, `packages/server/src/testing/figures/${part}Figures.ts`)],
    { encoding: 'utf8', stdio: ['ignore', 'pipe', 'inherit'], cwd: root, maxBuffer: 1 << 26 },
  );
  if (done.status !== 0) process.exit(1);
  return JSON.parse(done.stdout).map(([what, value, aim]) => `| ${what} | ${value} | ${aim} |`);
}

for (const part of parts) {
  const lines =
    part === 'core' ? await coreFigures() : ['| | measured | aim |', '| --- | ---: | ---: |', ...serverFigures(part)];
  process.stdout.write(`${lines.join('\n')}\n`);
  if (!args.includes('--write')) continue;
  const path = join(root, 'docs/figures.md');
  const region = new RegExp(`<!-- ${part} -->[\\s\\S]*<!-- end ${part} -->`);
  writeFileSync(
    path,
    readFileSync(path, 'utf8').replace(region, () => `<!-- ${part} -->\n\n${lines.join('\n')}\n\n<!-- end ${part} -->`),
  );
}
