// npm start: installs and builds what is missing, then runs the server by its settings (docs/operations.md).
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { built } from './built.mjs';
import { ready, root } from './ready.mjs';

await ready();
built();
const server = spawn(process.execPath, ['--enable-source-maps', join(root, 'dist/server.js')], {
  env: { ...process.env, NODE_ENV: 'production' },
  stdio: 'inherit',
});
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => server.kill(signal));
server.once('exit', (code) => process.exit(code ?? 1));
