// The programs of the server as one file each: what the demo runs, and what tests start as a process or thread of its own.
import { build } from 'esbuild';
import { chmodSync, cpSync, existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from './ready.mjs';

const PROGRAMS = {
  server: 'server/src/main.ts',
  keep: 'server/src/commands/main.ts',
  'compile.worker': 'server/src/workers/compile.worker.ts',
  bench: 'bench/src/main.ts',
  rehearsal: 'rehearsal/src/child.ts',
};

/** Bundles the programs, with what they need beside them, into a folder below the project, where their packages are found. */
export async function bundle(outdir) {
  // What npm put beside one package only, because another version lies above, would not be found there: it is bundled.
  const external = readdirSync(join(root, 'packages'))
    .flatMap((p) =>
      Object.keys(
        JSON.parse(readFileSync(join(root, 'packages', p, 'package.json'), 'utf8')).dependencies ?? {},
      ).filter((d) => !existsSync(join(root, 'packages', p, 'node_modules', d))),
    )
    .filter((d) => !d.startsWith('@anthemion/'));
  await build({
    entryPoints: Object.fromEntries(Object.entries(PROGRAMS).map(([n, p]) => [n, join(root, 'packages', p)])),
    outdir,
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    sourcemap: true,
    external: [...new Set(external)],
    logLevel: 'warning',
  });
  cpSync(join(root, 'packages/server/helper/anthemion-apply'), join(outdir, 'anthemion-apply'));
  cpSync(join(root, 'packages/bench/stubs'), join(outdir, 'stubs'), { recursive: true });
  for (const f of readdirSync(join(outdir, 'stubs'))) chmodSync(join(outdir, 'stubs', f), 0o755);
}
