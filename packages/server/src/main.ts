import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { startServer } from './server.ts';
import { FolderTaken } from './store/database.ts';
import { KeyTrouble } from './store/secrets.ts';

/**
 * Starts the server from its environment: ANTHEMION_DATA (folder), ANTHEMION_PORT, ANTHEMION_WEB (built interface),
 * ANTHEMION_BENCH (folder of a running bench), ANTHEMION_DEMO=1 (demo accounts and data), ANTHEMION_LOG (level).
 */
const env = process.env;
const benchFolder = env['ANTHEMION_BENCH'];
const benchFile = benchFolder === undefined ? undefined : join(benchFolder, 'bench.json');
const bench =
  benchFolder !== undefined && benchFile !== undefined && existsSync(benchFile)
    ? {
        url: (JSON.parse(readFileSync(benchFile, 'utf8')) as { controlUrl: string }).controlUrl,
        token: readFileSync(join(benchFolder, 'token'), 'utf8'),
        folder: benchFolder,
      }
    : undefined;

/** What a person can do something about, in one line; anything else is a fault of ours. */
function inOneLine(error: unknown): string | null {
  if (error instanceof FolderTaken || error instanceof KeyTrouble) return error.message;
  if ((error as NodeJS.ErrnoException).code === 'EADDRINUSE')
    return `Port ${port} is in use. Stop what listens there, or set ANTHEMION_PORT.`;
  return null;
}

const data = env['ANTHEMION_DATA'] ?? '.anthemion';
const port = Number(env['ANTHEMION_PORT'] ?? 4600);
try {
  const server = await startServer({
    data,
    port,
    ...(env['ANTHEMION_WEB'] === undefined ? {} : { web: env['ANTHEMION_WEB'] }),
    ...(bench ? { bench } : {}),
    demo: env['ANTHEMION_DEMO'] === '1',
    ...(env['ANTHEMION_LOG'] === undefined ? {} : { logLevel: env['ANTHEMION_LOG'] }),
    ...(env['ANTHEMION_SIGN_IN_TRIES'] === undefined ? {} : { signInTries: Number(env['ANTHEMION_SIGN_IN_TRIES']) }),
  });
  process.stdout.write(`server ready: ${server.url}\n`);
  for (const signal of ['SIGINT', 'SIGTERM'] as const)
    process.on(signal, () => {
      void server.close().then(() => process.exit(0));
    });
} catch (error) {
  const line = inOneLine(error);
  if (line === null) throw error;
  process.stderr.write(`${line}\n`);
  process.exitCode = 1;
}
