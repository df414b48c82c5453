// npm run demo: installs, builds, makes the demo data, starts bench and server, and says where.
import { spawn } from 'node:child_process';
import { mkdirSync, rmSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { built } from './built.mjs';
import { ready, root } from './ready.mjs';

const args = process.argv.slice(2);
const value = (name, fallback) => {
  const i = args.indexOf(name);
  return i < 0 ? fallback : args[i + 1];
};
const known = new Set(['--fresh', '--data', '--port', '--fabrics']);
const strange = args.find((a) => a.startsWith('--') && !known.has(a));
if (strange || args.includes('--help')) {
  process.stdout.write('npm run demo -- [--fresh] [--data DIR] [--port N] [--fabrics skerry,…]\n');
  process.exit(strange ? 2 : 0);
}
const data = resolve(value('--data', join(root, '.anthemion')));
const port = value('--port', '4600');
// Fewer fabrics are fewer switches to stand in for: it counts where they are made.
const fabrics = value('--fabrics', undefined);
if (!/^\d+$/.test(port) || Number(port) > 65535) {
  process.stderr.write(`--port wants a number up to 65535, not “${port}”.\n`);
  process.exit(2);
}

await ready();
built();
if (args.includes('--fresh'))
  for (const part of ['bench', 'server']) rmSync(join(data, part), { recursive: true, force: true });
mkdirSync(data, { recursive: true });

const children = [];
let stopping = false;
function stop(code) {
  if (stopping) return;
  stopping = true;
  for (const child of children) child.kill('SIGTERM');
  setTimeout(() => process.exit(code), 1500).unref();
  process.exitCode = code;
}
/** Starts a part and waits for the line that says it is ready; answers with what it said by then. */
function start(name, file, fileArgs, env) {
  const child = spawn(process.execPath, ['--enable-source-maps', file, ...fileArgs], {
    env: { ...process.env, ...env },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  children.push(child);
  child.once('exit', (code) => {
    if (stopping) return;
    process.stderr.write(`The ${name} ended (${code}).\n`);
    stop(1);
  });
  return new Promise((done) => {
    let out = '';
    child.stdout.on('data', (part) => {
      out += part;
      if (/ready.*\n/.test(out)) done(out);
    });
  });
}
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => stop(0));

await start('bench', join(root, 'dist/bench.js'), [join(data, 'bench'), ...(fabrics ? [fabrics] : [])], {});
const said = await start('server', join(root, 'dist/server.js'), [], {
  NODE_ENV: 'production',
  ANTHEMION_DATA: join(data, 'server'),
  ANTHEMION_PORT: port,
  ANTHEMION_BENCH: join(data, 'bench'),
  ANTHEMION_DEMO: '1',
  // A demo is looked at now: its switches are read more often than a data centre's.
  ANTHEMION_READ_STATE_SECONDS: process.env.ANTHEMION_READ_STATE_SECONDS ?? '5',
});
// Asked for port 0, the system has chosen one that is free.
const at = /server ready: \S+:(\d+)/.exec(said)?.[1] ?? port;
process.stdout.write(`
  Anthemion is at  http://localhost:${at}

  Demo accounts    ines   soundings of the outer bank      designer, operator
                   bo     lighthouse above slack water     approver
                   tamar  buoys north of the narrows       operator, approver
                   olu    tide table on the wall           onlooker

  Data in ${data}; --fresh starts over. Ctrl-C stops.
`);
