import { existsSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { startServer, type ServerOptions } from './server.ts';
import { readSettings } from './settings/settings.ts';
import { StartTrouble } from './trouble.ts';

/**
 * Starts the server by its settings (settings/settings.ts). Besides, for the demo: ANTHEMION_BENCH (folder of a running bench)
 * and ANTHEMION_DEMO=1 (demo accounts and data). The built interface lies beside this file.
 */
const env = process.env;

function benchOf(folder: string | undefined): ServerOptions['bench'] {
  const file = folder === undefined ? '' : join(folder, 'bench.json');
  if (folder === undefined || !existsSync(file)) return undefined;
  return {
    url: (JSON.parse(readFileSync(file, 'utf8')) as { controlUrl: string }).controlUrl,
    token: readFileSync(join(folder, 'token'), 'utf8'),
    folder,
  };
}

/** What a person can do something about, in one line; anything else is a fault of ours. */
function inOneLine(error: unknown): string | null {
  if (error instanceof StartTrouble) return error.message;
  const { code, port, address } = error as NodeJS.ErrnoException & { port?: number; address?: string };
  if (code === 'EADDRINUSE') return `Port ${port} is in use. Stop what listens there, or set ANTHEMION_PORT.`;
  if (code === 'EACCES' && port !== undefined)
    return `Port ${port} takes rights this account does not have. Set a port above 1023, or give it CAP_NET_BIND_SERVICE.`;
  if (code === 'EADDRNOTAVAIL')
    return `This machine has no address ${address}. Set ANTHEMION_LISTEN to one of its own.`;
  return null;
}

try {
  const settings = readSettings(env);
  const bench = benchOf(env['ANTHEMION_BENCH']);
  const server = await startServer({
    ...settings,
    web: join(dirname(fileURLToPath(import.meta.url)), 'web'),
    ...(bench ? { bench } : {}),
    demo: env['ANTHEMION_DEMO'] === '1',
  });
  // Before it says that it is ready: whoever waits for that word may end it at once.
  let stopping = false;
  for (const signal of ['SIGINT', 'SIGTERM'] as const)
    process.on(signal, () => {
      if (stopping) process.exit(1);
      stopping = true;
      void server.close().then(() => process.exit(0));
    });
  process.on('SIGHUP', () => server.readCertificate());
  if (server.firstCode !== null)
    process.stdout.write(
      `There is no account yet. Make the first one in a browser with the code  ${server.firstCode}\n`,
    );
  process.stdout.write(`server ready: ${server.url}\n`);
} catch (error) {
  const line = inOneLine(error);
  if (line === null) throw error;
  process.stderr.write(`${line}\n`);
  process.exitCode = 1;
}
