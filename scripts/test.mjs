// npm test: installs what tests need, then types, lint, import rule, unit and API tests, build, chaos, end-to-end tests.
// Ends with a line "N passed, N failed" over all test cases.
import { spawn, spawnSync } from 'node:child_process';
import { closeSync, existsSync, mkdtempSync, openSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { built } from './built.mjs';
import { ready, root, run } from './ready.mjs';

const say = (text) => process.stdout.write(`\n── ${text}\n`);
const isRoot = process.getuid?.() === 0;

/** Installs a Debian package where it is missing and that is possible; answers whether its program is there. */
function debian(program, name, what) {
  if (existsSync(program)) return true;
  if (!isRoot || spawnSync('which', ['apt-get']).status !== 0) {
    process.stdout.write(`${program} is missing: install Debian's ${name} to have ${what}.\n`);
    return false;
  }
  say(`Installing Debian's ${name}`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  const apt = (args) =>
    run('apt-get', ['-o', 'DPkg::Lock::Timeout=300', '-qq', ...args], { env, stdio: ['ignore', 'ignore', 'inherit'] });
  apt(['update']);
  apt(['install', '-y', '--no-install-recommends', name]);
  if (!existsSync(program)) process.stdout.write(`${name} could not be installed; without it there is no ${what}.\n`);
  return existsSync(program);
}

await ready();
const chromium = debian('/usr/bin/chromium', 'chromium', 'end-to-end tests');
debian('/usr/bin/vtysh', 'frr', "check of the rendered text by FRR's own parser");

let passed = 0;
let failed = 0;
const bin = (name) => join(root, 'node_modules/.bin', name);

/** One check that passes or fails as a whole. */
function check(what, command, args) {
  say(what);
  if (run(command, args) === 0) passed++;
  else failed++;
}

/** Where a run of vitest writes its report, and how it is called. */
function suiteOf(args) {
  const folder = mkdtempSync(join(tmpdir(), 'anthemion-test-'));
  const report = join(folder, 'report.json');
  const all = ['run', ...args, '--reporter=default', '--reporter=json', `--outputFile.json=${report}`];
  return { folder, report, all };
}
/** Counts the cases of a run from its report. */
function counted({ folder, report }, status) {
  if (existsSync(report)) {
    const { numPassedTests, numFailedTests } = JSON.parse(readFileSync(report, 'utf8'));
    passed += numPassedTests;
    failed += numFailedTests;
    if (status !== 0 && numFailedTests === 0) failed++;
  } else failed++;
  rmSync(folder, { recursive: true, force: true });
}
/** A run of vitest; its cases are counted from its report. */
function suite(what, args) {
  say(what);
  const of = suiteOf(args);
  counted(of, run(bin('vitest'), of.all));
}
/** The same beside what follows, for what mostly waits; ended, it shows what it said. */
function beside(what, args) {
  const of = suiteOf(args);
  const said = join(of.folder, 'said');
  const out = openSync(said, 'w');
  const child = spawn(bin('vitest'), of.all, { cwd: root, stdio: ['ignore', out, out] });
  const status = new Promise((done) => child.once('close', (code) => done(code ?? 1)));
  return async () => {
    const code = await status;
    closeSync(out);
    say(what);
    process.stdout.write(readFileSync(said, 'utf8'));
    counted(of, code);
  };
}

const killed = beside('The apply helper, killed at every step', ['helper/killed']);
check('Types', bin('tsc'), ['-p', 'tsconfig.json']);
check('Lint', bin('eslint'), ['.', '--max-warnings', '0']);
check('Format', bin('prettier'), ['--check', '--log-level', 'warn', '.']);
check('Who may import whom', bin('depcruise'), ['--config', '.dependency-cruiser.cjs', 'packages']);
await killed();
suite('Switch texts on real daemons', ['--config', 'vitest.rehearsal.config.ts']);
suite('Unit and API tests', ['--exclude', '**/killed.test.ts']);
built();
suite('Chaos: ten kills', ['--config', 'vitest.chaos.config.ts']);
if (chromium) suite('End-to-end tests in Chromium', ['--config', 'e2e/vitest.config.ts']);
else failed++;

process.stdout.write(`\n${passed} passed, ${failed} failed\n`);
process.exitCode = failed > 0 ? 1 : 0;
