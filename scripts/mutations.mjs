// npm run mutations -- FOLDER [--tests FILTER …] [--count N] [--seed S]
// How strong are the tests of a folder? Makes N single-line faults in it, one after another, in a copy of the repository, runs
// the tests, and lists the faults that no test notices. The same seed makes the same faults.
import { spawnSync } from 'node:child_process';
import {
  cpSync,
  existsSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join, relative } from 'node:path';
import { ready, root } from './ready.mjs';

const args = process.argv.slice(2);
const option = (name, otherwise) => {
  const at = args.indexOf(`--${name}`);
  return at < 0 ? otherwise : args[at + 1];
};
const folder = args[0];
if (!folder || folder.startsWith('--')) {
  process.stderr.write('mutations wants a folder, such as packages/core/src/intent\n');
  process.exit(2);
}
const count = Number(option('count', 40));
const seed = Number(option('seed', 1));
// Tests by their place in the package.
const home = folder.split('/').slice(0, 2).join('/');
const filters = option('tests', folder.slice(home.length + 1))
  .split(',')
  .map((place) => join(home, place));
await ready();

/** Small random numbers that are the same for the same seed (mulberry32). */
let state = seed;
function random() {
  state = (state + 0x6d2b79f5) | 0;
  let t = Math.imul(state ^ (state >>> 15), 1 | state);
  t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
  return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
}

/** What a fault is: a word of the code for another one. */
const FAULTS = [
  [/ === /g, ' !== '],
  [/ !== /g, ' === '],
  [/ < /g, ' <= '],
  [/ <= /g, ' < '],
  [/ > /g, ' >= '],
  [/ >= /g, ' > '],
  [/ && /g, ' || '],
  [/ \|\| /g, ' && '],
  [/ \+ 1\b/g, ' + 2'],
  [/ - 1\b/g, ' - 2'],
  [/\btrue\b/g, 'false'],
  [/\bfalse\b/g, 'true'],
  [/\(!(?=\w)/g, '('],
  [/\? (\S[^:?]*) : (\S.*)$/g, '? $2 : $1'],
];
const isCode = (line) => !/^\s*(\/\/|\/?\*|import |export type |type |readonly |export interface )/.test(line);

const sources = (dir) =>
  readdirSync(dir).flatMap((name) => {
    const path = join(dir, name);
    if (statSync(path).isDirectory()) return sources(path);
    return /\.tsx?$/.test(name) && !/\.test\.tsx?$/.test(name) ? [path] : [];
  });

const copy = mkdtempSync(join(tmpdir(), 'mutations-'));
cpSync(join(root, 'packages'), join(copy, 'packages'), { recursive: true, filter: (p) => !p.includes('node_modules') });
for (const name of ['vitest.config.ts', 'package.json', 'tsconfig.json']) cpSync(join(root, name), join(copy, name));
for (const name of ['docs', 'scripts']) cpSync(join(root, name), join(copy, name), { recursive: true });
// A package's own versions of what it uses are its own.
for (const at of ['', ...readdirSync(join(root, 'packages')).map((name) => join('packages', name))])
  if (existsSync(join(root, at, 'node_modules')))
    symlinkSync(join(root, at, 'node_modules'), join(copy, at, 'node_modules'));
const stop = (code) => {
  rmSync(copy, { recursive: true, force: true });
  process.exit(code);
};
process.on('SIGINT', () => stop(130));

const places = sources(join(copy, folder)).flatMap((path) =>
  readFileSync(path, 'utf8')
    .split('\n')
    .flatMap((line, at) =>
      isCode(line)
        ? FAULTS.flatMap(([from, to]) => (line.replace(from, to) === line ? [] : [{ path, at, from, to }]))
        : [],
    ),
);
const passes = () =>
  spawnSync(join(copy, 'node_modules/.bin/vitest'), ['run', ...filters, '--bail', '1', '--reporter', 'dot'], {
    cwd: copy,
    stdio: 'ignore',
    timeout: 600_000,
  }).status === 0;

if (!passes()) {
  process.stderr.write(`the tests of ${filters.join(', ')} fail without a fault\n`);
  stop(1);
}
const survivors = [];
let made = 0;
while (made < count && places.length > 0) {
  const [{ path, at, from, to }] = places.splice(Math.floor(random() * places.length), 1);
  const before = readFileSync(path, 'utf8');
  const lines = before.split('\n');
  const was = lines[at];
  lines[at] = was.replace(from, to);
  writeFileSync(path, lines.join('\n'));
  made++;
  if (passes()) survivors.push(`${relative(copy, path)}:${at + 1}: ${was.trim()}  →  ${lines[at].trim()}`);
  writeFileSync(path, before);
}
process.stdout.write(
  `${made - survivors.length} of ${made} faults in ${folder} noticed (${Math.round((100 * (made - survivors.length)) / made)} %), seed ${seed}\n`,
);
for (const s of survivors) process.stdout.write(`not noticed: ${s}\n`);
stop(0);
