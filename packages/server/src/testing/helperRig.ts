import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  chmodSync,
  copyFileSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const HELPER = fileURLToPath(new URL('../../helper/anthemion-apply', import.meta.url));
export const OLD = { interfaces: 'old interfaces\n', 'frr.conf': 'old frr\n' };
export const newText = (id: string) => ({ interfaces: `new interfaces ${id}\n`, 'frr.conf': `new frr ${id}\n` });
type Files = typeof OLD;
/** A document beside the two, which is not on the switch before. */
export const MORE = { name: 'limits.conf', path: '/etc/more.d/90-limits.conf', comment: '#' } as const;

/** In no text. */
const NO_TEXT = '\u0001';
const sleep = (ms: number): Promise<void> => new Promise((done) => setTimeout(done, ms));

export interface RigOptions {
  /** Folder that holds the switch's file system instead of a fresh one. */
  readonly root?: string;
  /** Folder put before all others in the search path. */
  readonly shims?: string;
}

/**
 * A switch in a folder: the real helper, text that runs, and commands that load it. What runs is noted apart from the
 * switch's disk, so that a full disk does not change it.
 */
export class HelperRig {
  readonly folder: string;
  readonly root: string;
  readonly home: string;
  private readonly options: RigOptions;
  constructor(options: RigOptions = {}) {
    this.options = options;
    this.folder = mkdtempSync(join(tmpdir(), 'helper-'));
    this.root = options.root ?? join(this.folder, 'root');
    this.home = join(this.root, 'var/lib/anthemion');
    for (const dir of ['etc/network', 'etc/frr', 'var/lib/anthemion'])
      mkdirSync(join(this.root, dir), { recursive: true });
    for (const dir of ['bin', 'running']) mkdirSync(join(this.folder, dir), { recursive: true });
    copyFileSync(HELPER, join(this.home, 'anthemion-apply'));
    for (const [file, path] of this.paths()) {
      writeFileSync(path, OLD[file]);
      writeFileSync(join(this.folder, 'running', file), OLD[file]);
    }
    this.loads({});
    for (const name of ['ifup', 'vtysh']) this.command(name, 'exit 0');
    // Loading takes as long, and fails as often, as the files beside it say; what was loaded runs from then on.
    const load = (file: string, path: string): string => `
case $(cat "${path}") in *"$(cat "${this.folder}/hangs")"*) sleep 600 ;; esac
sleep "$(cat "${this.folder}/seconds")"
left=$(cat "${this.folder}/failures")
if [ "$left" -gt 0 ]; then echo $((left - 1)) > "${this.folder}/failures"; echo "cannot load" >&2; exit 1; fi
case $(cat "${path}") in *"$(cat "${this.folder}/unloadable")"*) echo "never loads" >&2; exit 1 ;; esac
cp "${path}" "${this.folder}/running/.${file}" && mv "${this.folder}/running/.${file}" "${this.folder}/running/${file}"`;
    const [interfaces, frr] = this.paths();
    this.command('ifreload', `echo "ifreload $*" >> "${this.folder}/calls"\n${load(...interfaces!)}`);
    this.command('systemctl', `[ "$1" = reload ] || exit 0\n${load(...frr!)}`);
  }

  private paths(): [keyof Files, string][] {
    return [
      ['interfaces', join(this.root, 'etc/network/interfaces')],
      ['frr.conf', join(this.root, 'etc/frr/frr.conf')],
    ];
  }

  /** How a load goes from now on: seconds of each half, failures to come, texts that never load or that hang. */
  loads({ seconds = 0, failures = 0, unloadable = NO_TEXT, hangs = NO_TEXT }): void {
    writeFileSync(join(this.folder, 'hangs'), hangs);
    writeFileSync(join(this.folder, 'seconds'), String(seconds));
    writeFileSync(join(this.folder, 'failures'), String(failures));
    writeFileSync(join(this.folder, 'unloadable'), unloadable);
  }
  command(name: string, script: string): void {
    const path = join(this.folder, 'bin', name);
    writeFileSync(path, `#!/bin/sh\n${script}\n`);
    chmodSync(path, 0o755);
  }

  get env(): NodeJS.ProcessEnv {
    const shims = this.options.shims === undefined ? '' : `${this.options.shims}:`;
    return {
      PATH: `${shims}${join(this.folder, 'bin')}:${process.env['PATH'] ?? '/usr/bin:/bin'}`,
      ANTHEMION_ROOT: this.root,
      ANTHEMION_PATIENCE: '4',
      ANTHEMION_DRAIN: '0',
    };
  }
  run(...args: string[]): { code: number | null; text: string } {
    const done = spawnSync('/bin/sh', [join(this.home, 'anthemion-apply'), ...args], {
      encoding: 'utf8',
      env: this.env,
    });
    return { code: done.status, text: `${done.stdout}${done.stderr}`.trim() };
  }
  /** Starts a command; its own shell is the process that is answered. */
  start(args: readonly string[], more: NodeJS.ProcessEnv = {}): ChildProcess {
    return spawn('/bin/sh', [join(this.home, 'anthemion-apply'), ...args], {
      env: { ...this.env, ...more },
      stdio: ['ignore', 'pipe', 'pipe'],
    });
  }

  /** Sends text as a driver does; with a list of documents where there is one. */
  send(id: string, files: Readonly<Record<string, string>> = newText(id), documents: string | null = null): void {
    const folder = join(this.home, id);
    mkdirSync(folder, { recursive: true });
    let sums = '';
    for (const [name, text] of Object.entries(documents === null ? files : { ...files, documents })) {
      writeFileSync(join(folder, name), text);
      sums += `${createHash('sha256').update(text).digest('hex')}  ${name}\n`;
    }
    writeFileSync(join(folder, 'sums'), sums);
  }

  /** What runs, and what lies on the disk. */
  running(): Files {
    const read = (file: string): string => readFileSync(join(this.folder, 'running', file), 'utf8');
    return { interfaces: read('interfaces'), 'frr.conf': read('frr.conf') };
  }
  disk(): Files {
    const [interfaces, frr] = this.paths().map(([, path]) => readFileSync(path, 'utf8'));
    return { interfaces: interfaces!, 'frr.conf': frr! };
  }
  /** The document beside the two, as it lies on the disk; null = it is not there. */
  more(): string | null {
    const path = join(this.root, MORE.path);
    return existsSync(path) ? readFileSync(path, 'utf8') : null;
  }
  /** Somebody else writes it. */
  putMore(text: string): void {
    const path = join(this.root, MORE.path);
    mkdirSync(dirname(path), { recursive: true });
    writeFileSync(path, text);
  }
  state(): string {
    const path = join(this.home, 'state');
    return existsSync(path) ? readFileSync(path, 'utf8').split(' ').slice(0, 2).join(' ') : 'none -';
  }
  log(): string {
    return readFileSync(join(this.home, 'log'), 'utf8');
  }

  /** Waits until the last apply is settled; answers its state. Asks for the status now and then, as a server would. */
  async settled(limitMs = 240_000): Promise<string> {
    const until = performance.now() + limitMs;
    for (let asked = performance.now(); ;) {
      const state = this.state();
      if (!/^(loading|pending|undoing|stuck)/.test(state) || performance.now() > until) return state;
      await sleep(100);
      if (performance.now() - asked > 3000) {
        asked = performance.now();
        this.run('status');
      }
    }
  }

  close(): void {
    // Whoever still minds the folder is ended; one that had just begun may write into it once more.
    for (let tries = 1; ; tries++) {
      spawnSync('pkill', ['-9', '-f', join(this.home, 'anthemion-apply')]);
      try {
        rmSync(this.folder, { recursive: true, force: true });
        return;
      } catch (error) {
        if (tries === 50) throw error;
        Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 100);
      }
    }
  }
}
