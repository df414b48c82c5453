// Brings a fresh clone to the point where everything can run: npm packages, and the SQLite binding.
// Plain Node, no package of ours or others, since nothing is installed when it starts.
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { copyFileSync, existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { homedir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = dirname(dirname(fileURLToPath(import.meta.url)));

export function run(command, args, options = {}) {
  const done = spawnSync(command, args, { cwd: root, stdio: 'inherit', ...options });
  if (done.error) throw done.error;
  return done.status ?? 1;
}

function must(command, args, options) {
  const status = run(command, args, options);
  if (status !== 0) {
    process.stderr.write(`\n${command} ${args.join(' ')} ended with ${status}.\n`);
    process.exit(status);
  }
}

const bindingPath = () => join(root, 'node_modules/better-sqlite3/build/Release/better_sqlite3.node');

function bindingLoads() {
  if (!existsSync(bindingPath())) return false;
  try {
    const Database = createRequire(join(root, 'package.json'))('better-sqlite3');
    new Database(':memory:').close();
    return true;
  } catch {
    return false;
  }
}

/** Puts the compiled SQLite binding in place: from the person's cache, else built once and cached. */
function readyBinding(say) {
  if (bindingLoads()) return;
  const version = JSON.parse(readFileSync(join(root, 'node_modules/better-sqlite3/package.json'), 'utf8')).version;
  const cached = join(
    process.env.XDG_CACHE_HOME ?? join(homedir(), '.cache'),
    'anthemion',
    `better_sqlite3-${version}-${process.version}-${process.platform}-${process.arch}.node`,
  );
  if (existsSync(cached)) {
    mkdirSync(dirname(bindingPath()), { recursive: true });
    copyFileSync(cached, bindingPath());
    if (bindingLoads()) return;
  }
  say('Preparing SQLite (compiled once, two to three minutes where no ready-made file can be had) …');
  must('npm', ['rebuild', 'better-sqlite3', '--ignore-scripts=false', '--no-audit', '--no-fund', '--loglevel=error'], {
    stdio: ['ignore', process.stderr, 'inherit'],
  });
  try {
    mkdirSync(dirname(cached), { recursive: true });
    copyFileSync(bindingPath(), cached);
  } catch (error) {
    say(`(could not keep the compiled file for next time: ${error.message})`);
  }
}

/** Installs what is missing; a stamp makes the second call instant. */
export async function ready({ quiet = false } = {}) {
  const say = (text) => quiet || process.stdout.write(`${text}\n`);
  const stampPath = join(root, 'node_modules/.anthemion-ready');
  const stamp = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .update(process.version)
    .digest('hex');
  if (existsSync(stampPath) && readFileSync(stampPath, 'utf8') === stamp) return;
  say('Installing npm packages …');
  must('npm', ['ci', '--ignore-scripts', '--no-audit', '--no-fund', '--loglevel=error'], {
    stdio: ['ignore', process.stderr, 'inherit'],
  });
  readyBinding(say);
  writeFileSync(stampPath, stamp);
}
