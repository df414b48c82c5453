import { fileURLToPath } from 'node:url';

/** Programs that the server starts as a thread or process of its own, and where they are written. */
const SOURCES = {
  'compile.worker': './workers/compile.worker.ts',
  rehearsal: '../../rehearsal/src/child.ts',
} as const;

/**
 * A program as it is built, beside the server; as it is written, where the server runs so. Reading all of it takes seconds
 * then: tests bundle it once and say where (`testing/bundled.ts`).
 * @returns its file, and what Node is told to run it
 */
export function programOf(name: keyof typeof SOURCES): { readonly file: string; readonly execArgv: readonly string[] } {
  const bundled = process.env['ANTHEMION_BUNDLED'];
  if (!import.meta.url.endsWith('.ts')) return { file: beside(`./${name}.js`), execArgv: [] };
  return bundled === undefined
    ? { file: beside(SOURCES[name]), execArgv: ['--import', 'tsx'] }
    : { file: `${bundled}/${name}.js`, execArgv: [] };
}
const beside = (path: string): string => fileURLToPath(new URL(path, import.meta.url));
