// The headless door: installs what is missing, then runs the command from source.
import { spawnSync } from 'node:child_process';
import { ready, root } from './ready.mjs';

await ready({ quiet: true });
const done = spawnSync(
  process.execPath,
  ['--import', 'tsx', `${root}/packages/cli/src/main.ts`, ...process.argv.slice(2)],
  { stdio: 'inherit' },
);
process.exitCode = done.status ?? 2;
