import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { chmodSync, existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { HelperRig, newText, OLD } from '../testing/helperRig.ts';

const sleep = (ms: number): Promise<void> => new Promise((done) => setTimeout(done, ms));
const ended = (child: ChildProcess): Promise<void> =>
  new Promise((done) =>
    child.exitCode !== null || child.signalCode !== null ? done() : child.once('exit', () => done()),
  );

/** Runs many at once, as many as the machine bears. */
async function atOnce<T>(items: readonly T[], limit: number, work: (item: T) => Promise<void>): Promise<void> {
  const rest = [...items];
  await Promise.all(
    Array.from({ length: limit }, async () => {
      for (let item = rest.shift(); item !== undefined; item = rest.shift()) await work(item);
    }),
  );
}

type Command = 'apply' | 'undo' | 'confirm' | 'boot';

/** Brings a switch to where the command can be given. */
function ready(rig: HelperRig, command: Command, timer: number): string[] {
  rig.send('r1');
  if (command === 'apply') return ['apply', 'r1', String(timer)];
  rig.run('apply', 'r1', String(command === 'boot' ? 3 : timer));
  if (command === 'boot') {
    // A restart: whoever minded it is gone with everything else.
    const minder = Number(readFileSync(join(rig.home, 'r1/minder'), 'utf8').split(' ')[0]);
    process.kill(minder, 'SIGKILL');
  }
  return command === 'boot' ? ['boot'] : [command, 'r1'];
}

/** What must hold once all is settled: the old text runs, or the new one, confirmed; and the state says which. */
async function truth(rig: HelperRig, command: Command, what: string): Promise<void> {
  const state = await rig.settled();
  const runs = rig.running();
  const wanted =
    command === 'confirm' && state === 'confirmed r1'
      ? { state, runs: newText('r1') }
      : { state: 'undone r1', runs: OLD };
  // An apply that was ended before it began has changed nothing.
  if (state === 'none -') expect({ what, runs, disk: rig.disk() }).toEqual({ what, runs: OLD, disk: OLD });
  else expect({ what, state, runs }).toEqual({ what, ...wanted });
}

describe('promise 4: whatever dies, the switch finds its way back, or says exactly how it stands', () => {
  const moment = fc.record({
    command: fc.constantFrom<Command>('apply', 'apply', 'undo', 'confirm', 'boot'),
    how: fc.constantFrom('SIGKILL' as const, 'SIGTERM' as const, 'SIGHUP' as const, 'closed pipe' as const),
    after: fc.integer({ min: 0, max: 900 }),
    seconds: fc.constantFrom(0, 0, 0.3, 0.6, 1),
    failures: fc.constantFrom(0, 0, 0, 1, 2),
  });

  test('at 60 random moments', async () => {
    const seed = Number(process.env['ANTHEMION_SEED'] ?? 20261125);
    const moments = fc.sample(moment, { numRuns: 60, seed });
    await atOnce(
      moments.map((m, i) => ({ ...m, i })),
      12,
      async ({ i, command, how, after, seconds, failures }) => {
        const rig = new HelperRig();
        const args = ready(rig, command, 1);
        rig.loads({ seconds, failures });
        const child = rig.start(args);
        await sleep(after);
        if (how === 'closed pipe') {
          child.stdout!.destroy();
          child.stderr!.destroy();
        } else child.kill(how);
        await ended(child);
        await truth(
          rig,
          command,
          `seed ${seed}, ${i}: ${command} ${how} after ${after} ms, loads ${seconds} s, ${failures} failures`,
        );
        rig.close();
      },
    );
  }, 240_000);
});

describe('promise 4: killed after every single step', () => {
  const folder = mkdtempSync(join(tmpdir(), 'shims-'));
  /** Programs the helper starts; each is a write, a rename or a step of its own. Builtins write beside what one of them renames. */
  const TOOLS =
    'cat chmod chown cmp cp cut date dirname flock grep head ln mkdir mv rm setsid sha256sum sleep sync tail tr wc'.split(
      ' ',
    );
  beforeAll(() => {
    for (const tool of TOOLS) {
      const real = ['/usr/bin', '/bin'].map((d) => join(d, tool)).find((p) => existsSync(p))!;
      // Counts what the command's own session starts; the timer and the loads have sessions of their own.
      writeFileSync(
        join(folder, tool),
        // Without a process of its own: it is called thousands of times.
        `#!/bin/sh
if [ -r "$KILL_TARGET" ]; then
  read -r stat < /proc/$$/stat; stat=\${stat##*) }; stat=\${stat#* * * }
  read -r own < "$KILL_TARGET.sid"
  if [ "\${stat%% *}" = "$own" ]; then
    read -r n < "$KILL_COUNT"; n=$((n + 1)); echo $n > "$KILL_COUNT"
    if [ "$n" = "$KILL_AT" ]; then
      [ "$KILL_WHEN" = before ] || ${real} "$@"
      read -r pid < "$KILL_TARGET"; kill -9 "$pid"
      exit 137
    fi
  fi
fi
exec ${real} "$@"
`,
      );
      chmodSync(join(folder, tool), 0o755);
    }
  });
  afterAll(() => rmSync(folder, { recursive: true, force: true, maxRetries: 20, retryDelay: 100 }));

  /** Runs a command that is killed at its nth step; answers whether it came that far. */
  async function killedAt(command: Command, n: number, when: 'before' | 'after'): Promise<boolean> {
    const rig = new HelperRig({ shims: folder });
    const args = ready(rig, command, 1);
    const target = join(rig.folder, 'target');
    writeFileSync(join(rig.folder, 'count'), '0');
    const child = spawn(
      'setsid',
      [
        '/bin/sh',
        '-c',
        `echo $$ > "${target}.sid"; echo $$ > "${target}"; exec /bin/sh "$0" "$@"`,
        join(rig.home, 'anthemion-apply'),
        ...args,
      ],
      {
        env: {
          ...rig.env,
          KILL_TARGET: target,
          KILL_COUNT: join(rig.folder, 'count'),
          KILL_AT: String(n),
          KILL_WHEN: when,
        },
        stdio: 'ignore',
      },
    );
    await ended(child);
    rmSync(target, { force: true });
    const steps = Number(readFileSync(join(rig.folder, 'count'), 'utf8'));
    if (steps >= n) await truth(rig, command, `${command}, killed ${when} step ${n}`);
    rig.close();
    return steps >= n;
  }

  // How many steps there are varies a little: waiting for the timer to be there takes a few looks.
  test.each<[Command, number]>([
    ['apply', 20],
    ['undo', 8],
    ['confirm', 4],
    ['boot', 5],
  ])('%s (at least %i steps)', async (command, atLeast) => {
    let reached = 0;
    // Ten at a time, until beyond the last step there is nothing to kill.
    for (let from = 1, any = true; any; from += 10) {
      any = false;
      await atOnce(
        Array.from({ length: 10 }, (_, i) => from + i),
        10,
        async (n) => {
          const before = await killedAt(command, n, 'before');
          if (!before) return;
          any = true;
          reached = Math.max(reached, n);
          await killedAt(command, n, 'after');
        },
      );
    }
    expect(reached).toBeGreaterThanOrEqual(atLeast);
  });
});

const mounts =
  process.getuid?.() === 0 &&
  spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=4k', 'tmpfs', mkdtempSync(join(tmpdir(), 'can-'))]).status === 0;
/** A file system of its own takes root, and leave to mount; elsewhere this is not checked, and says so. */
test.skipIf(!mounts)(
  'promise 4: a disk that fills at any moment does not keep the switch from going back',
  async () => {
    await atOnce([0, 40, 80, 120, 160, 200, 260, 320, 400, 500, 700, 1100], 6, async (after) => {
      const root = mkdtempSync(join(tmpdir(), 'full-'));
      expect(spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=400k', 'tmpfs', root]).status).toBe(0);
      mkdirSync(join(root, 'etc'));
      const rig = new HelperRig({ root });
      rig.send('r1');
      const child = rig.start(['apply', 'r1', '1']);
      await sleep(after);
      spawnSync('dd', ['if=/dev/zero', `of=${join(root, 'filler')}`, 'bs=1k', 'count=2000'], { stdio: 'ignore' });
      await ended(child);
      // It is full, and stays so.
      await truth(rig, 'apply', `full after ${after} ms`);
      rig.close();
      spawnSync('umount', ['-l', root]);
      rmSync(root, { recursive: true, force: true, maxRetries: 20, retryDelay: 100 });
    });
  },
);
