// npm test: installs what tests need; real daemons, beside them checks, unit and API tests; then build, chaos, end-to-end tests.
// Ends with a line "N passed, N failed" over all test cases.
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { constants, setPriority, tmpdir } from 'node:os';
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
// Without a window it is smaller, and takes less of the machine; either will do.
const chromium =
  debian('/usr/bin/chromium-headless-shell', 'chromium-headless-shell', 'end-to-end tests at their fastest') ||
  debian('/usr/bin/chromium', 'chromium', 'end-to-end tests');
debian('/usr/bin/vtysh', 'frr', "check of the rendered text by FRR's own parser");

let passed = 0;
let failed = 0;
const bin = (name) => join(root, 'node_modules/.bin', name);

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

/** Runs a command beside what follows; ended, it answers its status and what it said. */
function quietly(command, args, priority) {
  const child = spawn(command, args, { cwd: root, stdio: ['ignore', 'pipe', 'pipe'] });
  setPriority(child.pid, priority);
  let said = '';
  for (const stream of [child.stdout, child.stderr])
    stream.setEncoding('utf8').on('data', (text) => {
      said += text;
    });
  return new Promise((done) => child.once('close', (code) => done({ status: code ?? 1, said })));
}
/** A run of vitest beside others; shown whole once it has ended. */
async function suiteBeside(what, args, priority = constants.priority.PRIORITY_NORMAL) {
  const of = suiteOf(args);
  const { status, said } = await quietly(bin('vitest'), of.all, priority);
  say(what);
  process.stdout.write(said);
  counted(of, status);
}
/** Checks beside others, one after another. Each passes or fails as a whole. */
async function checksBeside(checks) {
  for (const [what, command, ...args] of checks) {
    const { status, said } = await quietly(command, args, LEAVES_TIME);
    say(what);
    process.stdout.write(said);
    if (status === 0) passed++;
    else failed++;
  }
}

// Daemons and the helper mostly wait for one another; what computes takes the time that they leave, and all of it after them.
const LEAVES_TIME = constants.priority.PRIORITY_BELOW_NORMAL;
await Promise.all([
  suiteBeside('The apply helper, killed at every step', ['helper/killed']),
  suiteBeside('Switch texts on real daemons', ['--config', 'vitest.rehearsal.config.ts']),
  checksBeside([
    ['Types and lint', process.execPath, '--max-old-space-size=4096', join(root, 'scripts/checks.mjs')],
    ['Format', bin('prettier'), '--check', '--log-level', 'warn', '.'],
    ['Who may import whom', bin('depcruise'), '--config', '.dependency-cruiser.cjs', 'packages'],
  ]),
  suiteBeside('Unit and API tests', ['--exclude', '**/killed.test.ts'], LEAVES_TIME),
]);
built();
suite('Chaos: ten kills', ['--config', 'vitest.chaos.config.ts']);
if (chromium) suite('End-to-end tests in Chromium', ['--config', 'e2e/vitest.config.ts']);
else failed++;

process.stdout.write(`\n${passed} passed, ${failed} failed\n`);
process.exitCode = failed > 0 ? 1 : 0;
