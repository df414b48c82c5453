// Builds everything the demo runs into dist/: server, worker, bench, and the interface.
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { build as viteBuild } from 'vite';
import { bundle } from './bundle.mjs';
import { root } from './ready.mjs';

// Who builds may be a test: what is built is what people run all the same.
process.env.NODE_ENV = 'production';
const dist = join(root, 'dist');
mkdirSync(dist, { recursive: true });
await bundle(dist);
await viteBuild({
  root: join(root, 'packages/web'),
  logLevel: 'warn',
  build: { outDir: join(dist, 'web'), emptyOutDir: true },
});
