// Builds everything the demo runs into dist/: server, worker, bench, and the interface.
import { build } from 'esbuild';
import { chmodSync, cpSync, existsSync, mkdirSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { build as viteBuild } from 'vite';
import { root } from './ready.mjs';

// Who builds may be a test: what is built is what people run all the same.
process.env.NODE_ENV = 'production';
const dist = join(root, 'dist');
mkdirSync(dist, { recursive: true });
// What npm put beside one package only, because another version lies above, would not be found from dist/: it is bundled.
const external = readdirSync(join(root, 'packages'))
  .flatMap((p) =>
    Object.keys(JSON.parse(readFileSync(join(root, 'packages', p, 'package.json'), 'utf8')).dependencies ?? {}).filter(
      (d) => !existsSync(join(root, 'packages', p, 'node_modules', d)),
    ),
  )
  .filter((d) => !d.startsWith('@anthemion/'));
await build({
  entryPoints: {
    server: join(root, 'packages/server/src/main.ts'),
    keep: join(root, 'packages/server/src/commands/main.ts'),
    'compile.worker': join(root, 'packages/server/src/workers/compile.worker.ts'),
    bench: join(root, 'packages/bench/src/main.ts'),
    rehearsal: join(root, 'packages/rehearsal/src/child.ts'),
  },
  outdir: dist,
  bundle: true,
  platform: 'node',
  format: 'esm',
  target: 'node20',
  sourcemap: true,
  external: [...new Set(external)],
  logLevel: 'warning',
});
cpSync(join(root, 'packages/server/helper/anthemion-apply'), join(dist, 'anthemion-apply'));
cpSync(join(root, 'packages/bench/stubs'), join(dist, 'stubs'), { recursive: true });
for (const f of readdirSync(join(dist, 'stubs'))) chmodSync(join(dist, 'stubs', f), 0o755);
await viteBuild({
  root: join(root, 'packages/web'),
  logLevel: 'warn',
  build: { outDir: join(dist, 'web'), emptyOutDir: true },
});
