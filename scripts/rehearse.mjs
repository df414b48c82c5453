// npm run rehearse: runs switch texts on real daemons and compares; see docs/rehearse.md.
import { spawnSync } from 'node:child_process';
import { ready, root } from './ready.mjs';

await ready({ quiet: true });
const done = spawnSync(
  process.execPath,
  ['--import', 'tsx', `${root}/packages/rehearsal/src/main.ts`, ...process.argv.slice(2)],
  { stdio: 'inherit' },
);
process.exitCode = done.status ?? 2;
