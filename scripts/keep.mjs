// npm run backup, restore, rotate-key and reset-password: what is done to a data folder on the machine it lies on.
import { join } from 'node:path';
import { built } from './built.mjs';
import { ready, root, run } from './ready.mjs';

await ready({ quiet: true });
built({ say: () => undefined });
process.exitCode = run(
  process.execPath,
  ['--enable-source-maps', join(root, 'dist/keep.js'), ...process.argv.slice(2)],
  { cwd: process.env.INIT_CWD ?? process.cwd() },
);
